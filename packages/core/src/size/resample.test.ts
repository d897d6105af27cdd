import { describe, expect, it } from 'vitest';
import { srgbToLinear } from '../colour/curves';
import type { Raster } from '../raster';
import type { Kernel } from './kernel';
import { isTurned, upright } from './orient';
import { resample, resampleInBands } from './resample';

const picture = (
  width: number,
  height: number,
  channels: 1 | 3 | 4,
  at: (x: number, y: number, c: number) => number,
): Raster<Uint8Array> => {
  const pixels = new Uint8Array(width * height * channels);
  for (let i = 0; i < pixels.length; i++) pixels[i] = at(Math.floor(i / channels) % width, Math.floor(i / channels / width), i % channels);
  return { width, height, channels, pixels };
};
const deep = (raster: Raster): Raster<Uint16Array> => ({ ...raster, pixels: Uint16Array.from(raster.pixels, (value) => value * 257) });
const busy = (channels: 1 | 3 | 4 = 3) =>
  picture(53, 37, channels, (x, y, c) => 128 + 90 * Math.sin(x * 0.9 + c) * Math.cos(y * 0.7) + ((x * y) % 23));

/** Lanczos' kernel as its formula has it: sinc(x) sinc(x/a) inside a (Duchon 1979). */
const lanczos = (a: number) => (x: number) =>
  x === 0 ? 1 : Math.abs(x) >= a ? 0 : (a * Math.sin(Math.PI * x) * Math.sin((Math.PI * x) / a)) / (Math.PI * x) ** 2;

/** One output value by direct evaluation of the two-dimensional sum, 0-255. */
function direct(
  source: Raster,
  to: { width: number; height: number },
  kernel: (x: number) => number,
  a: number,
  x: number,
  y: number,
  c: number,
) {
  const along = (position: number, from: number, length: number) => {
    const ratio = from / length;
    const centre = (position + 0.5) * ratio - 0.5;
    const widened = Math.max(1, ratio);
    const weights = Array.from({ length: from }, (_, k) => (Math.abs(k - centre) < a * widened ? kernel((k - centre) / widened) : 0));
    const sum = weights.reduce((total, weight) => total + weight, 0);
    return weights.map((weight) => weight / sum);
  };
  const across = along(x, source.width, to.width);
  const down = along(y, source.height, to.height);
  let value = 0;
  down.forEach((v, j) => across.forEach((h, i) => (value += v * h * source.pixels[(j * source.width + i) * source.channels + c]!)));
  return Math.min(255, Math.max(0, value));
}

describe('resampling', () => {
  it.each<[Kernel, (x: number) => number, number, number, number]>([
    ['lanczos3', lanczos(3), 3, 20, 14],
    ['lanczos3', lanczos(3), 3, 80, 60],
    ['lanczos2', lanczos(2), 2, 17, 37],
    ['lanczos3', lanczos(3), 3, 18, 37],
    ['linear', (x) => 1 - Math.abs(x), 1, 53, 11],
  ])('%s follows its formula', (kernel, formula, a, width, height) => {
    for (const [source, eightBits] of [[busy()], [deep(busy())], [deep(busy()), true], [busy(1)], [busy(4)]] as [Raster, boolean?][]) {
      const out = resample(source, { width, height }, kernel, eightBits ? { eightBits } : {});
      const full = source.pixels instanceof Uint16Array ? 257 : 1;
      for (let y = 0; y < height; y += 3)
        for (let x = 0; x < width; x += 2)
          for (let c = 0; c < source.channels; c++) {
            const expected = direct({ ...source, pixels: source.pixels.map((v) => v / full) }, { width, height }, formula, a, x, y, c);
            expect(Math.abs(out.pixels[(y * width + x) * source.channels + c]! / 257 - expected)).toBeLessThan(0.06);
          }
    }
  });

  it.each<Kernel>(['lanczos3', 'lanczos2', 'cubic', 'mitchell', 'linear', 'nearest'])('%s keeps an even colour, down and up', (kernel) => {
    const even = picture(31, 17, 3, (_x, _y, c) => [200, 3, 117][c]!);
    for (const size of [
      { width: 7, height: 5 },
      { width: 90, height: 44 },
    ]) {
      const { pixels } = resample(even, size, kernel);
      for (let at = 0; at < pixels.length; at++) expect(Math.abs(pixels[at]! - [200, 3, 117][at % 3]! * 257)).toBeLessThanOrEqual(1);
    }
  });

  // EXIF 2.32, tag 0x0112: the orientation that undoes each other one; the quarter turns undo each other.
  it.each([1, 2, 3, 4, 5, 8, 7, 6].map((undoes, at) => [at + 1, undoes]))(
    'of a picture stored by orientation %i is the same, to the last bit, when one edge stays',
    (orientation, undoes) => {
      const source = picture(60, 40, 3, (x, y, c) => (x * 37 + y * 91 + c * 53 + ((x * y) % 29) * 5) % 256);
      // 60 to 25 px has samples that lie half-way between two others, which then weigh the same.
      const expected = resample(source, { width: 25, height: 40 }, 'lanczos3');
      const stored = upright(source, undoes);
      const size = isTurned(orientation) ? { width: 40, height: 25 } : { width: 25, height: 40 };
      expect(upright(resample(stored, size, 'lanczos3'), orientation)).toEqual(expected);
    },
  );

  it('in linear light keeps the energy of point lights within 1 %, where encoded values lose most of it', () => {
    const night = picture(240, 160, 3, (x, y) => (x % 20 === 10 && y % 20 === 10 ? 255 : 0));
    const energy = (raster: Raster) => {
      const full = raster.pixels instanceof Uint16Array ? 65_535 : 255;
      let sum = 0;
      for (let at = 1; at < raster.pixels.length; at += 3) sum += srgbToLinear(raster.pixels[at]! / full);
      return sum / (raster.width * raster.height);
    };
    const size = { width: 60, height: 40 };
    const linear = energy(resample(night, size, 'linear', { light: { toLinear: [srgbToLinear] } })) / energy(night);
    expect(Math.abs(linear - 1)).toBeLessThan(0.01);
    expect(energy(resample(night, size, 'linear')) / energy(night)).toBeLessThan(0.5);
  });

  it('in linear light leaves even greys as they are, also in the dark', () => {
    for (const grey of [0, 1, 5, 60, 200, 255]) {
      const { pixels } = resample(
        picture(20, 20, 3, () => grey),
        { width: 9, height: 9 },
        'cubic',
        { light: { toLinear: [srgbToLinear] } },
      );
      expect(Math.abs(pixels[40]! / 257 - grey)).toBeLessThan(0.02);
    }
  });
});

describe('resampling in bands', () => {
  it.each([5, 40, 500])('of %f rows at a time gives the same picture', async (atOnce) => {
    for (const source of [busy(), deep(busy()), busy(4)]) {
      const read = (top: number, height: number) => {
        const row = source.width * source.channels;
        return Promise.resolve({ ...source, height, pixels: source.pixels.slice(top * row, (top + height) * row) });
      };
      const size = { width: 20, height: 11 };
      const banded = await resampleInBands(source, size, 'lanczos3', null, read, atOnce);
      expect(banded).toEqual(resample(source, size, 'lanczos3'));
    }
  });
});
