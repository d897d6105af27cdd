import { setTimeout as wait } from 'node:timers/promises';

/** How often it is looked, in ms. */
const EVERY = 100;
/** What the time between two looks counts for at most, in ms: while a machine stood still, nobody could do what is waited for. */
const COUNTED = 1000;

/** A clock that stands still with the machine: it is told of each look, and goes on by what lies between two of them. */
export class LookingClock {
  ms = 0;
  private last = Date.now();

  look(): number {
    const now = Date.now();
    this.ms += Math.min(COUNTED, now - this.last);
    this.last = now;
    return this.ms;
  }
}

/**
 * Waits until something is so.
 * @param within how long at most, in ms
 * @returns whether it has become so
 */
export async function becomesSo(is: () => Promise<boolean>, within: number): Promise<boolean> {
  for (const clock = new LookingClock(); !(await is()); clock.look()) {
    if (clock.ms > within) return false;
    await wait(EVERY);
  }
  return true;
}
