import { ChangeDetectionStrategy, Component, computed, inject, output, signal } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { Actions, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import { type Clearing, counted, type Master, weight } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { filter, merge, of, switchMap, take, takeUntil, timer } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { setActions, setFeature } from '../set/set.store';
import { callFailed } from '../shell/problems';

type Which = 'unstarred' | 'out' | 'shown' | 'hidden' | 'selected';

/** After so long a removal that was not heard of has failed, ms. */
const GIVEN_UP_MS = 120_000;

/** Pictures that are not needed any more are cleared away, once it has been seen what that means. */
@Component({
  selector: 'rd-clear-pictures',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzButtonModule],
  host: { role: 'region', 'aria-label': 'Clear pictures away' },
  template: `
    <p class="which" role="radiogroup" aria-label="Which pictures">
      <strong>Clear away</strong>
      @for (one of choices(); track one.which) {
        <label><input type="radio" name="clear" [checked]="which() === one.which" (change)="which.set(one.which)" /> {{ one.words }}</label>
      }
      <button nz-button nzType="text" nzSize="small" type="button" class="close" (click)="closed.emit()">Close</button>
    </p>
    @if (problem(); as sentence) {
      <p class="bad" role="alert">{{ sentence }}</p>
    } @else if (told(); as clearing) {
      <ul class="figures">
        @for (line of lines(); track line) {
          <li>{{ line }}</li>
        }
      </ul>
      @if (clearing.outputs.files) {
        <label><input type="checkbox" [checked]="withOutputs()" (change)="withOutputs.set(!withOutputs())" /> {{ outputWords() }}</label>
      }
      <p class="buttons">
        <button nz-button nzType="primary" nzSize="small" type="button" (click)="clear()">{{ act() }}</button>
        @if (clearing.paths.length) {
          <button nz-button nzSize="small" type="button" (click)="copy(clearing.paths)">
            Copy the list of {{ clearing.paths.length }} {{ clearing.paths.length === 1 ? 'file' : 'files' }} of the machine
          </button>
        }
        <span class="soft" role="status">{{ said() }}</span>
      </p>
    } @else {
      <p class="soft">{{ ids().length ? 'What that means is being looked up …' : 'None are like that.' }}</p>
    }
  `,
  styles: `
    :host {
      display: block;
      margin: 6px 0 12px;
      padding: 8px 16px 10px;
      background: var(--petrol-wash);
      border-left: 4px solid var(--petrol);
    }
    p {
      margin: 0;
    }
    .which {
      display: flex;
      flex-wrap: wrap;
      gap: 4px 16px;
      align-items: center;
    }
    .close {
      margin-left: auto;
    }
    ul {
      margin: 6px 0;
      padding-left: 20px;
    }
    .buttons {
      display: flex;
      gap: 10px;
      align-items: center;
      margin-top: 8px;
    }
    input {
      accent-color: var(--petrol);
    }
    .bad {
      color: var(--brick);
    }
  `,
})
export class ClearPictures {
  readonly closed = output();
  private readonly api = inject(Api);
  private readonly store = inject(Store);
  private readonly actions = inject(Actions);
  private readonly setId = this.store.selectSignal(setFeature.selectSetId);
  private readonly masters = this.store.selectSignal(setFeature.selectMasters);
  private readonly shown = this.store.selectSignal(setFeature.selectShown);
  private readonly selected = this.store.selectSignal(setFeature.selectSelectedMasters);
  protected readonly which = signal<Which>('unstarred');
  protected readonly withOutputs = signal(false);
  protected readonly said = signal('');

  private readonly groups = computed((): Record<Which, readonly Master[]> => {
    const [all, shown] = [this.masters(), new Set(this.shown().map(({ id }) => id))];
    const isNarrowed = shown.size < all.length;
    return {
      unstarred: all.filter(({ stars, choice }) => stars === 0 && choice !== 'pick'),
      out: all.filter(({ choice }) => choice === 'out'),
      shown: isNarrowed ? this.shown() : [],
      hidden: isNarrowed ? all.filter(({ id }) => !shown.has(id)) : [],
      selected: this.selected(),
    };
  });
  /** Those that there are; the first always stands. */
  protected readonly choices = computed(() =>
    (Object.keys(WORDS) as Which[])
      .map((which) => ({ which, words: `${WORDS[which]} (${this.groups()[which].length})`, count: this.groups()[which].length }))
      .filter(({ which, count }) => count > 0 || which === 'unstarred' || which === this.which()),
  );
  private readonly going = computed(() => this.groups()[this.which()]);
  protected readonly ids = computed(() => this.going().map(({ id }) => id), { equal: (a, b) => a.join() === b.join() });

  private readonly previewed = rxResource({
    params: () => ({ setId: this.setId(), masterIds: this.ids() }),
    stream: ({ params: { setId, masterIds } }) =>
      setId && masterIds.length ? this.api.previewClearing({ setId, body: { masterIds } }) : of(null),
  });
  /** Of these pictures, not of those that were chosen before. */
  protected readonly told = computed((): Clearing | null =>
    this.previewed.hasValue() && !this.previewed.isLoading() ? this.previewed.value() : null,
  );
  protected readonly problem = computed(() => {
    const error = this.previewed.error();
    return error ? sentenceOf(error.cause ?? error) : null;
  });
  protected readonly act = computed(() => `Clear ${counted(this.told()?.pictures ?? 0, 'picture')} away`);
  protected readonly outputWords = computed(() => {
    const { files, bytes } = this.told()!.outputs;
    return `${counted(files, 'file')} that ${files === 1 ? 'was' : 'were'} made of them, ${weight(bytes)}, ${files === 1 ? 'goes' : 'go'}, too; otherwise ${files === 1 ? 'it stays' : 'they stay'} where ${files === 1 ? 'it is' : 'they are'}`;
  });
  protected readonly lines = computed(() => (this.told() ? linesOf(this.told()!) : []));

  protected clear(): void {
    const [gone, setId] = [this.going(), this.setId()];
    if (!setId || gone.length === 0) return;
    // Only once the pictures are out of the set: where that is refused, what was made of them stays.
    const masterIds = gone.map(({ id }) => id);
    if (this.withOutputs())
      this.actions
        .pipe(
          ofType(setActions.eventCame),
          filter(({ event }) => event.type === 'masters-removed' && event.masterIds.includes(masterIds[0]!)),
          take(1),
          takeUntil(merge(timer(GIVEN_UP_MS), this.actions.pipe(ofType(setActions.pageOpened)))),
          switchMap(() => this.api.removeOutputs({ body: { setId, masterIds, elsewhere: true } })),
        )
        .subscribe({
          error: (error: unknown) =>
            this.store.dispatch(callFailed({ what: 'The files of removed pictures', sentence: sentenceOf(error) })),
        });
    this.store.dispatch(
      setActions.edited({ edit: { kind: 'removal', label: `${gone.length} cleared away`, gone: [...gone], back: false } }),
    );
    this.closed.emit();
  }

  protected copy(paths: readonly string[]): void {
    void navigator.clipboard.writeText(paths.join('\n')).then(
      () => this.said.set('The list is copied.'),
      () => this.said.set('The browser does not let this page copy.'),
    );
  }
}

const WORDS: Record<Which, string> = {
  unstarred: 'those without stars, and not picked',
  out: 'those left out',
  shown: 'those that the filter shows',
  hidden: 'those that the filter hides',
  selected: 'those selected',
};

function linesOf({ uploaded, freed, paths, otherSets }: Clearing): string[] {
  return [
    ...(uploaded.files
      ? [
          `${counted(uploaded.files, 'uploaded picture')}, ${weight(uploaded.bytes)}: in the bin for 30 days, then gone; ${freed ? `${weight(freed)} are free then` : 'that frees nothing'}.`,
        ]
      : []),
    ...(paths.length
      ? [
          `${counted(paths.length, 'file')} of the machine ${paths.length === 1 ? 'is' : 'are'} not touched: the set lets go of ${paths.length === 1 ? 'it' : 'them'}.`,
        ]
      : []),
    ...(otherSets.length ? [`Some are in other sets, too, and stay there: ${otherSets.join(', ')}.`] : []),
  ];
}
