import {
  type AfterViewInit,
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  type ElementRef,
  inject,
  input,
  output,
  signal,
  viewChild,
} from '@angular/core';
import { rxResource, takeUntilDestroyed, toObservable } from '@angular/core/rxjs-interop';
import type { Preset } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { catchError, from, map, mergeMap, of, switchMap } from 'rxjs';
import { Api } from '../api/api';
import { SampleApi } from '../api/sample';
import { TurnButtons } from '../look/turn-buttons';
import { ViewChoices } from '../look/view-choices';

/** Pictures that are shown at a time. */
const COUNT = 24;
/** Long edge of each, px. */
const EDGE = 320;
/** Looks that are on their way at a time. */
const AT_A_TIME = 2;

interface Shown {
  with?: string;
  without?: string;
  isMissing?: boolean;
}

/** The pictures of a set, small, with the tone of a preset and without: what is right for one may be too much for another. */
@Component({
  selector: 'rd-tone-over-set',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzButtonModule, TurnButtons],
  template: `
    <dialog
      #dialog
      tabindex="-1"
      aria-labelledby="over-set"
      (cancel)="$event.preventDefault(); closed.emit()"
      (keydown)="key($event)"
      (keyup)="keyUp($event)"
    >
      <div class="head">
        <h2 id="over-set">{{ isWithout() ? 'Without the tone' : 'With the tone' }}</h2>
        <span class="soft">{{ about() }}</span>
        <rd-turn-buttons
          what="Pictures"
          role="group"
          aria-label="Pictures"
          [keys]="pageKeys"
          [isFirst]="from() === 0"
          [isLast]="from() + count >= total()"
          (turned)="turn($event)"
        >
          <span class="soft figures">{{ said() }}</span>
        </rd-turn-buttons>
        <button nz-button type="button" title="Or hold the key B" [attr.aria-pressed]="isWithout()" (click)="isWithout.set(!isWithout())">
          Without
        </button>
        <button nz-button type="button" autofocus (click)="closed.emit()">Back to the preset</button>
      </div>
      @if (page.error()) {
        <p role="alert">The pictures could not be loaded. Go back, and try it again.</p>
      } @else if (!loaded()) {
        <p class="soft" role="status">Being loaded …</p>
      }
      <div class="pictures">
        @for (one of masters(); track one.id) {
          @let shown = pictures().get(one.id);
          <figure>
            <div class="place">
              @if (isWithout() ? shown?.without : shown?.with; as url) {
                <img [src]="url" [alt]="one.fileName" />
              } @else {
                <span class="soft">{{ shown?.isMissing ? 'cannot be shown' : 'being made …' }}</span>
              }
            </div>
            <figcaption>{{ one.fileName }}</figcaption>
          </figure>
        }
      </div>
    </dialog>
  `,
  styleUrl: './tone-over-set.less',
})
export class ToneOverSet implements AfterViewInit {
  readonly preset = input.required<Preset>();
  readonly setId = input.required<string>();
  readonly closed = output();
  private readonly api = inject(Api);
  private readonly samples = inject(SampleApi);
  private readonly view = inject(ViewChoices);
  private readonly dialog = viewChild.required<ElementRef<HTMLDialogElement>>('dialog');
  protected readonly count = COUNT;
  protected readonly pageKeys = ['Page up', 'Page down'] as const;
  protected readonly from = signal(0);
  protected readonly isWithout = signal(false);
  protected readonly pictures = signal<ReadonlyMap<string, Shown>>(new Map());
  protected readonly page = rxResource({
    params: () => ({ setId: this.setId(), from: this.from() }),
    stream: ({ params: { setId, from } }) => this.api.listMasters({ setId, query: { from, count: COUNT } }),
  });
  protected readonly loaded = computed(() => (this.page.hasValue() ? this.page.value() : null));
  /** What small pictures cannot show. */
  protected readonly about = computed(() => {
    const { local, before } = this.preset().tone ?? { local: null, before: null };
    const said = [local ? 'local contrast is about right' : '', before ? 'sharpening before the size is left out' : ''].filter(Boolean);
    return said.length ? `In pictures so small ${said.join(', and ')}.` : '';
  });
  protected readonly masters = computed(() => this.loaded()?.masters.filter(({ state }) => state === 'ready') ?? []);
  protected readonly total = computed(() => this.loaded()?.total ?? 0);
  protected readonly said = computed(() =>
    this.total() ? `${this.from() + 1} to ${Math.min(this.total(), this.from() + COUNT)} of ${this.total()}` : '',
  );

  constructor() {
    toObservable(this.masters)
      .pipe(
        switchMap((masters) => {
          this.forget();
          const preset = smallOf(this.preset());
          const view = { kind: 'whole' as const, within: { width: EDGE, height: EDGE } };
          const looks = masters.flatMap(({ id }) => (['with', 'without'] as const).map((which) => ({ id, which })));
          return from(looks).pipe(
            mergeMap(
              ({ id, which }) =>
                this.samples
                  .ask({
                    masterId: id,
                    preset: which === 'with' ? preset : { ...preset, tone: null },
                    upTo: 'colour',
                    view,
                    finished: false,
                  })
                  .pipe(
                    map(({ picture }) => ({ id, shown: { [which]: URL.createObjectURL(picture) } })),
                    catchError(() => of({ id, shown: { isMissing: true } })),
                  ),
              AT_A_TIME,
            ),
          );
        }),
        takeUntilDestroyed(),
      )
      .subscribe(({ id, shown }) => this.pictures.update((all) => new Map(all).set(id, { ...all.get(id), ...shown })));
    inject(DestroyRef).onDestroy(() => this.forget());
  }

  /** As a dialog the browser keeps the focus inside and the page behind it inert. */
  ngAfterViewInit(): void {
    this.dialog().nativeElement.showModal();
  }

  protected turn(by: 1 | -1): void {
    const next = this.from() + by * COUNT;
    if (next >= 0 && next < this.total()) this.from.set(next);
  }

  protected key(event: KeyboardEvent): void {
    // The bench behind it has the same keys.
    event.stopPropagation();
    if (event.key === 'PageDown' || event.key === 'PageUp') {
      event.preventDefault();
      this.turn(event.key === 'PageDown' ? 1 : -1);
      return;
    }
    if (event.key.toLowerCase() === 'b' && !event.repeat && this.view.singleKeys()) this.isWithout.set(true);
  }

  protected keyUp(event: KeyboardEvent): void {
    event.stopPropagation();
    if (event.key.toLowerCase() === 'b') this.isWithout.set(false);
  }

  private forget(): void {
    for (const { with: one, without } of this.pictures().values()) for (const url of [one, without]) if (url) URL.revokeObjectURL(url);
    this.pictures.set(new Map());
  }
}

/** A preset that makes small pictures of the same tone, and nothing else. */
function smallOf(preset: Preset): Preset {
  const { tone, size } = preset;
  const share = Math.min(1, EDGE / (size.px ?? 2048));
  const local = tone?.local ? { ...tone.local, radius: Math.max(1, tone.local.radius * share) } : null;
  const plain = { ...size, fit: 'long-edge' as const, px: EDGE, unit: 'px' as const, sizes: [], enlarge: false };
  return { ...preset, size: plain, tone: tone && { ...tone, local, before: null }, panels: null, canvas: null, mark: null, border: null };
}
