import { describe, expect, it } from 'vitest';
import { bestLooking, standingFor, weightCandidates, type WeightResult, worstDifference } from './by-weight';

const result = (key: string, differences: readonly number[], more: Partial<WeightResult> = {}): WeightResult => ({
  key,
  files: differences.map((difference) => ({ quality: 80, bytes: 1, difference })),
  tooHeavy: 0,
  of: 2,
  ...more,
});

describe('the best looks below a weight', () => {
  it('are looked for in every type with each way to keep colour, the quickest first', () => {
    expect(weightCandidates(['avif', 'jpeg', 'jxl'], 'jxl').map(({ key }) => key)).toEqual([
      'jpeg 4:2:0',
      'jpeg 4:4:4',
      'jxl',
      'avif 4:2:0',
      'avif 4:4:4',
    ]);
    expect(weightCandidates(['jpeg', 'jxl'], 'jpeg').map(({ key }) => key)).not.toContain('jxl');
  });

  it('are those whose worst picture differs least, of what is known of all pictures and fits', () => {
    const results = [
      result('jpeg', [0.01, 0.02]),
      result('webp', [0.012, 0.014]),
      result('half known', [0.001]),
      result('too heavy', [0.001], { tooHeavy: 1 }),
    ];
    expect(results.map(worstDifference)).toEqual([0.02, 0.014, null, null]);
    expect(bestLooking(results)?.key).toBe('webp');
    expect(bestLooking(results.slice(2))).toBeNull();
  });

  it('are looked for in a few pictures of a large set, from its beginning to its end', () => {
    expect(standingFor([1, 2, 3])).toEqual([1, 2, 3]);
    const few = standingFor(Array.from({ length: 1200 }, (_, at) => at));
    expect([few.length, few[0], few.at(-1)]).toEqual([12, 50, 1150]);
  });
});
