import { describe, expect, it } from 'vitest';
import { bytesOf, colourOf, TYPED_BORDER, TYPED_CEILING, TYPED_MATCH, TYPED_PPI } from './typed';

describe('what is typed', () => {
  it.each([
    ['350', 350_000],
    ['350 KB', 350_000],
    ['1.2 MB', 1_200_000],
    ['1,5mb', 1_500_000],
    ['900 b', 900],
    ['heavy', undefined],
    ['', undefined],
  ])('%s is a weight', (text, bytes) => expect(bytesOf(text)).toBe(bytes));

  it('keeps what belongs to a value and is not typed', () => {
    expect(TYPED_CEILING.read('2 MB', { bytes: 1, floor: 45, then: 'fail' })).toEqual({ bytes: 2_000_000, floor: 45, then: 'fail' });
    expect(TYPED_CEILING.read('350', null)).toEqual({ bytes: 350_000, floor: 60, then: 'shrink' });
    expect(TYPED_BORDER.read('24', { px: 10, colour: '#123456' })).toEqual({ px: 24, colour: '#123456' });
    expect(TYPED_BORDER.read('24 px black', null)).toEqual({ px: 24, colour: '#000000' });
    expect(TYPED_BORDER.read('0', { px: 10, colour: '#123456' })).toBeNull();
    expect(TYPED_BORDER.read('wide', null)).toBeUndefined();
  });

  it('is read as people write it, and written so that it is read again', () => {
    expect([colourOf('White'), colourOf('#abc'), colourOf('20364A'), colourOf('petrol')]).toEqual([
      '#ffffff',
      '#aabbcc',
      '#20364a',
      undefined,
    ]);
    expect([TYPED_PPI.read('254 ppi', null), TYPED_MATCH.read('98.7 %', null), TYPED_MATCH.read('0.97', null)]).toEqual([254, 0.987, 0.97]);
    for (const ceiling of [
      { bytes: 512_345, floor: 60, then: 'shrink' as const },
      { bytes: 2_500_000, floor: 30, then: 'exceed' as const },
    ])
      expect(TYPED_CEILING.read(TYPED_CEILING.write(ceiling), ceiling)).toEqual(ceiling);
    expect(TYPED_MATCH.read(TYPED_MATCH.write(0.9875), null)).toBe(0.9875);
  });
});
