import { setTimeout as wait } from 'node:timers/promises';
import { ConnectionError } from 'sequelize';

/** Errors of PostgreSQL (its manual, appendix A) that say that the server, not the question, is at fault. */
const SERVER_GONE = /^(?:08|57P0)/;
/** Network errors when the database does not listen, or has gone. */
const NETWORK = /^(?:ECONN|EPIPE|ETIMEDOUT|EHOST|ENET)/;
/** Messages of the driver about a connection that broke half-way. */
const BROKEN =
  /Connection terminated|timeout expired|Query read timeout|server closed the connection|Client has encountered a connection error/i;

/** Of two transactions that wait for each other PostgreSQL ends one, with nothing of it done (its manual, 13.3.4 and appendix A: deadlock_detected). */
const ENDED_FOR_ANOTHER = '40P01';

/** Whether an error means that the database cannot be reached at the moment, so that waiting helps. All other errors are internal. */
export const isDatabaseAway = (error: unknown): boolean =>
  causes(error).some(
    (cause) =>
      cause instanceof ConnectionError || SERVER_GONE.test(codeOf(cause)) || NETWORK.test(codeOf(cause)) || BROKEN.test(cause.message),
  );

const isEndedForAnother = (error: unknown): boolean => causes(error).some((cause) => codeOf(cause) === ENDED_FOR_ANOTHER);

/** An error with all that it came of. */
function causes(error: unknown): Error[] {
  if (!(error instanceof Error)) return [];
  return [error, ...causes('parent' in error ? error.parent : error.cause)];
}

const codeOf = (error: Error): string => ('code' in error && typeof error.code === 'string' ? error.code : '');

/** Between two tries to reach the database, in ms. */
const PAUSE = 500;

/**
 * Does something in the database, again and again while the database is away, and again when it was ended for another that waited for it as well. What
 * is done has to be such that doing it twice is the same as once: a connection can break after the change was made and before that was said.
 * @param onAway called once, when the database turns out to be away
 * @param signal ends the waiting: the error of the last try is thrown then
 */
export async function whenThere<T>(act: () => Promise<T>, onAway: (error: unknown) => void = () => {}, signal?: AbortSignal): Promise<T> {
  let told = false;
  for (;;) {
    try {
      return await act();
    } catch (error) {
      if (signal?.aborted) throw error;
      if (isEndedForAnother(error)) continue;
      if (!isDatabaseAway(error)) throw error;
      if (!told) onAway(error);
      told = true;
      await wait(PAUSE, undefined, { signal }).catch(() => {});
    }
  }
}
