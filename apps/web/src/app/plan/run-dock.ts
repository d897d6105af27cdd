import { ChangeDetectionStrategy, Component, computed, inject, type OnDestroy, signal } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzProgressModule } from 'ng-zorro-antd/progress';
import { counted, duration, weight } from '../look/figures';
import { setFeature } from '../set/set.store';
import { planActions, planFeature } from './plan.store';

/** The dock below the run sheet: what pressing Run does, then how far it is, then what came of it. */
@Component({
  selector: 'rd-run-dock',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [RouterLink, NzButtonModule, NzProgressModule],
  template: `
    <div class="words" aria-live="polite">
      <strong class="figures">{{ headline() }}</strong>
      <span class="soft figures">{{ detail() }}</span>
    </div>
    @if (progress()?.running) {
      <nz-progress [nzPercent]="percent()" [nzShowInfo]="false" nzStrokeLinecap="square" />
      <button nz-button [disabled]="progress()?.stopping" (click)="cancel()">Cancel</button>
    } @else if (progress()) {
      <span class="space"></span>
      <button nz-button (click)="planAgain()">Plan again</button>
      <a nz-button nzType="primary" routerLink="../hand-over">Hand over</a>
    } @else {
      <span class="space"></span>
      <button nz-button nzType="primary" class="run" [disabled]="busy() || !totals().files" (click)="start()">Run</button>
    }
  `,
  styles: `
    :host {
      position: sticky;
      bottom: 0;
      display: flex;
      align-items: center;
      gap: 20px;
      min-height: 62px;
      padding: 8px 28px;
      background: var(--sheet);
      border-top: 1px solid var(--line-strong);
      box-shadow: 0 -6px 18px rgb(33 40 43 / 7%);
    }
    .words {
      display: flex;
      flex-direction: column;
      min-width: 330px;
      line-height: 20px;
    }
    strong {
      font-weight: 600;
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
  private readonly run = this.store.selectSignal(planFeature.selectRun);
  private readonly masterBytes = this.store.selectSignal(setFeature.selectBytes);
  private readonly now = signal(Date.now());
  private readonly ticking = setInterval(() => this.now.set(Date.now()), 1000);

  protected readonly percent = computed(() => {
    const progress = this.progress();
    return progress ? Math.round((100 * progress.ended) / Math.max(1, progress.total)) : 0;
  });

  protected readonly headline = computed(() => {
    const progress = this.progress();
    if (!progress && this.busy()) return 'One moment …';
    if (!progress) return `${counted(this.totals().files, 'file')}, about ${weight(this.totals().bytes)}`;
    if (progress.running) return `${progress.ended} of ${progress.total}`;
    const { done, failed, skipped, cancelled } = progress;
    const parts = [
      `${done} done`,
      failed ? `${failed} failed` : '',
      skipped ? `${skipped} left` : '',
      cancelled ? 'the rest cancelled' : '',
    ];
    return parts.filter(Boolean).join(', ');
  });

  protected readonly detail = computed(() => {
    const progress = this.progress();
    if (!progress) return `from ${weight(this.masterBytes())} of masters`;
    if (!progress.running) return `${weight(this.masterBytes())} of masters became ${weight(progress.bytes)}`;
    if (progress.stopping) return 'cancelled; what has begun is coming to its end';
    const seconds = Math.max(1, (this.now() - Date.parse(this.run()?.startedAt ?? '')) / 1000);
    const pace = progress.ended / seconds;
    if (pace === 0) return 'beginning';
    return `${pace.toFixed(1)} a second, about ${duration((progress.total - progress.ended) / pace)} left`;
  });

  ngOnDestroy(): void {
    clearInterval(this.ticking);
  }

  protected start(): void {
    this.store.dispatch(planActions.runPressed());
  }

  protected planAgain(): void {
    this.store.dispatch(planActions.planAgainPressed());
  }

  protected cancel(): void {
    const runId = this.run()?.id;
    if (runId) this.store.dispatch(planActions.cancelPressed({ runId }));
  }
}
