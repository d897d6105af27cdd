/** What pictures can be sorted by. */
export const SORT_KEYS = ['name', 'captured', 'weight', 'stars'] as const;
export type SortKey = (typeof SORT_KEYS)[number];

interface Sortable {
  id: string;
  fileName: string;
  bytes: number;
  stars: number;
  facts: { captured: string | null } | null;
}

const natural = new Intl.Collator('en', { numeric: true, sensitivity: 'base' });

/** Compares names as people sort them: `2.jpg` before `10.jpg`, whatever the case. */
export const naturally = (a: string, b: string): number => natural.compare(a, b);

type Compare = (a: Sortable, b: Sortable) => number;

const COMPARE: Record<SortKey, Compare> = {
  name: (a, b) => naturally(a.fileName, b.fileName),
  // The clock as the camera showed it. What has no time comes last.
  captured: (a, b) => (timeOf(a) < timeOf(b) ? -1 : timeOf(a) > timeOf(b) ? 1 : 0),
  weight: (a, b) => a.bytes - b.bytes,
  stars: (a, b) => b.stars - a.stars,
};

const timeOf = ({ facts }: Sortable): string => facts?.captured ?? '~';

/** Ids in another order; what is equal keeps its order among itself. Stars go from most to fewest, all else from small to large. */
export const sortedIds = (pictures: readonly Sortable[], by: SortKey): string[] => pictures.toSorted(COMPARE[by]).map(({ id }) => id);

/**
 * Ids after some have been dragged: they keep their order among themselves and stand before another.
 * @param before id of the picture that they come to stand before; null: at the end
 */
export function movedIds(ids: readonly string[], moving: ReadonlySet<string>, before: string | null): string[] {
  const staying = ids.filter((id) => !moving.has(id));
  const carried = ids.filter((id) => moving.has(id));
  // Dropped on one of themselves, they gather before the next that stays.
  const target = before !== null && moving.has(before) ? (ids.slice(ids.indexOf(before)).find((id) => !moving.has(id)) ?? null) : before;
  const at = target === null ? staying.length : staying.indexOf(target);
  return at < 0 ? [...ids] : [...staying.slice(0, at), ...carried, ...staying.slice(at)];
}
