import { runStatus } from '../record/run-status';
import type { OrderDay } from './standing-order';

/** The day of a moment where this runs, `2026-05-14`: a set of a standing order is for one of them. */
export const localDay = (at: Date): string =>
  [at.getFullYear(), at.getMonth() + 1, at.getDate()].map((part) => String(part).padStart(2, '0')).join('-');

/** @example daySetTitle('Quay gallery', '2026-05-14') // "Quay gallery 14 May 2026" */
export function daySetTitle(title: string, day: string): string {
  const date = new Date(`${day}T12:00:00Z`);
  return `${title} ${date.toLocaleDateString('en-GB', { day: 'numeric', month: 'long', year: 'numeric', timeZone: 'UTC' })}`;
}

/** What a standing order did today, in one line. */
export function daySentence({ taken, reading, unreadable, refused, counts }: OrderDay): string {
  const could = refused ? `${refused} could not come in` : '';
  if (taken === 0) return `Nothing came today${could ? `; ${could}` : ''}`;
  // Runs of the day one after the other are one to whoever looks at the order.
  const isOpen = counts.done + counts.failed + counts.skipped + counts.cancelled < counts.total;
  const { words } = runStatus({ state: isOpen ? 'running' : 'done', stopping: false, counts });
  const parts = [
    `${taken} ${taken === 1 ? 'picture' : 'pictures'} today`,
    reading ? `${reading} being read` : '',
    counts.total ? words : '',
    unreadable ? `${unreadable} cannot be read` : '',
    could,
  ];
  return parts.filter(Boolean).join('; ');
}
