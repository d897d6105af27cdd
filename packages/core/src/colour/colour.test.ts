import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { linearToSrgb, parametricCurve, srgbToLinear } from './curves';
import { toEightBits } from './dither';
import { ciede2000, type Lab } from './ciede2000';
import { gamutLoss, sampleLinear } from './gamut';
import { parseIccProfile } from './icc-profile';
import { labToXyz, xyzToLab } from './lab';
import { apply } from './matrix';
import { convertMatrix } from './matrix-transform';
import { sameSpace, SPACES, type SpaceName } from './spaces';
import { iccProfileOf } from './write-icc-profile';

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

describe('spaces', () => {
  // ICC.1:2022 has D50; the matrices are those of the Adobe RGB (1998) encoding, annex, and of the ICC's sRGB and Display P3
  // profiles (from memory), to their four published digits.
  it.each([
    ['srgb', [0.4361, 0.3851, 0.1431], [0.2225, 0.7169, 0.0606], [0.0139, 0.0971, 0.7139]],
    ['display-p3', [0.5151, 0.292, 0.1571], [0.2412, 0.6922, 0.0666], [-0.0011, 0.0419, 0.7841]],
    ['adobe-rgb', [0.6097, 0.2053, 0.1492], [0.3111, 0.6257, 0.0632], [0.0195, 0.0609, 0.7446]],
  ] as [SpaceName, ...number[][]][])('%s has its published matrix', (name, ...rows) => {
    rows.forEach((row, r) => row.forEach((value, c) => expect(SPACES[name].toXyz[r]![c]!).toBeCloseTo(value, 3)));
  });

  it('Adobe RGB (1998) has a gamma of 563/256 (encoding 2005-05, 4.3.1.2)', () => {
    expect(SPACES['adobe-rgb'].curves[0](0.5)).toBeCloseTo(0.5 ** 2.19921875, 9);
  });

  it.each(['srgb', 'display-p3', 'adobe-rgb'] as const)('%s is read back from the profile that is embedded', (name) => {
    const profile = iccProfileOf(name);
    const { matrix, description } = parseIccProfile(profile);
    expect(sameSpace(matrix!, SPACES[name])).toBe(true);
    expect(description).toBe(SPACES[name].title);
    expect(profile.length).toBeLessThan(600);
  });
});

describe('matrix conversion', () => {
  const pixels = Uint16Array.from({ length: 3 * 4096 }, (_, index) => (index * 7919) & 0xffff);
  const furthest = (a: Uint16Array, b: Uint16Array) => a.reduce((most, value, at) => Math.max(most, Math.abs(value - b[at]!)), 0);

  it('into the same space changes nothing, and there and back nothing that 8 bits could tell', () => {
    const same = convertMatrix(pixels, SPACES.srgb, SPACES.srgb);
    expect(same.outside).toBe(0);
    expect(furthest(same.pixels, pixels)).toBeLessThan(20); // of 65,535
    const wide = convertMatrix(pixels, SPACES.srgb, SPACES['display-p3']).pixels;
    expect(furthest(convertMatrix(wide, SPACES['display-p3'], SPACES.srgb).pixels, pixels)).toBeLessThan(128);
  });

  it('tells what the target cannot hold: the share, and how far it moves', () => {
    // Half of these pixels are the pure green of Display P3, half are grey.
    const half = Uint16Array.from({ length: 600 }, (_, at) => (at < 300 ? [0, 65_535, 0][at % 3]! : 30_000));
    const { outside } = convertMatrix(half, SPACES['display-p3'], SPACES.srgb);
    expect(outside).toBe(0.5);
    const loss = gamutLoss(sampleLinear(half, SPACES['display-p3'], SPACES.srgb), SPACES.srgb, outside);
    // A third way: P3 green as CIELAB against the green of sRGB, which it is clipped to.
    const lab = (space: 'srgb' | 'display-p3') => xyzToLab(apply(SPACES[space].toXyz, [0, 1, 0]));
    expect(loss.mean).toBeCloseTo(ciede2000(lab('display-p3'), lab('srgb')), 1);
    expect(loss.p99).toBeCloseTo(loss.mean, 6);
    expect(gamutLoss(sampleLinear(half, SPACES.srgb, SPACES['display-p3']), SPACES['display-p3'])).toEqual({ share: 0, mean: 0, p99: 0 });
  });
});

describe('CIEDE2000', () => {
  // Sharma, Wu and Dalal 2005, "The CIEDE2000 color-difference formula", table 1 (from memory): 34 pairs, L a b, L a b, difference.
  const PAIRS = `
    50 2.6772 -79.7751 50 0 -82.7485 2.0425    50 3.1571 -77.2803 50 0 -82.7485 2.8615    50 2.8361 -74.02 50 0 -82.7485 3.4412
    50 -1.3802 -84.2814 50 0 -82.7485 1        50 -1.1848 -84.8006 50 0 -82.7485 1        50 -0.9009 -85.5211 50 0 -82.7485 1
    50 0 0 50 -1 2 2.3669                      50 -1 2 50 0 0 2.3669                      50 2.49 -0.001 50 -2.49 0.0009 7.1792
    50 2.49 -0.001 50 -2.49 0.001 7.1792       50 2.49 -0.001 50 -2.49 0.0011 7.2195      50 2.49 -0.001 50 -2.49 0.0012 7.2195
    50 -0.001 2.49 50 0.0009 -2.49 4.8045      50 -0.001 2.49 50 0.001 -2.49 4.8045       50 -0.001 2.49 50 0.0011 -2.49 4.7461
    50 2.5 0 50 0 -2.5 4.3065                  50 2.5 0 73 25 -18 27.1492                 50 2.5 0 61 -5 29 22.8977
    50 2.5 0 56 -27 -3 31.903                  50 2.5 0 58 24 15 19.4535                  50 2.5 0 50 3.1736 0.5854 1
    50 2.5 0 50 3.2972 0 1                     50 2.5 0 50 1.8634 0.5757 1                50 2.5 0 50 3.2592 0.335 1
    60.2574 -34.0099 36.2677 60.4626 -34.1751 39.4387 1.2644    63.0109 -31.0961 -5.8663 62.8187 -29.7946 -4.0864 1.263
    61.2901 3.7196 -5.3901 61.4292 2.248 -4.962 1.8731          35.0831 -44.1164 3.7933 35.0232 -40.0716 1.5901 1.8645
    22.7233 20.0904 -46.694 23.0331 14.973 -42.5619 2.0373      36.4612 47.858 18.3852 36.2715 50.5065 21.2231 1.4146
    90.8027 -2.0831 1.441 91.1528 -1.6435 0.0447 1.4441         90.9257 -0.5406 -0.9208 88.6381 -0.8985 -0.7239 1.5381
    6.7747 -0.2908 -2.4247 5.8714 -0.0985 -2.2286 0.6377        2.0776 0.0795 -1.135 0.9033 -0.0636 -0.5514 0.9082`
    .trim()
    .split(/\s+/)
    .map(Number);

  it('gives the published difference of all 34 pairs, both ways round', () => {
    expect(PAIRS.length).toBe(34 * 7);
    const lab = (at: number): Lab => [PAIRS[at]!, PAIRS[at + 1]!, PAIRS[at + 2]!];
    for (let at = 0; at < PAIRS.length; at += 7) {
      expect(ciede2000(lab(at), lab(at + 3))).toBeCloseTo(PAIRS[at + 6]!, 4);
      expect(ciede2000(lab(at + 3), lab(at))).toBeCloseTo(PAIRS[at + 6]!, 4);
    }
  });

  it('CIELAB there and back is the same colour', () => {
    const lab: Lab = [37, -21, 54];
    xyzToLab(labToXyz(lab)).forEach((value, at) => expect(value).toBeCloseTo(lab[at]!, 9));
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

  it('leaves no bands in a slow gradient of 16 bits: its means follow the gradient where plain rounding stands still', () => {
    const width = 4096; // four steps of 8 bits over 4,096 columns, 64 rows
    const gradient = Uint16Array.from({ length: width * 64 }, (_, at) => Math.round(20_000 + ((at % width) / width) * 4 * 257));
    const columns = (values: Uint8Array) =>
      Array.from({ length: 64 }, (_, block) => {
        let sum = 0;
        for (let y = 0; y < 64; y++) for (let x = 0; x < 64; x++) sum += values[y * width + block * 64 + x]!;
        return sum / 4096 - (20_000 + ((block + 0.5) / 64) * 4 * 257) / 257;
      });
    expect(Math.max(...columns(toEightBits(gradient, true)).map(Math.abs))).toBeLessThan(0.04);
    expect(Math.max(...columns(toEightBits(gradient, false)).map(Math.abs))).toBeGreaterThan(0.4);
  });

  it('left out, is a division by 257 with halves rounded up, for every value', () => {
    const every = Uint16Array.from({ length: 65_536 }, (_, value) => value);
    expect(toEightBits(every, false)).toEqual(Uint8Array.from(every, (value) => Math.floor(value / 257 + 0.5)));
  });

  it('never moves a value further than to a neighbour, and not at all what was a byte once', () => {
    const every = Uint16Array.from({ length: 65_536 }, (_, value) => value);
    toEightBits(every, true).forEach((byte, value) => {
      if (byte !== Math.floor(value / 257) && byte !== Math.ceil(value / 257)) throw new Error(`${value} became ${byte}`);
    });
  });

  it('keeps black black and white white', () => {
    expect([...toEightBits(Uint16Array.of(0, 65_535), false)]).toEqual([0, 255]);
    expect(Math.max(...toEightBits(new Uint16Array(5000), true))).toBe(0);
  });
});
