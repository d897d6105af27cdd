import { expect, it } from 'vitest';
import { clamped, placeOf, rangeOf, shareOf, valueAt } from './curve-scale';

it('a scale shows all values with room around, and tells places and values both ways', () => {
  const log = rangeOf([10, 100, 1000], true)!;
  expect(shareOf(log, 100)).toBeCloseTo(0.5, 9);
  expect(shareOf(log, 10)).toBeCloseTo(0.12 / 2.24, 9);
  for (const value of [10, 33, 1000]) expect(valueAt(log, shareOf(log, value))).toBeCloseTo(value, 6);
  const plain = rangeOf([30, 95], false)!;
  for (const value of [30, 62.5, 95]) expect(valueAt(plain, shareOf(plain, value))).toBeCloseTo(value, 9);
  expect(shareOf(plain, 30)).toBeGreaterThan(0);
  expect([placeOf(plain, 0), placeOf(plain, 300), clamped(0.4)]).toEqual([0, 1, 0.4]);
  // One point alone, or none.
  expect(shareOf(rangeOf([7], true)!, 7)).toBeCloseTo(0.5, 9);
  expect(rangeOf([], true)).toBeNull();
});
