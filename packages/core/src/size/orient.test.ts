import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Raster } from '../raster';
import { isTurned, upright } from './orient';

/** Where a pixel of the upright picture is stored: EXIF 2.32, tag 0x0112, as "the 0th row is ..., the 0th column is ...". */
const STORED_AT: Record<number, (x: number, y: number, width: number, height: number) => [x: number, y: number]> = {
  1: (x, y) => [x, y],
  2: (x, y, width) => [width - 1 - x, y],
  3: (x, y, width, height) => [width - 1 - x, height - 1 - y],
  4: (x, y, _width, height) => [x, height - 1 - y],
  5: (x, y) => [y, x],
  6: (x, y, _width, height) => [y, height - 1 - x],
  7: (x, y, width, height) => [width - 1 - y, height - 1 - x],
  8: (x, y, width) => [width - 1 - y, x],
};

const picture = (width: number, height: number, channels: 1 | 3 | 4, deep: boolean): Raster => {
  const pixels = deep ? new Uint16Array(width * height * channels) : new Uint8Array(width * height * channels);
  for (let at = 0; at < pixels.length; at++) pixels[at] = (at * 40_503) >>> 3;
  return { width, height, channels, pixels };
};

describe('a picture as it lies in its file', () => {
  it('comes out upright by EXIF’s definition, whatever its size, channels and bits', () => {
    const size = fc.integer({ min: 1, max: 150 });
    const orientation = fc.integer({ min: 1, max: 8 });
    fc.assert(
      fc.property(
        size,
        size,
        fc.constantFrom(1 as const, 3 as const, 4 as const),
        fc.boolean(),
        orientation,
        (width, height, channels, deep, tag) => {
          const stored = picture(width, height, channels, deep);
          const turned = upright(stored, tag);
          expect([turned.width, turned.height]).toEqual(isTurned(tag) ? [height, width] : [width, height]);
          for (let y = 0; y < turned.height; y++)
            for (let x = 0; x < turned.width; x++) {
              const [fromX, fromY] = STORED_AT[tag]!(x, y, width, height);
              const from = (fromY * width + fromX) * channels;
              const to = (y * turned.width + x) * channels;
              for (let channel = 0; channel < channels; channel++)
                if (turned.pixels[to + channel] !== stored.pixels[from + channel])
                  throw new Error(`orientation ${tag}: ${x}, ${y} is another pixel`);
            }
        },
      ),
      { numRuns: 120 },
    );
  });

  it('is handed on as it is where it is upright', () => {
    const stored = picture(3, 2, 3, true);
    expect(upright(stored, 1)).toBe(stored);
  });
});
