import type { Master, MasterFacts } from '@rundle/core';
import { describe, expect, it } from 'vitest';
import { arrivingMaster, master } from '../set/sample-master';
import { dotsOf } from './chart-dots';

const seen = (n: number, width: number, height: number, bytes: number, profile: string | null = 'sRGB'): Master =>
  master(n, { bytes, facts: { width, height, profile } as MasterFacts });
const CELLS = { across: 60, up: 40 };

describe('the dots of the chart', () => {
  it('hold every picture that has been read, once, however many there are', () => {
    // A set of two cameras, with weights all over: 24 and 45 megapixels.
    const masters = Array.from({ length: 2000 }, (_, n) =>
      n % 2 ? seen(n, 6000, 4000, 4e6 + ((n * 7919) % 9e6)) : seen(n, 8192, 5464, 9e6 + ((n * 104_729) % 21e6)),
    );
    const dots = dotsOf([...masters, arrivingMaster(2000)], CELLS);
    expect(dots.flatMap((dot) => dot.masters.map(({ id }) => id)).sort()).toEqual(masters.map(({ id }) => id).sort());
    expect(dots.length).toBeLessThan(2 * CELLS.up);
    for (const { masters, megabytes } of dots) {
      const weights = masters.map(({ bytes }) => bytes / 1e6);
      expect(megabytes).toBeCloseTo(weights.reduce((sum, weight) => sum + weight) / weights.length, 9);
      expect(Math.max(...weights) - Math.min(...weights)).toBeLessThanOrEqual(30 / CELLS.up);
    }
  });

  it('keep profiles apart, and pictures that lie apart', () => {
    const same = dotsOf([seen(1, 3000, 2000, 2e6), seen(2, 3000, 2000, 2e6, null), seen(3, 3000, 2000, 2.01e6)], CELLS);
    expect(same.map(({ profile, masters }) => [profile, masters.length])).toEqual([
      ['sRGB', 2],
      ['no profile', 1],
    ]);
    expect(dotsOf([seen(1, 3000, 2000, 2e6), seen(2, 3000, 2000, 20e6), seen(3, 6000, 4000, 20e6)], CELLS)).toHaveLength(3);
    expect(dotsOf([arrivingMaster(1)], CELLS)).toEqual([]);
  });
});
