import { setTimeout as wait } from 'node:timers/promises';
import { ConnectionError } from 'sequelize';

/** Errors of PostgreSQL (its manual, appendix A) that say that the server, not the question, is at fault. */
const SERVER_GONE = /^(?:08|57P0)/;
/** Network errors when the database does not listen, or has gone. */
const NETWORK = /^(?:ECONN|EPIPE|ETIMEDOUT|EHOST|ENET)/;
/** Messages of the driver about a connection that broke half-way. */
const BROKEN = /Connection terminated|server closed the connection|Client has encountered a connection error/i;

/** Whether an error means that the database cannot be reached at the moment, so that waiting helps. All other errors are internal. */
export function isDatabaseAway(error: unknown): boolean {
  for (let at = error; at instanceof Error; at = causeOf(at)) {
    if (at instanceof ConnectionError) return true;
    const code = 'code' in at && typeof at.code === 'string' ? at.code : '';
    if (SERVER_GONE.test(code) || NETWORK.test(code) || BROKEN.test(at.message)) return true;
  }
  return false;
}

const causeOf = (error: Error): unknown => ('parent' in error ? error.parent : error.cause);

/** Between two tries to reach the database, in ms. */
const PAUSE = 500;

/**
 * Does something in the database, again and again while the database is away. What is done has to be such that doing it twice
 * is the same as once: a connection can break after the change was made and before that was said.
 * @param onAway called once, when the database turns out to be away
 * @param signal ends the waiting: the error of the last try is thrown then
 */
export async function whenThere<T>(act: () => Promise<T>, onAway: (error: unknown) => void = () => {}, signal?: AbortSignal): Promise<T> {
  for (let told = false; ; told = true) {
    try {
      return await act();
    } catch (error) {
      if (!isDatabaseAway(error) || signal?.aborted) throw error;
      if (!told) onAway(error);
      await wait(PAUSE, undefined, { signal }).catch(() => {});
    }
  }
}
