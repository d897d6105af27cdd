import { fork } from 'node:child_process';
import { readFileSync } from 'node:fs';

/** What a child may take. */
export interface ChildBounds {
  /** Time until it has answered, ms. */
  ms: number;
  /** Time of the processor that it may take, ms: the same on a busy machine. */
  cpuMs: number;
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
export function askChild(
  program: string,
  order: object,
  { ms, cpuMs, heapMB, residentMB }: ChildBounds,
): Promise<{ answer: unknown } | NoAnswer> {
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
    const looking = setInterval(() => {
      if (residentOf(child.pid) > residentMB * 1e6) end('too-large');
      else if (processorMsOf(child.pid) > cpuMs) end('overdue');
    }, LOOK_MS);
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

/** Processor time that a process has taken, ms (proc(5), /proc/PID/stat, fields 14 and 15, in ticks of 10 ms); 0 where that is not told. */
function processorMsOf(pid: number | undefined): number {
  try {
    const fields = readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ')[1]!.split(' ');
    return 10 * (Number(fields[11]) + Number(fields[12]));
  } catch {
    return 0;
  }
}
