import { describe, expect, it } from 'vitest';
import { srgbToLinear } from '../colour/curves';
import type { Raster } from '../raster';
import { inPicture, type View, viewOfCrop } from './crop';
import { resample } from './resample';
import { resampleTurned } from './turned';

type Channels = 1 | 3 | 4;
const raster = (width: number, height: number, channels: Channels, at: (x: number, y: number, c: number) => number): Raster => ({
  width,
  height,
  channels,
  pixels: Uint16Array.from({ length: width * height * channels }, (_, i) =>
    Math.round(257 * at(Math.floor(i / channels) % width, Math.floor(i / channels / width), i % channels)),
  ),
});
const busy = (channels: Channels) =>
  raster(90, 64, channels, (x, y, c) => 128 + 60 * Math.sin(x * 0.9 + c) * Math.cos(y * 0.7) + ((x * y) % 23));

const lanczos = (x: number) =>
  x === 0 ? 1 : Math.abs(x) >= 3 ? 0 : (3 * Math.sin(Math.PI * x) * Math.sin((Math.PI * x) / 3)) / (Math.PI * x) ** 2;

/** One output value by direct evaluation of the two-dimensional sum (Duchon 1979), 0-255: what lies outside does not count. */
function direct(source: Raster, view: View, to: { width: number; height: number }, x: number, y: number, c: number): number {
  const widened = Math.max(1, view.width / to.width, view.height / to.height);
  const place = inPicture(view, { x: ((x + 0.5) * view.width) / to.width, y: ((y + 0.5) * view.height) / to.height });
  let [sum, total] = [0, 0];
  for (let row = 0; row < source.height; row++)
    for (let column = 0; column < source.width; column++) {
      const weight = lanczos((column + 0.5 - place.x) / widened) * lanczos((row + 0.5 - place.y) / widened);
      total += weight;
      sum += (weight * source.pixels[(row * source.width + column) * source.channels + c]!) / 257;
    }
  return Math.min(255, Math.max(0, sum / total));
}

describe('a turned picture', () => {
  it.each<[number, Channels, number]>([
    [7, 3, 40],
    [-31, 1, 25],
    [45, 4, 30],
    [3, 3, 120],
  ])('by %i degrees follows the formula of its kernel', (angle, channels, width) => {
    const source = busy(channels);
    const view = viewOfCrop(source, { x: 0, y: 0, w: 1, h: 1, angle });
    const to = { width, height: Math.max(1, Math.round((width * view.height) / view.width)) };
    const out = resampleTurned(source, source, view, to, 'lanczos3');
    for (let y = 0; y < to.height; y += 2)
      for (let x = 0; x < to.width; x += 3)
        for (let c = 0; c < channels; c++) {
          const made = out.pixels[(y * to.width + x) * channels + c]! / 257;
          expect(Math.abs(made - direct(source, view, to, x, y, c))).toBeLessThan(0.06);
        }
  });

  it('by no degree is what passes along rows and columns make of the same part', () => {
    const source = busy(3);
    const part = { left: 11, top: 7, width: 60, height: 45 };
    const straight = resample(source, { width: 24, height: 18 }, 'lanczos3', { part });
    const turned = resampleTurned(source, source, { ...part, angle: 0 }, { width: 24, height: 18 }, 'lanczos3');
    straight.pixels.forEach((value, at) => expect(Math.abs(value - turned.pixels[at]!)).toBeLessThan(20));
  });

  it('keeps an even colour to its edges, and a ramp within one code value of 8 bits', () => {
    const even = raster(50, 40, 3, (_x, _y, c) => [200, 3, 117][c]!);
    const view = viewOfCrop(even, { x: 0, y: 0, w: 1, h: 1, angle: 20 });
    for (const kernel of ['lanczos3', 'cubic', 'linear', 'nearest'] as const) {
      const { pixels } = resampleTurned(even, even, view, { width: 17, height: 12 }, kernel);
      pixels.forEach((value, at) => expect(Math.abs(value - [200, 3, 117][at % 3]! * 257)).toBeLessThanOrEqual(1));
    }
    const ramp = raster(300, 200, 1, (x, y) => 20 + 0.5 * x + 0.3 * y);
    const cut = viewOfCrop(ramp, { x: 0.1, y: 0.1, w: 0.8, h: 0.8, angle: -12 });
    const to = { width: 100, height: Math.round((100 * cut.height) / cut.width) };
    const { pixels } = resampleTurned(ramp, ramp, cut, to, 'lanczos3');
    for (let y = 0; y < to.height; y++)
      for (let x = 0; x < to.width; x++) {
        const place = inPicture(cut, { x: ((x + 0.5) * cut.width) / to.width, y: ((y + 0.5) * cut.height) / to.height });
        expect(Math.abs(pixels[y * to.width + x]! / 257 - (20 + 0.5 * (place.x - 0.5) + 0.3 * (place.y - 0.5)))).toBeLessThan(1);
      }
  });

  it('in linear light keeps the energy of point lights', () => {
    const night = raster(240, 160, 3, (x, y) => (x % 20 === 10 && y % 20 === 10 ? 255 : 0));
    const view = viewOfCrop(night, { x: 0.1, y: 0.1, w: 0.8, h: 0.8, angle: 9 });
    const light = { toLinear: [srgbToLinear] };
    const { pixels } = resampleTurned(night, night, view, { width: 60, height: Math.round((60 * view.height) / view.width) }, 'linear', {
      light,
    });
    const energy = pixels.reduce((sum, value) => sum + srgbToLinear(value / 65_535), 0) / pixels.length;
    expect(Math.abs(energy * 400 - 1)).toBeLessThan(0.05);
  });

  it('from a smaller picture of it lies in the same place', () => {
    const smooth = (width: number, height: number) =>
      raster(width, height, 1, (x, y) => 128 + 100 * Math.sin((6 * (x + 0.5)) / width) * Math.cos((5 * (y + 0.5)) / height));
    const [whole, half] = [smooth(801, 601), smooth(401, 301)];
    const view = viewOfCrop(whole, { x: 0.2, y: 0.1, w: 0.6, h: 0.7, angle: 5 });
    const to = { width: 90, height: 80 };
    const [one, other] = [whole, half].map((source) => resampleTurned(source, whole, view, to, 'cubic').pixels);
    one!.forEach((value, at) => expect(Math.abs(value - other![at]!) / 257).toBeLessThan(0.2));
  });
});
