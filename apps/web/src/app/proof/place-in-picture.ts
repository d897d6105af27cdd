import { ChangeDetectionStrategy, Component, computed, DestroyRef, effect, inject, input, model, signal } from '@angular/core';
import { findPlaces, type FoundPlace, type PixelSize, PLACE_KINDS, type PlaceKind, type Preset } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import type { Subscription } from 'rxjs';
import { SampleApi } from '../api/sample';
import { dragging } from '../bench/dragging';

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
        <img [src]="picture.url" alt="" draggable="false" (pointerdown)="press($event)" />
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
        <button nz-button nzSize="small" type="button" (click)="centre.set(place.at)">{{ place.name }}</button>
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
  /** What is judged of the output at a time, px of the output. */
  readonly seen = input.required<PixelSize>();
  readonly centre = model.required<{ x: number; y: number }>();

  private readonly samples = inject(SampleApi);
  protected readonly shown = signal<(PixelSize & { url: string; output: PixelSize }) | null>(null);
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
  private asking: Subscription | null = null;

  constructor() {
    // Of the preset only the size decides about it.
    const size = computed(() => JSON.stringify(this.preset().size));
    effect(() => {
      size();
      this.load(this.masterId(), this.preset());
    });
    inject(DestroyRef).onDestroy(() => this.drop());
  }

  private load(masterId: string, preset: Preset): void {
    this.asking?.unsubscribe();
    const within = { width: ROOM.width * 2, height: ROOM.height * 2 };
    this.asking = this.samples
      .ask({ masterId, preset, upTo: 'colour', view: { kind: 'whole', within }, finished: false })
      .subscribe({ next: ({ facts, picture }) => void this.put(picture, facts.output), error: () => this.drop() });
  }

  private async put(picture: Blob, output: PixelSize): Promise<void> {
    const bitmap = await createImageBitmap(picture);
    const { width, height } = bitmap;
    const canvas = new OffscreenCanvas(width, height);
    const drawing = canvas.getContext('2d')!;
    drawing.drawImage(bitmap, 0, 0);
    const rgba = drawing.getImageData(0, 0, width, height).data;
    const pixels = Uint8Array.from({ length: width * height * 3 }, (_, at) => rgba[4 * Math.floor(at / 3) + (at % 3)]!);
    this.drop();
    const scale = Math.min(ROOM.width / width, ROOM.height / height);
    this.shown.set({ url: URL.createObjectURL(picture), width: Math.round(width * scale), height: Math.round(height * scale), output });
    this.found.set(findPlaces({ width, height, channels: 3, pixels }, this.shareOf(output)));
  }

  private drop(): void {
    const before = this.shown();
    if (before) URL.revokeObjectURL(before.url);
    this.shown.set(null);
    this.found.set(null);
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
