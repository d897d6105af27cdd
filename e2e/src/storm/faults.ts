import { readdirSync, readFileSync } from 'node:fs';
import { setTimeout as wait } from 'node:timers/promises';
import type { Application } from '../application';
import { pick } from './random';

export type Target = 'worker' | 'all workers' | 'server' | 'database backend' | 'database';

/** Something that is done to the application: a kill, or a pause of so many ms. */
export interface Fault {
  target: Target;
  pauseMs: number | null;
}

/** A fault by chance: kills and pauses about as often, short pauses more often than long ones. */
export function faultBy(random: () => number, longestPause: number): Fault {
  const target = pick(['worker', 'worker', 'all workers', 'server', 'database backend', 'database'] as const, random);
  const pauses = target !== 'database backend' && random() < 0.5;
  return { target, pauseMs: pauses ? 5000 + random() ** 2 * (longestPause - 5000) : null };
}

/** Does it; resolves when the kill has been sent, or the pause has ended. @returns false when there was nobody to do it to */
export async function inflict({ target, pauseMs }: Fault, application: Application, random: () => number): Promise<boolean> {
  const victims = victimsOf(target, application, random);
  if (victims.length === 0) return false;
  if (pauseMs === null) {
    for (const pid of victims) signal(pid, 'SIGKILL');
    return true;
  }
  for (const pid of victims) signal(pid, 'SIGSTOP');
  await wait(pauseMs);
  for (const pid of victims) signal(pid, 'SIGCONT');
  return true;
}

function victimsOf(target: Target, application: Application, random: () => number): number[] {
  const [postmaster] = application.children('bin/postgres');
  const some = (pids: number[]) => (pids.length ? [pick(pids, random)] : []);
  switch (target) {
    case 'worker':
      return some(application.children('dist/worker.js'));
    case 'all workers':
      return application.children('dist/worker.js');
    case 'server':
      return application.children('dist/server.js');
    case 'database backend':
      return postmaster === undefined ? [] : some(childrenOf(postmaster).filter(isBackend));
    case 'database':
      return postmaster === undefined ? [] : [postmaster, ...childrenOf(postmaster)];
  }
}

function signal(pid: number, name: NodeJS.Signals): void {
  try {
    process.kill(pid, name);
  } catch {
    // It has ended by itself meanwhile.
  }
}

const childrenOf = (parent: number): number[] =>
  readdirSync('/proc')
    .filter((name) => /^\d+$/.test(name))
    .map(Number)
    .filter((pid) => parentOf(pid) === parent);

function parentOf(pid: number): number | null {
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, 'utf8');
    return Number(stat.slice(stat.lastIndexOf(')')).split(' ')[2]);
  } catch {
    return null;
  }
}

/** A process of the database that serves a connection, by what it calls itself. */
function isBackend(pid: number): boolean {
  try {
    return /^postgres: \S+ \S+ 127\.0\.0\.1/.test(readFileSync(`/proc/${pid}/cmdline`, 'utf8'));
  } catch {
    return false;
  }
}
