import { fork } from 'node:child_process';
import { readFileSync } from 'node:fs';

/** What a child may take. */
export interface ChildBounds {
  /** Time until it has answered, ms. */
  ms: number;
  /** Heap of its script, MB. */
  heapMB: number;
  /** Memory that it holds in all, MB. */
  residentMB: number;
}

/** Why there was no answer: it took longer, or more memory, than it may; or it ended by itself. */
export type NoAnswer = 'overdue' | 'too-large' | 'ended';

/** How often it is looked how much memory a child holds, ms. */
const LOOK_MS = 50;
/** Bytes of a page, as Linux counts them on machines that Node.js is built for (getconf PAGESIZE). */
const PAGE = 4096;

/**
 * Asks a program of ours that does one thing and ends, within bounds: what it works on may be hostile.
 * @param program path of the bundled program, which is sent `order` and sends one answer
 */
export function askChild(program: string, order: object, { ms, heapMB, residentMB }: ChildBounds): Promise<{ answer: unknown } | NoAnswer> {
  const child = fork(program, {
    execArgv: [`--max-old-space-size=${heapMB}`],
    serialization: 'advanced',
    stdio: ['ignore', 'ignore', 'ignore', 'ipc'],
  });
  return new Promise((resolve) => {
    const end = (told: { answer: unknown } | NoAnswer) => {
      clearTimeout(overdue);
      clearInterval(looking);
      resolve(told);
      child.kill('SIGKILL');
    };
    const overdue = setTimeout(() => end('overdue'), ms);
    const looking = setInterval(() => residentOf(child.pid) > residentMB * 1e6 && end('too-large'), LOOK_MS);
    child.once('message', (answer) => end({ answer }));
    child.once('error', () => end('ended'));
    child.once('exit', () => end('ended'));
    child.send(order, (error) => error && end('ended'));
  });
}

/** Memory that a process holds, bytes (proc(5), /proc/PID/statm); 0 where that is not told. */
function residentOf(pid: number | undefined): number {
  try {
    return PAGE * Number(readFileSync(`/proc/${pid}/statm`, 'utf8').split(' ')[1]);
  } catch {
    return 0;
  }
}
