import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { chromaSampling, chromaSmears } from './chroma';
import { searchMatch } from './match-search';

describe('search for a match', () => {
  it('finds the lowest quality that is like enough, in seven encodes, for every rising curve', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.double({ min: 0.5, max: 0.999, noNaN: true }),
        fc.double({ min: 0.9, max: 1, noNaN: true }),
        async (start, target) => {
          const likeness = (quality: number) => 1 - (1 - start) * (1 - quality / 101) ** 2;
          let encodes = 0;
          const found = await searchMatch((quality) => Promise.resolve({ score: likeness(quality), encodes: ++encodes }), target);
          const lowest = Array.from({ length: 100 }, (_, at) => at + 1).find((quality) => likeness(quality) >= target);
          return encodes <= 7 && found.quality === (lowest ?? 100) && found.reached === (lowest !== undefined);
        },
      ),
    );
  });
});

describe('chroma', () => {
  const width = 64;
  const filled = (at: (x: number) => readonly number[]) => ({
    width,
    height: 48,
    pixels: Uint8Array.from({ length: width * 48 * 3 }, (_, i) => at(Math.floor(i / 3) % width)[i % 3]!),
  });

  it('is kept whole where a saturated edge would smear, and halved where nothing is lost', () => {
    expect(chromaSmears(filled((x) => (x % 2 ? [255, 0, 0] : [0, 0, 255])))).toBe(true);
    expect(chromaSmears(filled((x) => [4 * x, 4 * x, 4 * x]))).toBe(false);
    expect(chromaSmears(filled((x) => [200 - x, 100 + x, 90]))).toBe(false);
  });

  it('is what the preset says, unless it leaves the choice', () => {
    expect(chromaSampling('4:2:0', 100, () => true)).toBe('4:2:0');
    expect(chromaSampling('auto', 80, () => true)).toBe('4:4:4');
    expect(chromaSampling('auto', 80, () => false)).toBe('4:2:0');
    expect(chromaSampling('auto', 92, () => false)).toBe('4:4:4');
  });
});
