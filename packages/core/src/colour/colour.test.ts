import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { linearToSrgb, parametricCurve, srgbToLinear } from './curves';
import { toEightBits } from './dither';
import { isSrgb, matrixToSrgb, SRGB } from './matrix-transform';

describe('curves', () => {
  // IEC 61966-2-1:1999, 5.2: both branches, the joint, and the ends; the middle value follows from its formula.
  it.each([
    [0, 0],
    [0.04045, 0.04045 / 12.92],
    [0.5, 0.21404114],
    [188 / 255, 0.50288646],
    [1, 1],
  ])('sRGB %f is %f of linear light', (encoded, linear) => {
    expect(srgbToLinear(encoded)).toBeCloseTo(linear, 6);
    expect(linearToSrgb(linear)).toBeCloseTo(encoded, 6);
  });

  it('sRGB as an ICC parametric curve of type 3 is the same curve', () => {
    const icc = parametricCurve(3, [2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045]);
    fc.assert(fc.property(fc.double({ min: 0, max: 1, noNaN: true }), (x) => Math.abs(icc(x) - srgbToLinear(x)) < 1e-9));
  });
});

describe('matrix conversion', () => {
  it('leaves sRGB as it is', () => {
    const pixels = Uint16Array.from({ length: 3 * 4096 }, (_, index) => (index * 7919) & 0xffff);
    const { pixels: out, clipping } = matrixToSrgb(pixels, SRGB);
    expect(isSrgb(SRGB)).toBe(true);
    expect(clipping.share).toBe(0);
    expect(Math.max(...out.map((value, index) => Math.abs(value - (pixels[index] ?? 0))))).toBeLessThan(20); // of 65,535
  });
});

describe('dither', () => {
  it('keeps the mean between two steps, where plain rounding falls on one', () => {
    const level = Math.round(100.3 * 257);
    const flat = new Uint16Array(60_000).fill(level);
    const mean = (values: Uint8Array) => values.reduce((sum, value) => sum + value, 0) / values.length;
    expect(mean(toEightBits(flat, true))).toBeCloseTo(100.3, 1);
    expect(new Set(toEightBits(flat, false))).toEqual(new Set([100]));
    expect(toEightBits(flat, true)).toEqual(toEightBits(flat, true));
  });

  it('keeps black black and white white', () => {
    expect([...toEightBits(Uint16Array.of(0, 65_535), false)]).toEqual([0, 255]);
    expect(Math.max(...toEightBits(new Uint16Array(5000), true))).toBe(0);
  });
});
