import {
  BEAT,
  claimSpent,
  type DeathCause,
  DEAD_AFTER,
  deadWorkers,
  markStalled,
  offer,
  offerForgotten,
  restoreLost,
  removeWorker,
  takeFrom,
  unknownHolders,
  type WorkerEnd,
} from '@rundle/store';
import type { WorkerUtils } from 'graphile-worker';
import { type Context, logFailure } from '../context';
import { finishRuns } from '../work/finish-run';
import { giveUp } from './give-up';
import type { Presence } from './presence';
import { tellReplaced } from './tell-replaced';

/** Every so many rounds, also looks for work that the queue has lost. */
const RESTORE_EVERY = 5;

/** A worker that ended, as its supervisor saw it. */
export interface ReportedDeath {
  workerId: string;
  cause: DeathCause;
}

/**
 * Supervises the other workers: gives the work of dead workers back to the queue, gives up what has used up its attempts, offers what was
 * forgotten, ends runs in which nothing is left. Every worker does so; it is safe to do twice.
 */
export class Watch {
  private timer: NodeJS.Timeout | undefined;
  private looking = Promise.resolve();
  private ended = false;
  private turn = 0;

  /**
   * @param workerId name of this worker
   * @param onStalled told of workers that hold their lock and do not beat: whoever started them may replace them
   */
  constructor(
    private readonly context: Context,
    private readonly utils: WorkerUtils,
    private readonly workerId: string,
    private readonly presence: Presence,
    private readonly onStalled: (workerIds: string[]) => void,
  ) {}

  start(): void {
    this.timer = setTimeout(() => {
      this.looking = this.look()
        .catch(logFailure(this.context.log, 'looking after the other workers'))
        .then(() => {
          if (!this.ended) this.start();
        });
    }, BEAT);
  }

  async end(): Promise<void> {
    this.ended = true;
    clearTimeout(this.timer);
    await this.looking;
  }

  /** Takes over from workers whose end their supervisor has seen: no waiting is needed. */
  async bury(deaths: readonly ReportedDeath[]): Promise<void> {
    const { sequelize } = this.context.database;
    for (const { workerId, cause } of deaths) {
      await offer(sequelize, await takeFrom(sequelize, workerId, cause), 0);
      const end = await removeWorker(sequelize, workerId);
      if (end) await this.unlock([end]);
    }
    await this.giveUpSpent();
  }

  private async look(): Promise<void> {
    const { sequelize } = this.context.database;
    // A worker that has just reconnected cannot tell dead workers from those that are still reconnecting.
    if (this.presence.steadyFor > DEAD_AFTER * 1000) {
      const dead = await deadWorkers(sequelize);
      for (const { id } of [...dead, ...(await unknownHolders(sequelize))]) await this.bury([{ workerId: id, cause: 'other' }]);
      await this.replaceStalled();
    }
    await this.giveUpSpent();
    await offerForgotten(sequelize);
    const lost = this.turn++ % RESTORE_EVERY === 0 ? await restoreLost(sequelize) : 0;
    if (lost) this.context.log.warn({ lost }, 'work that nothing was known of is done after all');
    await finishRuns(this.context);
  }

  /** A worker that is stopped holds its lock; its work is taken over, and what it still writes is refused. */
  private async replaceStalled(): Promise<void> {
    const { sequelize } = this.context.database;
    const stalled = await markStalled(sequelize);
    for (const { id } of stalled) {
      const keys = await takeFrom(sequelize, id, 'other');
      await tellReplaced(this.context.database, keys);
      await offer(sequelize, keys, 0);
    }
    await this.unlock(stalled);
    if (stalled.length) this.onStalled(stalled.map(({ id }) => id));
  }

  private async giveUpSpent(): Promise<void> {
    for (const work of await claimSpent(this.context.database.sequelize, this.workerId)) await giveUp(this.context, work);
  }

  /** Jobs of the queue that a dead worker had locked would stay so for hours. */
  private async unlock(ends: readonly WorkerEnd[]): Promise<void> {
    const pools = ends.flatMap(({ poolId }) => poolId ?? []);
    if (pools.length) await this.utils.forceUnlockWorkers(pools);
  }
}
