import type { Problem } from '@rundle/core';
import { isDatabaseAway, notifyTopic, type StandingOrderRow } from '@rundle/store';
import { identityOf } from '@rundle/watch';
import { HttpProblem } from '../http/problem';
import { inRoots } from '../machine/folders';
import type { Services } from '../services';
import { OrderWatch } from './order-watch';
import { startRuns } from './start-runs';

/** How often all orders are looked after, in ms. */
const TURN_MS = 1000;
/** How long after a run could not be started the next one is tried, in ms. */
const TRY_AGAIN_MS = 20_000;

/** Carries out the standing orders that are on: follows their folders, gathers what comes to rest there, and runs it. */
export class StandingOrders {
  private readonly watches = new Map<string, OrderWatch>();
  /** Why the last run of an order could not be started, and until when none is tried unless the order is changed. */
  private readonly refusals = new Map<string, { problem: Problem; until: number; of: string }>();
  private timer: NodeJS.Timeout | null = null;
  private turning: Promise<void> | null = null;

  constructor(private readonly services: Services) {}

  start(): void {
    this.timer = setInterval(() => this.turn(), TURN_MS);
  }

  /** Ends all watching, after what is under way. */
  async end(): Promise<void> {
    if (this.timer) clearInterval(this.timer);
    await this.turning;
    await Promise.all([...this.watches.values()].map((watch) => watch.close()));
    this.watches.clear();
  }

  private turn(): void {
    this.turning ??= this.lookAfterAll()
      .catch((error: unknown) => {
        const { log } = this.services;
        log[isDatabaseAway(error) ? 'warn' : 'error']({ err: error }, 'looking after standing orders failed; it is tried again');
      })
      .finally(() => (this.turning = null));
  }

  private async lookAfterAll(): Promise<void> {
    const { database } = this.services;
    const orders = await database.standingOrders.findAll({ where: { isOn: true, deletedAt: null } });
    for (const id of this.watches.keys()) if (!orders.some((order) => order.id === id)) await this.stop(id);
    for (const order of orders) await this.lookAfter(order);
  }

  private async lookAfter(order: StandingOrderRow): Promise<void> {
    const away = await this.follow(order);
    const problem = away ?? (await this.run(order));
    if (problem?.code === order.problem?.code && problem?.message === order.problem?.message) return;
    await order.update({ problem });
    await notifyTopic(this.services.database.sequelize, 'standing-orders');
  }

  /** Sees to it that the folder is followed that stands there now. @returns why it cannot be */
  private async follow(order: StandingOrderRow): Promise<Problem | null> {
    const { config } = this.services;
    const watch = this.watches.get(order.id);
    const identity = await identityOf(order.folder);
    try {
      if (!watch || watch.identity !== identity) await inRoots(order.folder, config.roots);
    } catch (error) {
      if (!(error instanceof HttpProblem)) throw error;
      await this.stop(order.id);
      return { code: error.code, message: messageOf(error, order.folder) };
    }
    if (watch?.identity !== identity) await this.stop(order.id);
    if (identity !== null && !this.watches.has(order.id))
      this.watches.set(order.id, await OrderWatch.start(this.services, order, identity));
    this.watches.get(order.id)?.turn();
    return null;
  }

  private async run(order: StandingOrderRow): Promise<Problem | null> {
    const refused = this.refusals.get(order.id);
    const of = JSON.stringify([order.presetIds, order.place]);
    if (refused && Date.now() < refused.until && refused.of === of) return refused.problem;
    const problem = await startRuns(this.services, order);
    if (problem) this.refusals.set(order.id, { problem, until: Date.now() + TRY_AGAIN_MS, of });
    else this.refusals.delete(order.id);
    return problem;
  }

  private async stop(id: string): Promise<void> {
    const watch = this.watches.get(id);
    this.watches.delete(id);
    await watch?.close();
  }
}

const messageOf = ({ code, message }: HttpProblem, folder: string): string =>
  code === 'no-folder'
    ? `${folder} is not there, or cannot be opened. What comes meanwhile is taken as soon as the folder is back.`
    : message;
