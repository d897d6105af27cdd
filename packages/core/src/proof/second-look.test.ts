import { expect, it } from 'vitest';
import { dueLooks, type SecondLook, stampedLooks } from './second-look';

const look = (n: number, markedAt: string | null, note = 'Horizon?'): SecondLook => ({
  masterId: `00000000-0000-4000-8000-00000000000${n}`,
  presetId: '00000000-0000-4000-8000-0000000000aa',
  note,
  markedAt,
});
const noon = '2026-06-20T12:00:00.000Z';
const later = '2026-06-20T13:00:00.000Z';

it('a second look is due until its file has been made anew', () => {
  const made = new Map([
    [look(1, noon).masterId, Date.parse(later)],
    [look(2, noon).masterId, Date.parse('2026-06-20T11:00:00.000Z')],
  ]);
  const due = dueLooks([look(1, noon), look(2, noon), look(3, noon), look(4, null)], ({ masterId }) => made.get(masterId) ?? null);
  expect(due.map(({ masterId }) => masterId.at(-1))).toEqual(['2', '3', '4']);
});

it('a second look keeps its time, unless it says something else now', () => {
  const after = stampedLooks([look(1, noon), look(2, noon)], [look(1, null), look(2, null, 'Sky!'), look(3, null)], later);
  expect(after.map(({ markedAt }) => markedAt)).toEqual([noon, later, later]);
});
