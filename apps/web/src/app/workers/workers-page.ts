import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { RouterLink } from '@angular/router';
import type { WorkersView } from '@rundle/core';
import { NzSkeletonModule } from 'ng-zorro-antd/skeleton';
import { catchError, exhaustMap, filter, map, of, timeout, TimeoutError, timer } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { duration, WeightPipe } from '../look/figures';
import { afterWords, atWords, waitingWords, whyNobody } from './worker-words';

/** Between two looks, in ms: workers beat as often. */
const EVERY = 2000;
/** After so long without an answer what is shown is not called the present any more, in ms. */
const NO_ANSWER = 6000;

/** The workers: what each is at, what waits for them, and which of them take nothing new. */
@Component({
  selector: 'rd-workers-page',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [RouterLink, NzSkeletonModule, WeightPipe],
  templateUrl: './workers-page.html',
  styleUrl: './workers-page.less',
})
export class WorkersPage {
  private readonly api = inject(Api);
  protected readonly view = signal<WorkersView | null>(null);
  private readonly lookedAt = signal<Date | null>(null);
  /** Why it could not be looked at again. */
  private readonly failed = signal<string | null>(null);
  protected readonly isStale = computed(() => this.failed() !== null);
  /** Why a press came to nothing. */
  private readonly refused = signal<string | null>(null);
  protected readonly trouble = computed(() => {
    const [failed, at] = [this.failed(), this.lookedAt()];
    if (!failed) return this.refused();
    return at ? `This is how it was at ${at.toLocaleTimeString('en-GB')}. ${failed}` : failed;
  });

  protected readonly rows = computed(() =>
    (this.view()?.workers ?? []).map((worker) => ({
      ...worker,
      // One that was started by hand has a long name of its own instead of a number.
      name: `${worker.host} ${worker.seat.slice(0, 8)}`,
      when: worker.since ? whenOf(worker.since) : '',
      at: atWords(worker),
      after: afterWords(worker),
    })),
  );
  protected readonly waits = computed(() => (this.view()?.waiting ?? []).map(waitingWords));
  protected readonly nobody = computed(() => {
    const view = this.view();
    return view && whyNobody(view);
  });

  constructor() {
    timer(0, EVERY)
      .pipe(
        filter(() => !document.hidden),
        exhaustMap(() =>
          this.api.getWorkers().pipe(
            timeout(NO_ANSWER),
            map((view) => ({ view })),
            catchError((error: unknown) =>
              of({ trouble: error instanceof TimeoutError ? 'The server does not answer.' : sentenceOf(error) }),
            ),
          ),
        ),
        takeUntilDestroyed(),
      )
      .subscribe((found) => {
        this.failed.set('trouble' in found ? found.trouble : null);
        if (!('view' in found)) return;
        this.view.set(found.view);
        this.lookedAt.set(new Date());
      });
  }

  protected drain(workerId: string, drained: boolean): void {
    this.api.changeWorker({ workerId, body: { drained } }).subscribe({
      next: () => {
        this.refused.set(null);
        this.view.update(
          (view) => view && { ...view, workers: view.workers.map((one) => (one.id === workerId ? { ...one, drained } : one)) },
        );
      },
      error: (error: unknown) => this.refused.set(sentenceOf(error)),
    });
  }

  protected readonly length = duration;
}

/** The time of today, or the day before it. */
function whenOf(since: string): string {
  const time = new Date(since);
  const isToday = time.toDateString() === new Date().toDateString();
  return time.toLocaleString(
    'en-GB',
    isToday ? { timeStyle: 'short' } : { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' },
  );
}
