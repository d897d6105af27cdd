import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Raster } from '../raster';
import { blendMark } from './blend';
import { framed, hexToColour } from './border';
import { MARK_PLACES, nearestPlace, placeMark } from './placement';
import { withAlpha, withoutBackdrop } from './transparency';

const plain = (width: number, height: number, value: number): Raster<Uint16Array> => ({
  width,
  height,
  channels: 3,
  pixels: new Uint16Array(width * height * 3).fill(value),
});

describe('a watermark', () => {
  it('keeps its margin from the edges that its place names', () => {
    const at = (place: 'bottom-right' | 'top-left' | 'centre' | 'top') =>
      placeMark({ width: 2000, height: 1000 }, { width: 400, height: 100 }, { place, margin: 0.03, size: 0.2 });
    expect(at('bottom-right')).toEqual({ width: 200, height: 50, left: 2000 - 200 - 30, top: 1000 - 50 - 30 });
    expect(at('top-left')).toMatchObject({ left: 30, top: 30 });
    expect(at('centre')).toMatchObject({ left: 900, top: 475 });
    expect(at('top')).toMatchObject({ left: 900, top: 30 });
  });

  it('never leaves the picture, whatever its shape and settings', () => {
    const side = fc.integer({ min: 1, max: 500 });
    const share = (max: number) => fc.double({ min: 0.01, max, noNaN: true });
    const place = fc.constantFrom('top-left', 'right', 'bottom', 'centre', 'bottom-right') as fc.Arbitrary<'right'>;
    fc.assert(
      fc.property(side, side, side, side, share(0.5), share(1), place, (w, h, mw, mh, margin, size, where) => {
        const { left, top, width, height } = placeMark({ width: w, height: h }, { width: mw, height: mh }, { place: where, margin, size });
        return left >= 0 && top >= 0 && width >= 1 && height >= 1 && left + width <= w && top + height <= h;
      }),
    );
  });

  it('goes where it was dragged, as near as one of the nine places and a margin can lie', () => {
    const side = fc.integer({ min: 200, max: 3000 });
    const share = fc.double({ min: 0, max: 1, noNaN: true });
    fc.assert(
      fc.property(side, side, share, share, fc.constantFrom(...MARK_PLACES), (width, height, x, y, place) => {
        const [picture, shape] = [
          { width, height },
          { width: 400, height: 100 },
        ];
        const mark = { place, margin: 0.03, size: 0.2 };
        const laid = placeMark(picture, shape, mark);
        const wanted = { left: x * (width - laid.width), top: y * (height - laid.height) };
        const far = (given: Parameters<typeof placeMark>[2]) => {
          const { left, top } = placeMark(picture, shape, given);
          return Math.hypot(left - wanted.left, top - wanted.top);
        };
        const best = far({ ...mark, ...nearestPlace(picture, shape, mark, wanted) });
        for (const other of MARK_PLACES) expect(best).toBeLessThanOrEqual(far({ ...mark, place: other }) + 0.02 * Math.min(width, height));
        // Where it lies already it stays.
        expect(nearestPlace(picture, shape, mark, laid)).toEqual({ place, margin: 0.03 });
      }),
    );
    const corner = { place: 'bottom-right', margin: 0.03, size: 0.2 } as const;
    const at = (left: number, top: number) =>
      nearestPlace({ width: 2000, height: 1000 }, { width: 400, height: 100 }, corner, { left, top });
    expect(at(60, 60)).toEqual({ place: 'top-left', margin: 0.06 });
    expect(at(905, 480)).toMatchObject({ place: 'centre' });
    expect(at(900, 850)).toEqual({ place: 'bottom', margin: 0.1 });
  });

  it('is mixed with what lies below it by its coverage and opacity', () => {
    const picture = plain(4, 3, 10_000);
    const white = new Uint16Array(2 * 1 * 3).fill(65_535);
    blendMark(picture, white, Uint16Array.of(65_535, 0), { left: 1, top: 1, width: 2, height: 1 }, 0.25);
    expect(picture.pixels[(1 * 4 + 1) * 3]).toBe(Math.floor(10_000 * 0.75 + 65_535 * 0.25 + 0.5));
    expect(picture.pixels.filter((value) => value !== 10_000)).toHaveLength(3);
  });
});

describe('a border', () => {
  it('lies outside, in its colour, opaque', () => {
    const out = framed(withAlpha(plain(3, 2, 7), new Uint16Array(6).fill(99)), { width: 7, height: 6 }, 2, 2, hexToColour('#ff8000'));
    expect([out.width, out.height]).toEqual([7, 6]);
    expect([...out.pixels.subarray(0, 4)]).toEqual([65_535, 128 * 257, 0, 65_535]);
    expect([...out.pixels.subarray((2 * 7 + 2) * 4, (2 * 7 + 2) * 4 + 4)]).toEqual([7, 7, 7, 99]);
  });
});

describe('transparency', () => {
  it('a picture laid over a backdrop comes out from over it again', () => {
    const colour = 40_000;
    const alpha = Uint16Array.of(65_535, 30_000, 2_000);
    const over = (a: number) => Math.round((colour * a) / 65_535 + 65_535 * (1 - a / 65_535));
    const flat: Raster<Uint16Array> = {
      width: 3,
      height: 1,
      channels: 3,
      pixels: Uint16Array.from({ length: 9 }, (_, at) => over(alpha[Math.floor(at / 3)]!)),
    };
    for (const value of withoutBackdrop(flat, alpha, '#ffffff').pixels) expect(Math.abs(value - colour)).toBeLessThan(20);
  });
});
