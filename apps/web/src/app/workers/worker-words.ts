import { counted, type WaitingWork, type WorkersView, type WorkerView } from '@rundle/core';
import { duration } from '../look/figures';

/** From when on it is told for how long a worker has been at a picture, in ms. */
const LONG = 5000;

const AT: Record<NonNullable<WorkerView['work']>['kind'], string> = {
  read: 'reads',
  weigh: 'weighs',
  see: 'looks for what draws the eye in',
  check: 'checks a watermark',
  make: 'makes files of',
  move: 'puts files into their places',
};

/** What a worker is at, in words, before the name of its picture. */
export function atWords({ silent, beatSecondsAgo, work, drained }: WorkerView): string {
  if (silent) return `has not been heard of for ${duration(beatSecondsAgo)}`;
  if (work) return AT[work.kind];
  return drained ? 'takes nothing new' : 'waits for work';
}

/** What follows the name of the picture. */
export function afterWords({ silent, busyMs, work, drained }: WorkerView): string {
  if (silent || !work) return '';
  const long = busyMs !== null && busyMs > LONG ? `, for ${duration(busyMs / 1000)}` : '';
  return `${long}${drained ? ', then nothing new' : ''}`;
}

/** What waits, in a sentence. */
export function waitingWords({ kind, pieces, files, paused }: WaitingWork): string {
  const pictures = counted(pieces, 'picture');
  const are = pieces === 1 ? 'is' : 'are';
  switch (kind) {
    case 'make':
      return `${counted(files, 'file')} of ${pictures} ${files === 1 ? 'is' : 'are'} to be made${paused ? `; ${counted(paused, 'picture')} of runs that are paused` : ''}`;
    case 'read':
      return `${pictures} ${are} to be read`;
    case 'weigh':
      return `${pictures} ${are} to be weighed, once nothing else is to do`;
    case 'see':
      return `${pictures} ${are} to be looked at for crops`;
    case 'check':
      return `${counted(pieces, 'watermark')} ${are} to be checked`;
    case 'move':
      return 'Files are to be put into their places';
  }
}

/** Why nobody works on what waits; null: somebody does, or nothing waits. */
export function whyNobody({ workers, waiting }: WorkersView): string | null {
  if (waiting.every(({ pieces, paused }) => pieces === paused)) return null;
  if (workers.some(({ drained, silent }) => !drained && !silent)) return null;
  if (workers.length === 0) return 'No worker is there. What waits is begun as soon as one is.';
  return workers.some(({ drained, silent }) => drained && !silent)
    ? 'No worker takes anything new. Wake one, and what waits is begun.'
    : 'No worker has been heard of lately. What waits is begun as soon as one is there.';
}
