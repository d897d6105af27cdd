import { EventEmitter } from 'node:events';
import { setTimeout as wait } from 'node:timers/promises';
import { claim, type Claim, isDatabaseAway, type JobName, Jobs, letGo, offer, type WorkIds, workKey } from '@rundle/store';
import type { TaskList, WorkerEvents } from 'graphile-worker';
import { type Context, inDatabase } from './context';
import { checkWatermark } from './work/check-watermark';
import { moveOutputsJob } from './work/move-outputs';
import { readMaster } from './work/read-master';
import { seeMaster } from './work/see-master';
import { weighMaster } from './work/weigh-master';
import { Interrupted, renderMasterJob } from './work/render-master';

/** Pause before work is retried after an internal error, in seconds. */
const AFTER_ERROR = 2;

/**
 * What this worker does with the queue's jobs. A job only says that there is work; who claims it in the table `work` has it, so that
 * jobs that come twice, or late, do no harm.
 */
export class WorkList {
  /** What is being rendered now, with its run, to stop it when the run is cancelled or paused: several pictures of one at a time. */
  private readonly underWay = new Map<AbortController, string>();

  constructor(
    private readonly context: Context,
    private readonly workerId: string,
  ) {}

  readonly tasks: TaskList = {
    'read-master': (payload) => this.take('read-master', Jobs['read-master'].parse(payload)),
    'weigh-master': (payload) => this.take('weigh-master', Jobs['weigh-master'].parse(payload)),
    'see-master': (payload) => this.take('see-master', Jobs['see-master'].parse(payload)),
    'check-watermark': (payload) => this.take('check-watermark', Jobs['check-watermark'].parse(payload)),
    'render-master': (payload) => this.take('render-master', Jobs['render-master'].parse(payload)),
    'move-outputs': (payload) => this.take('move-outputs', Jobs['move-outputs'].parse(payload)),
  };

  /** Tells the name under which the queue locks jobs for this program. */
  events(onPool: (poolId: string) => void): WorkerEvents {
    const events = new EventEmitter() as WorkerEvents;
    events.on('pool:create', ({ workerPool }) => onPool(workerPool.id));
    return events;
  }

  /** Ends what is under way of a run that was cancelled or paused, between two outputs. */
  stop(runId: string): void {
    for (const [stop, of] of this.underWay) if (of === runId) stop.abort();
  }

  private async take(name: JobName, ids: WorkIds): Promise<void> {
    const { sequelize } = this.context.database;
    if (this.context.ending.aborted) return;
    const mine = await inDatabase(this.context, () => claim(sequelize, workKey(name, ids), this.workerId));
    if (!mine) return; // done, or another worker has it
    const { log } = this.context;
    const begun = performance.now();
    this.context.tally.begin();
    log.debug({ work: mine.key, attempt: mine.attempt }, 'work begun');
    try {
      await this.carryOut(mine);
      log.debug({ work: mine.key, attempt: mine.attempt, ms: Math.round(performance.now() - begun) }, 'work ended');
    } catch (error) {
      await this.giveBack(mine, error);
    } finally {
      this.context.tally.end(name);
    }
  }

  private async carryOut(mine: Claim): Promise<void> {
    switch (mine.name) {
      case 'read-master':
        return readMaster(this.context, mine, Jobs['read-master'].parse(mine.payload));
      case 'weigh-master':
        return weighMaster(this.context, mine, Jobs['weigh-master'].parse(mine.payload));
      case 'see-master':
        return seeMaster(this.context, mine, Jobs['see-master'].parse(mine.payload));
      case 'check-watermark':
        return checkWatermark(this.context, mine, Jobs['check-watermark'].parse(mine.payload));
      case 'move-outputs':
        return moveOutputsJob(this.context, mine, Jobs['move-outputs'].parse(mine.payload));
      case 'render-master': {
        const job = Jobs['render-master'].parse(mine.payload);
        const stop = new AbortController();
        this.underWay.set(stop, job.runId);
        try {
          await renderMasterJob(this.context, mine, job, AbortSignal.any([stop.signal, this.context.ending]));
        } finally {
          this.underWay.delete(stop);
        }
      }
    }
  }

  /** A shutdown does not count against the work; any other error is internal and does, so that retries end. */
  private async giveBack(mine: Claim, error: unknown): Promise<void> {
    const { database, log, ending } = this.context;
    const isOurs = !(error instanceof Interrupted) && !ending.aborted && !isDatabaseAway(error);
    // A picture that takes all memory of its thread ends the thread, not the program.
    const cause = !isOurs ? null : codeOf(error) === 'ERR_WORKER_OUT_OF_MEMORY' ? 'picture' : 'other';
    if (isOurs) log.error({ err: error, work: mine.key }, 'work failed; it is tried again');
    const back = async () => {
      await letGo(database.sequelize, mine, cause);
      await offer(database.sequelize, [mine.key], isOurs ? AFTER_ERROR : 0);
    };
    // During a shutdown one try is enough: work that stays held is taken over as from a dead worker.
    if (ending.aborted) await Promise.race([back().catch(() => {}), wait(3000)]);
    else await inDatabase(this.context, back);
  }
}

const codeOf = (error: unknown): unknown => (error instanceof Error && 'code' in error ? error.code : null);
