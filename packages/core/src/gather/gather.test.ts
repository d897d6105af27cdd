import { describe, expect, it } from 'vitest';
import { soundFacts } from '../facts/sound-facts';
import { ALL_PICTURES, type Filter, isOpen, passes } from './filter';
import { marked, type Marks } from './marks';
import { movedIds, sortedIds, type SortKey } from './order';

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
  const picture = (id: string, fileName: string, captured: string | null, marks: Partial<Marks> = {}, width = 6000, bits = 8) => ({
    id,
    fileName,
    bytes: fileName.length,
    stars: 0,
    choice: null,
    tags: [],
    ...marks,
    facts: { captured, width, height: 4000, bits, profile: width > 5000 ? 'sRGB' : null },
  });
  const pictures = [
    picture('a', 'p 10.jpg', '2026-06-20T22:00:00', { stars: 1, choice: 'out' }),
    picture('b', 'P 9.jpg', null, { stars: 5, tags: ['hero'] }, 4000, 16),
    picture('c', 'p 100.jpg', '2026-06-20T21:00:00', { stars: 5, choice: 'pick' }),
    { ...picture('d', 'p 1000.jpg', null), facts: null }, // not read
  ];

  it('is natural by name, earliest first, most stars first, and else as it was', () => {
    const sorted = (by: SortKey, turned = false) => sortedIds(pictures, by, turned).join('');
    expect([sorted('name'), sorted('captured'), sorted('weight'), sorted('stars')]).toEqual(['bacd', 'cabd', 'bacd', 'bcad']);
    expect([sorted('size'), sorted('bits'), sorted('profile'), sorted('choice'), sorted('tags')]).toEqual([
      'bacd',
      'acbd',
      'acbd',
      'cbda',
      'bacd',
    ]);
    // The other way round what has no value is still last, and what is equal still in its order.
    expect([sorted('name', true), sorted('captured', true), sorted('size', true), sorted('stars', true)]).toEqual([
      'dcab',
      'acbd',
      'acbd',
      'dabc',
    ]);
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
