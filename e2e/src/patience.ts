import { setTimeout as wait } from 'node:timers/promises';

/** How often it is looked, in ms. */
const EVERY = 100;
/** What one look counts for at most, in ms: while a machine stood still, nobody could do what is waited for. */
const COUNTED = 1000;

/**
 * Waits until something is so.
 * @param within how long at most, in ms
 * @returns whether it has become so
 */
export async function becomesSo(is: () => Promise<boolean>, within: number): Promise<boolean> {
  let waited = 0;
  for (let last = Date.now(); !(await is());) {
    if (waited > within) return false;
    await wait(EVERY);
    const now = Date.now();
    waited += Math.min(COUNTED, now - last);
    last = now;
  }
  return true;
}
