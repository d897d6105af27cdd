import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject, input, signal } from '@angular/core';
import { takeUntilDestroyed, toObservable } from '@angular/core/rxjs-interop';
import { type Decisions, Preset } from '@rundle/core';
import { catchError, map, of, switchMap } from 'rxjs';
import { pictureUrl } from '../api/api';
import { SampleApi } from '../api/sample';
import { SAME_DATA } from '../look/asked';
import { AwaitedPicture } from '../look/awaited-picture';

/** Large enough for a screen, small enough to be made at every press. */
const EDGE = 1600;
const PLAIN: Preset = Preset.parse({ kind: 'rundle.preset', version: 1, title: 'Shown', size: { px: EDGE }, sharpen: null });

interface Made {
  key: string;
  masterId: string;
  url: string;
}

/** A master large, with the tone that was decided for it; all of it, whatever its crop. */
@Component({
  selector: 'rd-toned-picture',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [AwaitedPicture],
  template: `
    <img [rdAwaited]="url()" [class.stale]="isStale()" [alt]="name()" />
    @if (isStale()) {
      <span class="label" role="status">{{ hasFailed() ? 'Its tone could not be shown.' : 'With its tone: being made …' }}</span>
    }
  `,
  styles: `
    :host {
      position: relative;
      display: grid;
      place-items: center;
      max-width: 100%;
      max-height: 100%;
    }
    img {
      max-width: 100%;
      max-height: calc(100vh - 48px);
      object-fit: contain;
    }
    .stale {
      opacity: 0.5;
    }
    .label {
      position: absolute;
      bottom: 12px;
      padding: 2px 10px;
      color: var(--ink);
      background: var(--sheet);
    }
  `,
})
export class TonedPicture {
  readonly masterId = input.required<string>();
  readonly name = input.required<string>();
  readonly decisions = input.required<Decisions | null>();
  /** What tells its content from another. */
  readonly content = input.required<string | null>();
  private readonly samples = inject(SampleApi);
  private readonly made = signal<Made | null>(null);
  private readonly failed = signal('');
  private readonly wanted = computed(
    () => {
      const [masterId, decisions] = [this.masterId(), this.decisions()];
      const decided = JSON.stringify(decisions);
      return {
        masterId,
        decided,
        key: decisions?.tone ? JSON.stringify([masterId, this.content(), decisions.tone, decisions.assumeSrgb]) : '',
      };
    },
    { equal: SAME_DATA.equal },
  );
  protected readonly isStale = computed(() => this.wanted().key !== '' && this.made()?.key !== this.wanted().key);
  protected readonly hasFailed = computed(() => this.failed() === this.wanted().key);
  /** Until the next is made, the one before of the same picture stands, dimmed. */
  protected readonly url = computed(() => {
    const [{ key, masterId }, made] = [this.wanted(), this.made()];
    return key && made?.masterId === masterId ? made.url : pictureUrl(masterId, this.content());
  });

  constructor() {
    const view = { kind: 'whole' as const, within: { width: EDGE, height: EDGE } };
    toObservable(this.wanted)
      .pipe(
        switchMap(({ masterId, decided, key }) =>
          key === ''
            ? of(null)
            : this.samples.ask({ masterId, preset: PLAIN, decided, upTo: 'colour', view, whole: true, finished: false }).pipe(
                map(({ picture }) => ({ key, masterId, url: URL.createObjectURL(picture) })),
                catchError(() => {
                  this.failed.set(key);
                  return of(null);
                }),
              ),
        ),
        takeUntilDestroyed(),
      )
      .subscribe((made) => {
        if (made || this.wanted().key === '') this.put(made);
      });
    inject(DestroyRef).onDestroy(() => this.put(null));
  }

  private put(made: Made | null): void {
    const before = this.made();
    this.made.set(made);
    if (before) setTimeout(() => URL.revokeObjectURL(before.url), 1000);
  }
}
