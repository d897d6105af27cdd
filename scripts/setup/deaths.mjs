// @ts-check
import { readFileSync } from 'node:fs';

/** Ends that what a program worked on can have caused: it aborted, also for want of heap, or touched memory or did what it must not. */
const OF_THE_PICTURE = new Set(['SIGABRT', 'SIGSEGV', 'SIGILL', 'SIGBUS']);
/** The same as exit codes: 128 and the number of the signal, as shells and Node.js tell it. */
const ABORTED = 134;

/** A kill counts as one for want of memory when the kernel's counter rose so shortly before or after, in ms. */
const NEAR = 10_000;

/**
 * Why a worker ended: `picture` when what it worked on can have been the cause.
 * @param {number | null} code
 * @param {NodeJS.Signals | null} signal
 * @param {{ roseWithin: (ms: number) => boolean }} memoryKills
 * @returns {'picture' | 'other'}
 */
export function causeOfDeath(code, signal, memoryKills) {
  if (code === ABORTED || (signal !== null && OF_THE_PICTURE.has(signal))) return 'picture';
  return signal === 'SIGKILL' && memoryKills.roseWithin(NEAR) ? 'picture' : 'other';
}

/** Watches how often the kernel has killed a program for want of memory (proc(5), /proc/vmstat, oom_kill). */
export function watchMemoryKills() {
  let last = memoryKills();
  let rose = -Infinity;
  const look = () => {
    const now = memoryKills();
    if (now > last) rose = Date.now();
    last = now;
  };
  const timer = setInterval(look, 1000);
  timer.unref();
  return {
    /** @param {number} ms */
    roseWithin(ms) {
      look();
      return Date.now() - rose < ms;
    },
    end: () => clearInterval(timer),
  };
}

function memoryKills() {
  try {
    return Number(/^oom_kill (\d+)$/m.exec(readFileSync('/proc/vmstat', 'utf8'))?.[1] ?? 0);
  } catch {
    return 0;
  }
}
