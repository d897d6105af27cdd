import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { bestWithin, bytesAt, type CurvePoint, lighterBy, likenessAt, settle } from './curves';

/** Half the difference costs 1.6 times the weight. */
const curve = (scale: number): CurvePoint[] =>
  [40, 60, 80, 95].map((quality, at) => ({ quality, bytes: scale * 1.6 ** at, difference: 0.04 / 2 ** at, likeness: 1 - 0.02 / 2 ** at }));

describe('curves', () => {
  it('tell a weight at a difference between two files, and none beyond those that were made', () => {
    const points = curve(100_000);
    expect(bytesAt(points, 0.02)).toBeCloseTo(160_000, 3);
    // Half-way on both logarithms.
    expect(bytesAt(points, 0.02 * Math.SQRT2)).toBeCloseTo(100_000 * Math.sqrt(1.6), 3);
    expect([bytesAt(points, 0.1), bytesAt(points, 0.001)]).toEqual([null, null]);
    // The likeness lies between theirs in the same way: here it is half the difference away from 1.
    expect(likenessAt(points, 0.013)).toBeCloseTo(1 - 0.0065, 9);
    expect(likenessAt(points, 0.1)).toBeNull();
  });

  it('tell the best of the files that a ceiling lets through', () => {
    expect(bestWithin(curve(100_000), 260_000)?.quality).toBe(80);
    expect(bestWithin(curve(100_000), 99_000)).toBeNull();
  });

  it('say how much lighter another type is at the same looks', () => {
    expect(lighterBy(curve(100_000), curve(69_000), 0.013)).toBeCloseTo(0.31, 6);
    expect(lighterBy(curve(100_000), curve(120_000), 0.013)).toBeCloseTo(-0.2, 6);
    expect(lighterBy(curve(100_000), [], 0.013)).toBeNull();
  });
});

describe('a set settled', () => {
  it('has the least quality that does for every picture, and never less weight than each at its own', () => {
    const pictures = fc.array(fc.tuple(fc.double({ min: 0.2, max: 5, noNaN: true }), fc.double({ min: 0.3, max: 3, noNaN: true })), {
      minLength: 1,
      maxLength: 8,
    });
    fc.assert(
      fc.property(pictures, fc.double({ min: 0.002, max: 0.05, noNaN: true }), (list, most) => {
        const all = list.map(([weight, trouble]) =>
          curve(1e5 * weight).map((point) => ({ ...point, difference: point.difference * trouble })),
        );
        const settled = settle(all, most);
        const good = (quality: number) => all.every((points) => points.find((point) => point.quality === quality)!.difference <= most);
        if (!settled) return !good(95);
        const { fixed, each } = settled;
        const lower = [40, 60, 80, 95].filter((quality) => quality < fixed.quality);
        return (
          good(fixed.quality) &&
          !lower.some(good) &&
          each.bytes <= fixed.bytes &&
          each.least <= fixed.quality &&
          each.most === fixed.quality
        );
      }),
    );
  });

  it('is not known while a picture has no file that is good enough', () => {
    expect(settle([curve(1), curve(1).slice(0, 1)], 0.01)).toBeNull();
    expect(settle([], 0.01)).toBeNull();
  });
});
