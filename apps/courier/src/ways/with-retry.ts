import { setTimeout as wait } from 'node:timers/promises';
import { ProblemError } from '@rundle/core';
import { connectionWords } from '@rundle/transport';
import { type Job, Stopped } from '../job';

/** Pauses between tries, ms: a line that is down for a minute or two is waited for. */
const PAUSES = [500, 1000, 2000, 4000, 8000, 15_000, 15_000, 30_000, 30_000];

/**
 * Does something that needs a receiver, again and again while the line breaks; what somebody has to decide about is told at once.
 * @param attempt opens the line anew each time; whether it has got any further since is for `progress` to say
 * @param progress grows with what has been done: as long as it does, tries begin anew
 * @throws ProblemError, Stopped
 */
export async function withRetry(job: Job, attempt: () => Promise<void>, progress: () => number): Promise<void> {
  let before = progress();
  for (let tries = 0; ; tries++) {
    job.goOn();
    try {
      return await attempt();
    } catch (error) {
      if (error instanceof ProblemError || error instanceof Stopped) throw error;
      job.goOn();
      const now = progress();
      if (now > before) [before, tries] = [now, 0];
      const words = connectionWords(error);
      if (tries >= PAUSES.length)
        throw new ProblemError({ code: 'not-reached', message: `${words} It was tried ${PAUSES.length + 1} times.` });
      // Not the error itself: what packages hang on it may tell what was said to the receiver.
      job.context.log.info(
        { why: error instanceof Error ? error.message : String(error), delivery: job.row.id },
        'the line to a receiver broke',
      );
      await job.say(`${words} It is tried again.`);
      await wait(PAUSES[tries], undefined, { signal: job.signal }).catch(() => {});
    }
  }
}
