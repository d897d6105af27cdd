import { endSentence } from '../record/record';
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
export function daySentence({ taken, reading, unreadable, refused, counts, why }: OrderDay): string {
  const could = refused ? `${refused} could not come in` : '';
  if (taken === 0) return `Nothing came today${could ? `; ${could}` : ''}`;
  const made = counts.done + counts.failed + counts.skipped + counts.cancelled;
  const running = made < counts.total;
  const parts = [
    `${taken} ${taken === 1 ? 'picture' : 'pictures'} today`,
    reading ? `${reading} being read` : '',
    running ? `${made} of ${counts.total} files made` : counts.total ? endSentence(counts, why) : '',
    unreadable ? `${unreadable} cannot be read` : '',
    could,
  ];
  return parts.filter(Boolean).join('; ');
}
