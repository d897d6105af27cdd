import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { type Run, runStatus } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzIconModule } from 'ng-zorro-antd/icon';
import { weight, WeightPipe } from '../look/figures';
import { planActions } from '../plan/plan.store';
import { canNotice, switchNotices, wantsNotices } from './notices';
import { runsActions, runsFeature } from './runs.store';

/** The runs of all sets: what is under way, in the order in which it is worked through, and what was done. */
@Component({
  selector: 'rd-runs-page',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [RouterLink, NzButtonModule, NzIconModule, WeightPipe],
  templateUrl: './runs-page.html',
  styleUrl: './runs-page.less',
})
export class RunsPage {
  private readonly store = inject(Store);
  protected readonly loaded = this.store.selectSignal(runsFeature.selectLoaded);
  private readonly openRuns = this.store.selectSignal(runsFeature.selectOpen);
  private readonly ahead = this.store.selectSignal(runsFeature.selectAhead);
  private readonly pastRuns = this.store.selectSignal(runsFeature.selectPast);
  protected readonly canNotice = canNotice();
  protected readonly notices = signal(wantsNotices());

  protected readonly open = computed(() =>
    this.openRuns().map((run, at, all) => ({
      ...run,
      status: runStatus(run, this.ahead().get(run.id)),
      /** The run that it would go before, one step up. */
      above: all[at - 1]?.id ?? null,
      /** And one step down: before the one after the next; null: to the end. */
      below: at + 1 < all.length ? { before: all[at + 2]?.id ?? null } : null,
    })),
  );
  protected readonly past = computed(() => this.pastRuns().map((run) => ({ ...run, when: whenOf(run), status: runStatus(run) })));

  protected move(runId: string, before: string | null): void {
    this.store.dispatch(runsActions.movePressed({ runId, before }));
  }

  protected pause(runId: string): void {
    this.store.dispatch(planActions.pausePressed({ runId }));
  }

  protected resume(runId: string): void {
    this.store.dispatch(planActions.resumePressed({ runId }));
  }

  protected cancel(runId: string): void {
    this.store.dispatch(planActions.cancelPressed({ runId }));
  }

  protected async switchNotices(on: boolean): Promise<void> {
    this.notices.set(await switchNotices(on));
  }

  protected readonly weight = weight;
}

const whenOf = ({ startedAt }: Run): string => new Date(startedAt).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' });
