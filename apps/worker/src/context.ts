import type { RenderPool } from '@rundle/render';
import { type Database, type Files, isDatabaseAway, whenThere } from '@rundle/store';
import type { Logger } from 'pino';
import type { Tally } from './alive/tally';

/** What a worker works with. */
export interface Context {
  database: Database;
  files: Files;
  pool: RenderPool;
  log: Logger;
  tally: Tally;
  /** Aborted when the program is told to end. */
  ending: AbortSignal;
}

/** Does something in the database, and waits for it while it is away. See {@link whenThere}. */
export function inDatabase<T>({ log, ending }: Context, act: () => Promise<T>): Promise<T> {
  return whenThere(act, (error) => log.warn({ err: error }, 'the database is away; waiting for it'), ending);
}

/** Logs an error that no caller waits for. */
export function logFailure(log: Logger, what: string): (error: unknown) => void {
  return (error) => {
    if (isDatabaseAway(error)) log.warn({ err: error }, `${what}: the database is away`);
    else log.error({ err: error }, `${what} failed`);
  };
}
