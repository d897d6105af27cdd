import { describe, expect, it } from 'vitest';
import { counted, duration, weight } from './figures';

describe('figures', () => {
  it.each([
    [0, '0 B'],
    [999, '999 B'],
    [81_400, '81 KB'],
    [999_499, '999 KB'],
    [999_500, '1.0 MB'],
    [4_700_000, '4.7 MB'],
    [206_061_557, '206 MB'],
    [1_250_000_000, '1.25 GB'],
  ])('%d bytes are %s', (bytes, said) => {
    expect(weight(bytes)).toBe(said);
  });

  it('say durations and counts as people do', () => {
    expect([0.2, 40, 89, 90, 600, 6000].map(duration)).toEqual(['1 s', '40 s', '89 s', '2 min', '10 min', '1 h 40 min']);
    expect([counted(1, 'picture'), counted(2000, 'picture')]).toEqual(['1 picture', '2,000 pictures']);
  });
});
