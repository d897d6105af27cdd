import { ChangeDetectionStrategy, Component, computed, effect, inject, type OnDestroy, signal, untracked } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { endSentence, staleSentence } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzProgressModule } from 'ng-zorro-antd/progress';
import { counted, duration, weight } from '../look/figures';
import { setFeature } from '../set/set.store';
import { totalsOf } from './cells';
import { planActions, planFeature, type RunOnly, selectMoves } from './plan.store';

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
    @if (progress()?.running) {
      <nz-progress [nzPercent]="percent()" [nzShowInfo]="false" nzStrokeLinecap="square" />
      @if (progress()?.paused) {
        <button nz-button nzType="primary" (click)="resume()">Go on</button>
      } @else {
        <button nz-button [disabled]="progress()?.stopping" (click)="pause()">Pause</button>
      }
      <button nz-button [disabled]="progress()?.stopping" (click)="cancel()">Cancel</button>
    } @else {
      <span class="space"></span>
      @if (ended(); as run) {
        <a nz-button [routerLink]="['/runs', run.id]">Record</a>
      }
      @if (failedPairs().length) {
        <button nz-button [disabled]="busy()" (click)="start({ pairs: failedPairs() })">
          Try the {{ failedPairs().length }} failed again
        </button>
      }
      @if (selectedFiles(); as files) {
        <button nz-button [disabled]="busy() || blocked()" (click)="start({ masterIds: selectedIds() })">Run selected: {{ files }}</button>
      }
      @if (totals().files || moves()) {
        <button nz-button nzType="primary" class="run" [disabled]="busy() || blocked()" (click)="start({})">{{ runWords() }}</button>
      } @else if (totals().upToDate) {
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
  private readonly cells = this.store.selectSignal(planFeature.selectCells);
  private readonly run = this.store.selectSignal(planFeature.selectRun);
  private readonly timeMs = this.store.selectSignal(planFeature.selectTimeMs);
  private readonly rough = this.store.selectSignal(planFeature.selectRough);
  private readonly placeProblem = this.store.selectSignal(planFeature.selectPlaceProblem);
  private readonly masterBytes = this.store.selectSignal(setFeature.selectBytes);
  protected readonly selectedIds = this.store.selectSignal(setFeature.selectSelected);
  private readonly now = signal(Date.now());
  private readonly ticking = setInterval(() => this.now.set(Date.now()), 1000);
  /** When this page saw the run go on, and how far it was then: by these its pace is told, whatever pauses there were. */
  private readonly since = signal<{ runId: string; at: number; ended: number } | null>(null);

  protected readonly blocked = computed(() => this.placeProblem() !== null);
  protected readonly ended = computed(() => {
    const run = this.run();
    return run && !this.progress()?.running ? run : null;
  });
  protected readonly percent = computed(() => {
    const progress = this.progress();
    return progress ? Math.round((100 * progress.ended) / Math.max(1, progress.total)) : 0;
  });

  protected readonly failedPairs = computed(() =>
    [...this.cells().values()].filter(({ tried }) => tried).map(({ masterId, presetId }) => ({ masterId, presetId })),
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
  protected readonly runWords = computed(() => {
    const { files, bytes, replaces } = this.totals();
    if (!files) return `Run: ${this.movesInWords()}`;
    return `Run: ${counted(files, 'file')}, ${weight(bytes)}${replaces ? `, replaces ${replaces}` : ''}`;
  });

  protected readonly headline = computed(() => {
    const progress = this.progress();
    const { files, bytes, upToDate, failed } = this.totals();
    if (progress?.running) return `${progress.ended} of ${progress.total}${progress.paused ? ', paused' : ''}`;
    if (this.busy() && !files) return 'One moment …';
    if (!files && this.moves()) return `Nothing to make; earlier files: ${this.movesInWords()}`;
    if (files) return `${counted(files, 'file')}, about ${weight(bytes)}, about ${duration(this.timeMs() / 1000)}`;
    if (progress && this.ended()) return endSentence(progress, progress.why);
    return upToDate && !failed ? `All ${upToDate} files are up to date` : 'Nothing to run';
  });

  protected readonly detail = computed(() => {
    const progress = this.progress();
    if (progress?.running) return this.underWay(progress);
    const { files, replaces, replacedAt, stale, upToDate, upToDateBytes } = this.totals();
    if (!files) return upToDate ? `${weight(this.masterBytes())} of masters became ${weight(upToDateBytes)}` : '';
    const last = this.run()?.state === 'cancelled' && progress ? `the last run: ${endSentence(progress, progress.why)}` : '';
    const parts = [
      last,
      staleSentence(stale, upToDate + stale.length) ?? '',
      this.moves() ? `earlier files: ${this.movesInWords()}` : '',
      replaces ? `replaces ${counted(replaces, 'file')}${replacedAt ? ` of ${dayOf(replacedAt)}` : ''}` : '',
      upToDate ? `${upToDate} ${upToDate === 1 ? 'is' : 'are'} up to date` : '',
    ].filter(Boolean);
    const rough = this.rough();
    const weighing = rough
      ? `; ${counted(rough, 'picture')} still being weighed, ${rough === 1 ? 'its weight is' : 'their weights are'} rough`
      : '';
    return (parts.length ? parts.join('; ') : `from ${weight(this.masterBytes())} of masters`) + weighing;
  });

  private underWay({ paused, stopping, doing, ended, total }: NonNullable<ReturnType<typeof this.progress>>): string {
    if (stopping) return 'cancelled; what has begun is coming to its end';
    if (paused)
      return doing.length ? `what has begun is coming to its end: ${doing.join(', ')}` : 'nothing is being done; go on whenever you like';
    const pace = this.pace(ended);
    const now = doing.length ? `; now ${doing.slice(0, 2).join(', ')}` : '';
    return pace ? `${pace.toFixed(1)} a second, about ${duration((total - ended) / pace)} left${now}` : `beginning${now}`;
  }

  /** Outputs a second since this page saw the run go on. */
  private pace(ended: number): number {
    const since = this.since();
    return since ? Math.max(0, ended - since.ended) / Math.max(1, (this.now() - since.at) / 1000) : 0;
  }

  constructor() {
    effect(() => {
      const run = this.run();
      const goesOn = run?.state === 'running';
      const since = untracked(this.since);
      if (!goesOn) this.since.set(null);
      else if (since?.runId !== run.id) this.since.set({ runId: run.id, at: Date.now(), ended: untracked(this.progress)?.ended ?? 0 });
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

/** "Tuesday" of the last days, else "3 June". */
function dayOf(at: string): string {
  const day = new Date(at);
  const days = (Date.now() - day.getTime()) / 86_400_000;
  if (new Date().toDateString() === day.toDateString()) return 'today';
  return day.toLocaleDateString('en-GB', days < 6 ? { weekday: 'long' } : { day: 'numeric', month: 'long' });
}
