import { describe, expect, it } from 'vitest';
import { soundFacts } from '../facts/sound-facts';
import { ALL_PICTURES, type Filter, isOpen, passes } from './filter';
import { marked, type Marks } from './marks';
import { movedIds, sortedIds } from './order';

const marks: Marks = { stars: 3, choice: 'pick', tags: ['Hero'] };

describe('marks', () => {
  it('change by one press, and stay the same object when nothing changes', () => {
    expect(marked(marks, { kind: 'stars', stars: 5 }).stars).toBe(5);
    expect(marked(marks, { kind: 'tag', tag: 'hero', on: true })).toBe(marks);
    expect(marked(marks, { kind: 'tag', tag: 'HERO', on: false }).tags).toEqual([]);
    expect(marked(marks, { kind: 'choice', choice: 'out' }).choice).toBe('out');
  });
});

describe('the order', () => {
  const picture = (id: string, fileName: string, captured: string | null, stars = 0) => ({
    id,
    fileName,
    bytes: fileName.length,
    stars,
    facts: { captured },
  });
  const pictures = [
    picture('a', 'p 10.jpg', '2026-06-20T22:00:00', 1),
    picture('b', 'P 9.jpg', null, 5),
    picture('c', 'p 100.jpg', '2026-06-20T21:00:00', 5),
  ];

  it('is natural by name, earliest first, most stars first, and else as it was', () => {
    expect(sortedIds(pictures, 'name')).toEqual(['b', 'a', 'c']);
    expect(sortedIds(pictures, 'captured')).toEqual(['c', 'a', 'b']);
    expect(sortedIds(pictures, 'weight')).toEqual(['b', 'a', 'c']);
    expect(sortedIds(pictures, 'stars')).toEqual(['b', 'c', 'a']);
  });

  it('keeps every picture once, wherever some are dropped', () => {
    const ids = ['a', 'b', 'c', 'd', 'e'];
    expect(movedIds(ids, new Set(['d', 'b']), 'a')).toEqual(['b', 'd', 'a', 'c', 'e']);
    expect(movedIds(ids, new Set(['a']), null)).toEqual(['b', 'c', 'd', 'e', 'a']);
    for (let mask = 0; mask < 32; mask++)
      for (const before of [...ids, null, 'unknown']) {
        const moving = new Set(ids.filter((_, at) => mask & (1 << at)));
        const moved = movedIds(ids, moving, before);
        expect(moved.toSorted()).toEqual(ids);
        expect(moved.filter((id) => moving.has(id))).toEqual([...moving]);
      }
  });
});

describe('a filter', () => {
  const picture = { id: 'x', fileName: 'LFS_0412.jpg', ...marks, codes: ['no-profile'], facts: { ...soundFacts, keywords: ['Harbour'] } };
  it.each<[Partial<Filter>, boolean]>([
    [{}, true],
    [{ text: 'lfs_04' }, true],
    [{ text: 'harb' }, true],
    [{ text: 'hero' }, true],
    [{ text: 'boat' }, false],
    [{ stars: '3' }, true],
    [{ stars: '4' }, false],
    [{ stars: 'unrated' }, false],
    [{ choice: 'picked' }, true],
    [{ choice: 'left-out' }, false],
    [{ choice: 'in' }, true],
    [{ tags: ['hero', 'other'] }, true],
    [{ tags: ['other'] }, false],
    [{ findings: ['no-profile'] }, true],
    [{ findings: ['cmyk'] }, false],
    [{ types: ['tiff'] }, false],
    [{ orientation: 'landscape' }, true],
    [{ orientation: 'upright' }, false],
    [{ ids: [] }, false],
    [{ stars: '3', orientation: 'upright' }, false],
  ])('%j lets the picture pass: %s', (part, does) => {
    expect(passes({ ...ALL_PICTURES, ...part }, picture)).toBe(does);
    expect(isOpen({ ...ALL_PICTURES, ...part })).toBe(Object.keys(part).length === 0);
  });
});
