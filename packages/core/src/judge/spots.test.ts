import { describe, expect, it } from 'vitest';
import { convertMatrix } from '../colour/matrix-transform';
import { SPACES } from '../colour/spaces';
import { groundUnder, isBright, markColourOn, markText } from '../mark/tone';
import type { Raster } from '../raster';
import { unsharpMask } from '../sharpen/unsharp-mask';
import { regionsOf } from './regions';
import { clippedSpots, densestPlace, differencePicture, haloSpots, hatchedSpots, outlinedSpots, outsideSpots, pooledSpots } from './spots';

/** The same numbers every time (a linear congruential generator, Knuth's MMIX constants cut to 32 bits). */
function noise(count: number, seed: number): Uint16Array {
  let state = seed;
  return Uint16Array.from({ length: count }, () => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) >>> 16);
}

describe('spots', () => {
  it('of halos are where sharpening overshoots an edge, and nowhere on even ground', () => {
    const [width, height] = [60, 40];
    const edge: Raster<Uint16Array> = {
      width,
      height,
      channels: 1,
      pixels: Uint16Array.from({ length: width * height }, (_, at) => (at % width < 30 ? 18_000 : 46_000)),
    };
    const after = { ...edge, pixels: edge.pixels.slice() };
    const { seen } = unsharpMask(after, { amount: 1.5, radius: 1, threshold: 0.01 });
    const spots = haloSpots(edge, after);
    const columns = new Set([...spots.keys()].filter((at) => spots[at]).map((at) => at % width));
    expect(columns).toEqual(new Set([29, 30]));
    // The sharpening's own measure finds the same in the rows that it looks at.
    expect(seen).toBeCloseTo(2 / 58, 4);
    const gentle = { ...edge, pixels: edge.pixels.slice() };
    unsharpMask(gentle, { amount: 0.2, radius: 0.8, threshold: 0.01 });
    expect(haloSpots(edge, gentle).some(Boolean)).toBe(false);
  });

  it('of halos are none where the same overshoot lies on restless ground, is part of a detail, or is too short for a line', () => {
    const [width, height] = [80, 48];
    const picture = (at: (x: number, y: number) => number): Raster<Uint16Array> => ({
      width,
      height,
      channels: 1,
      pixels: Uint16Array.from({ length: width * height }, (_, i) => at(i % width, Math.floor(i / width))),
    });
    const found = (before: Raster<Uint16Array>, add: (x: number, y: number) => number) =>
      regionsOf(
        haloSpots(before, { ...before, pixels: before.pixels.map((value, i) => value + add(i % width, Math.floor(i / width))) }),
        before,
      );
    const edge = (x: number) => (x < 40 ? 15_000 : 45_000);
    const line = (x: number, y: number) => (x === 40 && y >= 8 && y < 40 ? 8_000 : 0);
    const noise16 = noise(width * height, 3);
    expect(found(picture(edge), line)).toMatchObject([{ left: 40, width: 1, top: 8, height: 32 }]);
    // Grain of some 12 levels of 8 bits.
    expect(
      found(
        picture((x, y) => edge(x) + (noise16[y * width + x]! - 32_768) / 6),
        line,
      ),
    ).toEqual([]);
    expect(found(picture(edge), (x, y) => (y < 14 ? line(x, y) : 0))).toEqual([]);
    // A bright line that becomes brighter.
    expect(
      found(
        picture((x) => (x === 40 ? 45_000 : 15_000)),
        line,
      ),
    ).toEqual([]);
  });

  it('of colours out of reach are as many as the conversion counts', () => {
    const pixels = noise(3 * 5000, 7);
    const spots = outsideSpots(pixels, SPACES['adobe-rgb'], SPACES.srgb);
    const { outside } = convertMatrix(pixels.slice(), SPACES['adobe-rgb'], SPACES.srgb);
    expect(spots.reduce((sum, spot) => sum + spot, 0) / 5000).toBeCloseTo(outside, 3);
    expect(outside).toBeGreaterThan(0.05);
    expect(outsideSpots(pixels, SPACES.srgb, SPACES['adobe-rgb']).some(Boolean)).toBe(false);
  });

  it('are outlined without being covered, hatched within themselves, and not lost when shown smaller', () => {
    const size = { width: 30, height: 20 };
    const one = new Uint8Array(600);
    one[10 * 30 + 15] = 1;
    const line = outlinedSpots(one, size);
    expect(line[10 * 30 + 15]).toBe(0);
    expect(line.reduce((sum, value) => sum + value, 0)).toBe(7 * 7 - 5 * 5);
    expect(pooledSpots(one, size, { width: 3, height: 2 })).toEqual(Uint8Array.from([0, 0, 0, 0, 1, 0]));
    const all = new Uint8Array(600).fill(1);
    const share = hatchedSpots(all, size).reduce((sum, value) => sum + value, 0) / 600;
    expect(share).toBeGreaterThan(0.2);
    expect(share).toBeLessThan(0.4);
    expect(hatchedSpots(one, size).reduce((sum, value) => sum + value, 0)).toBeLessThanOrEqual(1);
  });
});

describe('the ground under a watermark', () => {
  const plain = (channels: 1 | 3 | 4, values: readonly number[]): Raster<Uint16Array> => ({
    width: 8,
    height: 8,
    channels,
    pixels: Uint16Array.from({ length: 64 * channels }, (_, at) => values[at % channels]! * 65_535),
  });
  const all = { left: 0, top: 0, width: 8, height: 8 };

  it('is bright or dark by its luma, in any model', () => {
    expect(groundUnder(plain(1, [0.6]), all)).toBe('bright');
    expect(groundUnder(plain(3, [1, 0.2, 1]), all)).toBe('dark'); // 0.2126 + 0.143 + 0.0722
    expect(groundUnder(plain(3, [0, 0.8, 0]), all)).toBe('bright');
    expect(groundUnder(plain(4, [0, 0, 0, 0]), all)).toBe('bright');
    expect(groundUnder(plain(4, [0, 0, 0, 0.8]), all)).toBe('dark');
  });

  it('decides the colour that is seen on it, and what came later tells marks apart only where it is used', () => {
    expect(markColourOn('bright', '#ffffff')).toBe('#141414');
    expect(markColourOn('dark', '#ffe0c0')).toBe('#ffe0c0');
    expect(isBright(markColourOn('dark', '#102030'))).toBe(true);
    const text = { kind: 'text', text: 'X', colour: '#ffffff', typeface: 'sans', edge: 'none', adapt: false } as const;
    const said = (more: object) => markText({ ...text, ...more }, () => '');
    expect(new Set([said({}), said({ edge: 'shadow' }), said({ adapt: true }), said({ typeface: 'mono' })]).size).toBe(4);
  });

  it('of clipping are pixels of which a channel is at its end; the difference is drawn eight times as large', () => {
    const picture: Raster<Uint8Array> = { width: 3, height: 1, channels: 3, pixels: Uint8Array.of(255, 90, 90, 10, 0, 4, 12, 13, 254) };
    expect([...clippedSpots(picture, 'highlights')]).toEqual([1, 0, 0]);
    expect([...clippedSpots(picture, 'shadows')]).toEqual([0, 1, 0]);
    const after = { ...picture, pixels: Uint8Array.of(253, 90, 91, 10, 0, 4, 12, 13, 100) };
    expect([...differencePicture(picture, after)]).toEqual([112, 128, 136, 128, 128, 128, 128, 128, 0]);
  });
});

describe('the worst place', () => {
  it('is where most spots lie together, not where one lies alone', () => {
    const size = { width: 700, height: 500 };
    const spots = new Uint8Array(size.width * size.height);
    expect(densestPlace(spots, size)).toBeNull();
    spots[3] = 1;
    for (let y = 330; y < 350; y++) spots.fill(1, y * size.width + 610, y * size.width + 640);
    const { x, y } = densestPlace(spots, size)!;
    expect(Math.abs(x - 625)).toBeLessThanOrEqual(32);
    expect(Math.abs(y - 340)).toBeLessThanOrEqual(32);
    expect(densestPlace(Uint8Array.of(0, 1), { width: 2, height: 1 })).toEqual({ x: 2, y: 1 });
  });
});
