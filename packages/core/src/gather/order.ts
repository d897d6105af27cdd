import type { MasterFacts } from '../facts/facts';
import type { Marks } from './marks';

/** What pictures can be sorted by. */
export type SortKey = 'name' | 'size' | 'weight' | 'profile' | 'bits' | 'captured' | 'stars' | 'choice' | 'tags';

interface Sortable extends Pick<Marks, 'stars' | 'choice' | 'tags'> {
  id: string;
  fileName: string;
  bytes: number;
  facts: Pick<MasterFacts, 'width' | 'height' | 'profile' | 'bits' | 'captured'> | null;
}

const natural = new Intl.Collator('en', { numeric: true, sensitivity: 'base' });

/** Compares names as people sort them: `2.jpg` before `10.jpg`, whatever the case. */
export const naturally = (a: string, b: string): number => natural.compare(a, b);

/** What is compared; null where there is nothing to compare. */
const VALUES: Record<SortKey, (picture: Sortable) => string | number | null> = {
  name: ({ fileName }) => fileName,
  size: ({ facts }) => facts && facts.width * facts.height,
  weight: ({ bytes }) => bytes,
  profile: ({ facts }) => facts?.profile ?? null,
  bits: ({ facts }) => facts?.bits ?? null,
  // The clock as the camera showed it.
  captured: ({ facts }) => facts?.captured ?? null,
  stars: ({ stars }) => -stars,
  choice: ({ choice }) => (choice === 'pick' ? 0 : choice === 'out' ? 2 : 1),
  tags: ({ tags }) => tags.join(', ') || null,
};

/**
 * Ids in another order: from small to large, but stars from most to fewest. What is equal keeps its order among itself, and what
 * has no such value comes last.
 * @param turned the other way round; what has no value still comes last
 */
export function sortedIds(pictures: readonly Sortable[], by: SortKey, turned = false): string[] {
  const valued = pictures.map((picture) => ({ id: picture.id, value: VALUES[by](picture) }));
  const sorted = valued
    .filter(({ value }) => value !== null)
    .sort((a, b) => (turned ? compare(b.value!, a.value!) : compare(a.value!, b.value!)));
  return [...sorted, ...valued.filter(({ value }) => value === null)].map(({ id }) => id);
}

const compare = (a: string | number, b: string | number): number => (typeof a === 'string' ? naturally(a, String(b)) : a - Number(b));

/**
 * Ids after some have been dragged: they keep their order among themselves and stand before another.
 * @param before id of the picture that they come to stand before; null: at the end
 * @example movedIds(['a', 'b', 'c', 'd'], new Set(['b', 'd']), 'a') // ['b', 'd', 'a', 'c']
 */
export function movedIds(ids: readonly string[], moving: ReadonlySet<string>, before: string | null): string[] {
  const staying = ids.filter((id) => !moving.has(id));
  const carried = ids.filter((id) => moving.has(id));
  // Dropped on one of themselves, they gather before the next that stays.
  const target = before !== null && moving.has(before) ? (ids.slice(ids.indexOf(before)).find((id) => !moving.has(id)) ?? null) : before;
  const at = target === null ? staying.length : staying.indexOf(target);
  return at < 0 ? [...ids] : [...staying.slice(0, at), ...carried, ...staying.slice(at)];
}
