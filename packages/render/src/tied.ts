import { existsSync } from 'node:fs';

/** Part of every Debian system (util-linux). */
const SETPRIV = '/usr/bin/setpriv';
const PRLIMIT = '/usr/bin/prlimit';

/**
 * A command that the system ends together with the thread that begins it, however that ends, so that no process is left behind that
 * nobody waits for.
 * @param memory the most that it may take, in bytes of address space
 */
export function tied(command: readonly string[], memory: number): string[] {
  const limited = existsSync(PRLIMIT) ? [PRLIMIT, `--as=${memory}`, ...command] : [...command];
  return existsSync(SETPRIV) ? [SETPRIV, '--pdeathsig', 'KILL', ...limited] : limited;
}
