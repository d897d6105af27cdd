import fc from 'fast-check';
import { describe, it } from 'vitest';
import { searchCeiling } from './ceiling-search';

describe('search under a ceiling', () => {
  it('finds the highest quality that fits, in few encodes, for every rising weight curve', async () => {
    const curve = fc.record({ base: fc.integer({ min: 1000, max: 400_000 }), slope: fc.double({ min: 0.003, max: 0.06, noNaN: true }) });
    await fc.assert(
      fc.asyncProperty(
        curve,
        fc.integer({ min: 5000, max: 900_000 }),
        fc.integer({ min: 1, max: 100 }),
        fc.integer({ min: 1, max: 100 }),
        async ({ base, slope }, bytes, floor, most) => {
          const weigh = (quality: number) => Math.round(base * Math.exp(slope * quality) * (1 + 0.2 * (quality / 100) ** 3));
          const found = await searchCeiling((quality) => Promise.resolve({ bytes: weigh(quality) }), { bytes, floor }, most);
          const bottom = Math.min(floor, most);
          const fitting = Array.from({ length: most - bottom + 1 }, (_, step) => bottom + step).filter(
            (quality) => weigh(quality) <= bytes,
          );
          const best = fitting.at(-1);
          return best === undefined ? !found.fits && found.quality === bottom : found.fits && found.quality === best && found.encodes <= 12;
        },
      ),
      // A curve so flat that short steps would never end.
      { examples: [[{ base: 4594, slope: 0.003 }, 5000, 1, 47]] },
    );
  });

  it('finds the same by whatever is expected, and in three encodes where that is nearly right', async () => {
    const curve = fc.record({ base: fc.integer({ min: 1000, max: 400_000 }), slope: fc.double({ min: 0.01, max: 0.06, noNaN: true }) });
    const wrong = fc.record({
      factor: fc.double({ min: 0.5, max: 2, noNaN: true }),
      bend: fc.double({ min: -0.03, max: 0.03, noNaN: true }),
    });
    await fc.assert(
      fc.asyncProperty(
        curve,
        wrong,
        fc.integer({ min: 5000, max: 900_000 }),
        fc.integer({ min: 1, max: 100 }),
        fc.integer({ min: 1, max: 100 }),
        async ({ base, slope }, { factor, bend }, bytes, floor, most) => {
          const weigh = (quality: number) => Math.round(base * Math.exp(slope * quality));
          const encode = (quality: number) => Promise.resolve({ bytes: weigh(quality) });
          const expect = (quality: number) => Promise.resolve(factor * base * Math.exp((slope + bend) * quality));
          const plain = await searchCeiling(encode, { bytes, floor }, most);
          const led = await searchCeiling(encode, { bytes, floor }, most, expect);
          const nearly = await searchCeiling(encode, { bytes, floor }, most, (quality) => Promise.resolve(1.02 * weigh(quality)));
          const same = [led, nearly].every(({ fits, quality }) => fits === plain.fits && quality === plain.quality);
          return same && led.encodes <= 14 && nearly.encodes <= 3;
        },
      ),
    );
  });
});
