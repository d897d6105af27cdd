import type { Stage } from '@rundle/render';

/** Steps on the way of an output, in their order, the one of a reading, and those of files that get another place. */
export type FaultPoint = Stage | 'hashed' | 'recorded' | 'moved' | 'done' | 'read' | 'taken' | 'all-taken' | 'put' | 'moved-all';

/** For tests: the step at which this program kills itself, as in a power failure. */
const CRASH_AT = process.env['RUNDLE_CRASH_AT'] ?? '';
/** For tests: the step at which it stands still, once, until it gets SIGCONT, as on a machine that stalls. */
let stopAt = process.env['RUNDLE_STOP_AT'] ?? '';

/** Called at each step; stops only in tests. */
export function faultPoint(point: FaultPoint): void {
  if (point === CRASH_AT) process.kill(process.pid, 'SIGKILL');
  if (point !== stopAt) return;
  stopAt = '';
  process.kill(process.pid, 'SIGSTOP');
}
