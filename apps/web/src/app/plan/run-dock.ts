import { ChangeDetectionStrategy, Component, computed, effect, inject, type OnDestroy, signal, untracked } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { type Master, staleSentence } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzProgressModule } from 'ng-zorro-antd/progress';
import { counted, duration, weight } from '../look/figures';
import { setFeature } from '../set/set.store';
import { type Cell, totalsOf } from './cells';
import { planActions, planFeature, type Progress, type RunOnly, selectAsking, selectIsPlanned, selectMoves } from './plan.store';

/** The dock below the run sheet: what pressing Run does, then how far it is, then what came of it. */
@Component({
  selector: 'rd-run-dock',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [RouterLink, NzButtonModule, NzProgressModule],
  template: `
    <div class="words" aria-live="polite">
      <strong class="figures">{{ headline() }}</strong>
      <span class="soft figures detail">{{ detail() }}</span>
    </div>
    @if (progress()?.isOpen) {
      <nz-progress [nzPercent]="percent()" [nzShowInfo]="false" nzStrokeLinecap="square" />
      @if (progress()?.stage === 'paused') {
        <button nz-button nzType="primary" (click)="resume()">Go on</button>
      } @else {
        <button nz-button [disabled]="progress()?.stage === 'stopping'" (click)="pause()">Pause</button>
      }
      <button nz-button [disabled]="progress()?.stage === 'stopping'" (click)="cancel()">Cancel</button>
    } @else {
      <span class="space"></span>
      @if (ended(); as run) {
        <a nz-button [routerLink]="['/runs', run.id]">Record</a>
      }
      @if (failedPairs().length && isPlanned()) {
        <button nz-button [disabled]="busy()" (click)="start({ pairs: failedPairs() })">
          Try the {{ failedPairs().length }} failed again
        </button>
      }
      @if (isPlanned() && selectedFiles(); as files) {
        <button nz-button [disabled]="busy() || blocked()" (click)="start({ masterIds: selectedIds() })">Run selected: {{ files }}</button>
      }
      @if (asking(); as words) {
        <span class="asking">{{ words }}</span>
      }
      @if (isPlanned() && (totals().files || moves())) {
        <button nz-button nzType="primary" class="run" [disabled]="busy() || blocked()" (click)="start({})">{{ runWords() }}</button>
      } @else if (isPlanned() && totals().upToDate) {
        <a nz-button nzType="primary" routerLink="../hand-over">Hand over</a>
      } @else {
        <button nz-button nzType="primary" class="run" disabled>Run</button>
      }
    }
  `,
  styles: `
    :host {
      position: sticky;
      bottom: 0;
      z-index: 5;
      display: flex;
      align-items: center;
      gap: 14px;
      min-height: 62px;
      padding: 8px 28px;
      background: var(--sheet);
      border-top: 1px solid var(--line-strong);
      box-shadow: 0 -6px 18px rgb(33 40 43 / 7%);
    }
    .words {
      display: flex;
      flex-direction: column;
      min-width: 300px;
      max-width: 60%;
      line-height: 20px;
    }
    .detail {
      overflow: hidden;
      max-height: 40px;
    }
    // A reason may be long: two lines of it, the record has all.
    strong {
      display: -webkit-box;
      overflow: hidden;
      font-weight: 600;
      white-space: normal;
      overflow-wrap: anywhere;
      -webkit-box-orient: vertical;
      -webkit-line-clamp: 2;
    }
    .space,
    nz-progress {
      flex: 1;
    }
    .asking {
      color: var(--amber);
    }
    .run {
      min-width: 120px;
    }
  `,
})
export class RunDock implements OnDestroy {
  private readonly store = inject(Store);
  protected readonly progress = this.store.selectSignal(planFeature.selectProgress);
  protected readonly totals = this.store.selectSignal(planFeature.selectTotals);
  protected readonly busy = this.store.selectSignal(planFeature.selectBusy);
  private readonly refusal = this.store.selectSignal(planFeature.selectSentence);
  /** Before that nothing is known of what a run would do. */
  protected readonly isPlanned = this.store.selectSignal(selectIsPlanned);
  private readonly cells = this.store.selectSignal(planFeature.selectCells);
  private readonly run = this.store.selectSignal(planFeature.selectRun);
  private readonly timeMs = this.store.selectSignal(planFeature.selectTimeMs);
  private readonly rough = this.store.selectSignal(planFeature.selectRough);
  private readonly placeProblem = this.store.selectSignal(planFeature.selectPlaceProblem);
  private readonly masters = this.store.selectSignal(setFeature.selectMasters);
  protected readonly selectedIds = this.store.selectSignal(setFeature.selectSelected);
  private readonly now = signal(Date.now());
  private readonly ticking = setInterval(() => this.now.set(Date.now()), 1000);
  /** How far this page saw the run, and when, of the last while: by these its present pace is told, whatever pauses there were. */
  private readonly seen = signal<{ runId: string; steps: readonly { at: number; past: number }[] } | null>(null);

  private readonly askingFor = this.store.selectSignal(selectAsking);
  protected readonly asking = computed(() => {
    const titles = this.askingFor().map((title) => `“${title}”`);
    return titles.length ? `Say first where the files of ${titles.join(', ')} go.` : '';
  });
  protected readonly blocked = computed(() => this.placeProblem() !== null || this.askingFor().length > 0);
  protected readonly ended = computed(() => {
    const run = this.run();
    return run && !this.progress()?.isOpen ? run : null;
  });
  protected readonly percent = computed(() => Math.round(100 * (this.progress()?.share ?? 0)));

  protected readonly failedPairs = computed(() =>
    [...this.cells().values()].filter(({ tried }) => tried).map(({ masterId, presetId, part }) => ({ masterId, presetId, part })),
  );
  /** Files of the pictures that are selected; 0 where all of the run is. */
  protected readonly selectedFiles = computed(() => {
    const chosen = new Set(this.selectedIds());
    if (chosen.size === 0) return 0;
    const { files } = totalsOf([...this.cells().values()].filter(({ masterId }) => chosen.has(masterId)));
    return files < this.totals().files ? files : 0;
  });

  /** Files of earlier runs that go, or get another name or place. */
  protected readonly moves = this.store.selectSignal(selectMoves);
  private readonly earlier = this.store.selectSignal(planFeature.selectEarlier);
  private readonly movesInWords = computed(() => {
    const { renamed } = this.earlier();
    const goes = this.moves() - renamed;
    return [...(renamed ? [`rename ${renamed}`] : []), ...(goes ? [`remove ${goes}`] : [])].join(', ');
  });
  private readonly clashes = this.store.selectSignal(planFeature.selectClashes);
  private readonly numbered = computed(() => this.clashes().reduce((sum, { outputs }) => sum + outputs, 0));
  protected readonly runWords = computed(() => {
    const { files, bytes, replaces } = this.totals();
    if (!files) return `Run: ${this.movesInWords()}`;
    return `Run: ${counted(files, 'file')}, ${weight(bytes)}${replaces ? `, replaces ${replaces}` : ''}`;
  });

  protected readonly headline = computed(() => {
    const progress = this.progress();
    const { files, bytes, upToDate, failed } = this.totals();
    if (progress?.isOpen) return progress.words;
    if (!this.isPlanned()) return 'Working out what will come out …';
    if (this.refusal()) return 'Not planned yet';
    if (this.busy() && !files) return 'One moment …';
    if (!files && this.moves()) return `Nothing to make; earlier files: ${this.movesInWords()}`;
    if (files) return `${counted(files, 'file')}, about ${weight(bytes)}, about ${duration(this.timeMs() / 1000)}`;
    if (progress && this.ended()) return progress.words;
    return upToDate && !failed ? `All ${upToDate} files are up to date` : 'Nothing to run';
  });

  protected readonly detail = computed(() => {
    const progress = this.progress();
    if (progress?.isOpen) return this.underWay(progress);
    if (!this.isPlanned()) return '';
    const { files, replaces, replacedAt, stale, upToDate, upToDateBytes } = this.totals();
    const mastersOf = (...states: Cell['state'][]) => weight(this.weightOfMasters(states));
    if (!files) return upToDate ? `${mastersOf('made')} of masters became ${weight(upToDateBytes)}` : '';
    const last = this.run()?.state === 'cancelled' && progress ? `the last run: ${progress.words}` : '';
    const parts = [
      last,
      staleSentence(stale, upToDate + stale.length) ?? '',
      this.moves() ? `earlier files: ${this.movesInWords()}` : '',
      this.numbered() ? `${counted(this.numbered(), 'name')} of another file ${this.numbered() === 1 ? 'gets' : 'get'} a number` : '',
      replaces ? `replaces ${counted(replaces, 'file')}${replacedAt ? ` of ${dayOf(replacedAt)}` : ''}` : '',
      upToDate ? `${upToDate} ${upToDate === 1 ? 'is' : 'are'} up to date` : '',
    ].filter(Boolean);
    const rough = this.rough();
    const weighing = rough
      ? `; ${counted(rough, 'picture')} still being weighed, ${rough === 1 ? 'its weight is' : 'their weights are'} rough`
      : '';
    return (parts.length ? parts.join('; ') : `from ${mastersOf('planned', 'waiting', 'running')} of masters`) + weighing;
  });

  /** Of the pictures whose cells are in one of these states, bytes: each picture counts once. */
  private weightOfMasters(states: readonly Cell['state'][]): number {
    const ids = new Set([...this.cells().values()].filter(({ state }) => states.includes(state)).map(({ masterId }) => masterId));
    return this.masters().reduce((sum: number, { id, bytes }: Master) => sum + (ids.has(id) ? bytes : 0), 0);
  }

  private underWay({ stage, doing, past, of }: Progress): string {
    const now = doing.length ? `now ${doing.slice(0, 2).join(', ')}` : '';
    switch (stage) {
      case 'waiting':
        return 'other runs go first; under Runs their order can be changed';
      case 'stopping':
        return now;
      case 'paused':
        return doing.length ? `what has begun is coming to its end: ${doing.join(', ')}` : 'nothing is being done; go on whenever you like';
      default: {
        const pace = this.pace(past);
        const left = pace ? `${pace.toFixed(1)} a second, about ${duration((of - past) / pace)} left` : '';
        return [left, now].filter(Boolean).join('; ');
      }
    }
  }

  /** Outputs a second at present. */
  private pace(past: number): number {
    const first = this.seen()?.steps[0];
    return first ? Math.max(0, past - first.past) / Math.max(1, (this.now() - first.at) / 1000) : 0;
  }

  constructor() {
    effect(() => {
      const [run, progress] = [this.run(), this.progress()];
      const before = untracked(this.seen);
      if (run?.state !== 'running' || !progress) return this.seen.set(null);
      const step = { at: Date.now(), past: progress.past };
      const steps = before?.runId === run.id ? before.steps : [];
      // The last step before the window stays, so that there is something to count from.
      const from = steps.findLastIndex(({ at }) => at < step.at - PACE_WINDOW);
      this.seen.set({ runId: run.id, steps: [...steps.slice(Math.max(0, from)), ...(steps.at(-1)?.past === step.past ? [] : [step])] });
    });
  }

  ngOnDestroy(): void {
    clearInterval(this.ticking);
  }

  protected start(only: RunOnly): void {
    this.store.dispatch(planActions.runPressed({ only }));
  }

  protected cancel(): void {
    const runId = this.run()?.id;
    if (runId) this.store.dispatch(planActions.cancelPressed({ runId }));
  }

  protected pause(): void {
    const runId = this.run()?.id;
    if (runId) this.store.dispatch(planActions.pausePressed({ runId }));
  }

  protected resume(): void {
    const runId = this.run()?.id;
    if (!runId) return;
    this.store.dispatch(planActions.resumePressed({ runId }));
  }
}

/** Over how long the pace is told, ms: a machine that gets busy, or free, is told so soon. */
const PACE_WINDOW = 30_000;

/** "Tuesday" of the last days, else "3 June". */
function dayOf(at: string): string {
  const day = new Date(at);
  const days = (Date.now() - day.getTime()) / 86_400_000;
  if (new Date().toDateString() === day.toDateString()) return 'today';
  return day.toLocaleDateString('en-GB', days < 6 ? { weekday: 'long' } : { day: 'numeric', month: 'long' });
}
