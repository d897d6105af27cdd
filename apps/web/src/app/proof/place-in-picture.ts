import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject, input, model, output, signal } from '@angular/core';
import { takeUntilDestroyed, toObservable } from '@angular/core/rxjs-interop';
import { findPlaces, type FoundPlace, type PixelSize, PLACE_KINDS, type PlaceKind, type Preset, type Raster } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { catchError, of, switchMap } from 'rxjs';
import { SampleApi } from '../api/sample';
import { dragging } from '../bench/dragging';
import { type Asked, matchOf, SAME_DATA, unfinished } from '../look/asked';
import { rasterOf } from '../look/raster-of';

/** Size that the whole picture is shown in at most, CSS px. */
const ROOM = { width: 248, height: 220 };
/** How far an arrow key moves the frame, as a share of it. */
const STEP = 0.25;

const NAMES: Record<PlaceKind, string> = {
  busiest: 'Finest detail',
  smoothest: 'Smoothest',
  'most-saturated': 'Strongest colour',
  skin: 'Skin',
};

/** The whole picture, small, with a frame around the place that is judged; the frame is dragged, or put where the picture asks for a look. */
@Component({
  selector: 'rd-place-in-picture',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzButtonModule],
  template: `
    <div class="picture" [style.width.px]="shown()?.width ?? 248" [style.height.px]="shown()?.height ?? 166">
      @if (shown(); as picture) {
        <img [src]="picture.url" [class.stale]="!isThere()" alt="" draggable="false" (pointerdown)="press($event)" />
        @if (frame(); as at) {
          <div
            class="frame"
            role="group"
            tabindex="0"
            aria-label="The place that is judged; arrow keys move it"
            [style.left.%]="100 * at.left"
            [style.top.%]="100 * at.top"
            [style.width.%]="100 * at.width"
            [style.height.%]="100 * at.height"
            (pointerdown)="drag($event)"
            (keydown)="key($event)"
          ></div>
        }
      }
    </div>
    <div class="places" role="group" aria-label="Go to a place">
      @for (place of places(); track place.kind) {
        <button nz-button nzSize="small" type="button" [disabled]="!isThere()" (click)="centre.set(place.at)">{{ place.name }}</button>
      }
    </div>
  `,
  styles: `
    :host {
      display: block;
    }
    .picture {
      position: relative;
      margin: 0 auto;
      background: var(--surround);
      user-select: none;
      touch-action: none;
    }
    img {
      display: block;
      width: 100%;
      height: 100%;
    }
    .frame {
      position: absolute;
      min-width: 8px;
      min-height: 8px;
      border: 2px solid #fff;
      box-shadow:
        0 0 0 1px #000,
        inset 0 0 0 1px #000;
      cursor: move;
    }
    .places {
      display: flex;
      flex-wrap: wrap;
      gap: 6px;
      margin-top: 8px;
    }
  `,
})
export class PlaceInPicture {
  readonly masterId = input.required<string>();
  readonly preset = input.required<Preset>();
  /** What was decided about the picture itself. */
  readonly decided = input.required<string>();
  /** What is judged of the output at a time, px of the output. */
  readonly seen = input.required<PixelSize>();
  readonly centre = model.required<{ x: number; y: number }>();
  /** What was found in the picture that is judged; null: it cannot be shown. */
  readonly placed = output<Record<PlaceKind, FoundPlace | null> | null>();

  private readonly samples = inject(SampleApi);
  protected readonly shown = signal<(PixelSize & { asked: Asked; url: string; output: PixelSize }) | null>(null);
  /** Of the preset only these decide about it. */
  private readonly asked = computed((): Asked => {
    const { size, tone, colour, border, panels, canvas } = this.preset();
    return { what: JSON.stringify([this.masterId(), this.decided(), size, tone, colour, border, panels, canvas]), where: '' };
  });
  /** The picture is the one that is judged; places of another are no places of this one. */
  protected readonly isThere = computed(() => matchOf(this.shown()?.asked, this.asked()) === 'wanted');
  private readonly found = signal<Record<PlaceKind, FoundPlace | null> | null>(null);
  protected readonly places = computed(() => {
    const found = this.found();
    return PLACE_KINDS.flatMap((kind) => (found?.[kind] ? [{ kind, name: NAMES[kind], at: found[kind] }] : []));
  });
  protected readonly frame = computed(() => {
    const picture = this.shown();
    if (!picture) return null;
    const share = this.shareOf(picture.output);
    const { x, y } = this.centre();
    const at = (place: number, size: number) => Math.min(1 - size, Math.max(0, place - size / 2));
    return { left: at(x, share.width), top: at(y, share.height), ...share };
  });

  constructor() {
    const wanted = computed(() => this.asked(), SAME_DATA);
    const within = { width: ROOM.width * 2, height: ROOM.height * 2 };
    const look = (asked: Asked) =>
      this.samples
        .ask({
          masterId: this.masterId(),
          decided: this.decided(),
          ...unfinished(this.preset()),
          view: { kind: 'whole', within },
          finished: false,
        })
        .pipe(
          switchMap(async ({ facts, picture }) => ({ asked, picture, output: facts.output, raster: await rasterOf(picture) })),
          catchError(() => of(null)),
        );
    toObservable(wanted)
      .pipe(switchMap(look), takeUntilDestroyed())
      .subscribe((seen) => {
        this.put(seen);
        this.placed.emit(this.found());
      });
    inject(DestroyRef).onDestroy(() => this.put(null));
  }

  private put(seen: { asked: Asked; picture: Blob; output: PixelSize; raster: Raster<Uint8Array> } | null): void {
    const before = this.shown();
    if (before) URL.revokeObjectURL(before.url);
    if (!seen) {
      this.shown.set(null);
      this.found.set(null);
      return;
    }
    const { asked, picture, output, raster } = seen;
    const { width, height } = raster;
    const scale = Math.min(ROOM.width / width, ROOM.height / height);
    this.shown.set({
      asked,
      url: URL.createObjectURL(picture),
      width: Math.round(width * scale),
      height: Math.round(height * scale),
      output,
    });
    this.found.set(findPlaces(raster, this.shareOf(output)));
  }

  private shareOf(output: PixelSize): PixelSize {
    const { width, height } = this.seen();
    return { width: Math.min(1, width / output.width), height: Math.min(1, height / output.height) };
  }

  /** A press on the picture brings the frame there. */
  protected press(event: PointerEvent): void {
    const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
    this.go((event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height);
    event.preventDefault();
  }

  protected drag(event: PointerEvent): void {
    const picture = this.shown();
    if (!picture) return;
    const { x, y } = this.centre();
    dragging(event, (dx, dy) => this.go(x + dx / picture.width, y + dy / picture.height));
  }

  protected key(event: KeyboardEvent): void {
    const frame = this.frame();
    const ways: Record<string, [number, number]> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
    const by = ways[event.key];
    if (!frame || !by) return;
    event.preventDefault();
    const { x, y } = this.centre();
    this.go(x + by[0] * STEP * frame.width, y + by[1] * STEP * frame.height);
  }

  /** Keeps the frame within the picture. */
  private go(x: number, y: number): void {
    const frame = this.frame();
    if (!frame) return;
    const hold = (value: number, size: number) => Math.min(1 - size / 2, Math.max(size / 2, value));
    this.centre.set({ x: hold(x, frame.width), y: hold(y, frame.height) });
  }
}
