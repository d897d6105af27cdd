import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { apply, type Row } from '../colour/matrix';
import { SPACES } from '../colour/spaces';
import { xyzToLab } from '../colour/lab';
import { linearToSrgb, srgbToLinear } from '../colour/curves';
import { NO_DECISIONS } from '../decisions/decisions';
import { makingOf } from '../making/making';
import { Preset } from '../preset/schema';
import { recipeTexts } from '../making/recipe';
import { StudioDetails } from '../metadata/studio';
import { cutOut } from '../size/resample';
import { applyTone } from './apply';
import { lightnessCurve, lightnessOf, lightOf } from './lightness';
import { localContrast, toneReach } from './local-contrast';
import { percentile, type Points, pointsOf, tonesOf } from './points';
import { NO_TONE, plusTone, stepTone, type Tone } from './schema';
import { daylight, warmthMatrix } from './warmth';

const WIDE_OPEN: Points = { black: 0, white: 1 };
const SRGB = SPACES.srgb;

/** One colour of sRGB through a tone, encoded 0-1. */
function toned(colour: readonly [number, number, number], tone: Partial<Tone>, points = WIDE_OPEN): Row {
  const pixels = Uint16Array.from(colour, (value) => Math.round(value * 65_535));
  const { pixels: out } = applyTone({ width: 1, height: 1, channels: 3, pixels }, { ...NO_TONE, ...tone }, points, SRGB);
  return [out[0]! / 65_535, out[1]! / 65_535, out[2]! / 65_535];
}
const labOf = (colour: readonly number[]) => xyzToLab(apply(SRGB.toXyz, colour.map(srgbToLinear) as unknown as Row));

describe('lightness', () => {
  // CIE 15:2004, table of L* by Y, and the 18 % grey card of L* 49.5 (both from memory, to their last printed digit).
  it.each([
    [0, 0],
    [0.0088564516, 8],
    [0.18, 49.496],
    [0.1842, 50.0],
    [0.5, 76.069],
    [1, 100],
  ])('of a luminance of %d is %d', (light, lightness) => {
    expect(100 * lightnessOf(light)).toBeCloseTo(lightness, 2);
    expect(lightOf(lightnessOf(light))).toBeCloseTo(light, 9);
  });

  it('is bent by curves that keep black and white, and never turn back', () => {
    const share = fc.double({ min: -1, max: 1, noNaN: true });
    fc.assert(
      fc.property(share, share, share, fc.double({ min: 0.2, max: 5, noNaN: true }), (shadows, highlights, contrast, gamma) => {
        const curve = lightnessCurve({ shadows, highlights, contrast, gamma });
        const values = Array.from({ length: 201 }, (_, at) => curve(at / 200));
        expect(values[0]).toBeCloseTo(0, 12);
        expect(values[200]).toBeCloseTo(1, 12);
        expect(values.every((value, at) => at === 0 || value >= values[at - 1]! - 1e-12)).toBe(true);
      }),
    );
  });

  it('stays at the middle under contrast, with twice the slope there at +1', () => {
    const curve = lightnessCurve({ ...NO_TONE, contrast: 1 });
    expect(curve(0.5)).toBeCloseTo(0.5, 12);
    expect((curve(0.501) - curve(0.499)) / 0.002).toBeCloseTo(2, 2);
  });
});

describe('a tone', () => {
  it('multiplies linear light by exposure: +1 EV of 18 % is 36 %', () => {
    const grey = linearToSrgb(0.18);
    for (const value of toned([grey, grey, grey], { exposure: 1 })) expect(srgbToLinear(value)).toBeCloseTo(0.36, 3);
    const [r, g, b] = toned([0.4, 0.3, 0.2], { exposure: -0.5 });
    for (const [value, before] of [
      [r, 0.4],
      [g, 0.3],
      [b, 0.2],
    ] as const)
      // prettier-ignore
      expect(srgbToLinear(value)).toBeCloseTo(srgbToLinear(before) * 2 ** -0.5, 4);
  });

  it('adapts white along daylight: from D65 to D50 as ICC profiles do', () => {
    // CIE 15:2004, table T.1: chromaticities of D50 and D65.
    const chromaticity = ([x, y, z]: Row) => [x / (x + y + z), y / (x + y + z)];
    expect(chromaticity(daylight(6504))).toEqual([expect.closeTo(0.3127, 3), expect.closeTo(0.329, 3)]);
    expect(chromaticity(daylight(5003))).toEqual([expect.closeTo(0.3457, 3), expect.closeTo(0.3585, 3)]);
    // The matrix of linear Bradford from D65 to D50 (ICC.1:2022, annex E; as in the chad tag of sRGB profiles).
    const warmer = warmthMatrix(1e6 / 5003 - 1e6 / 6504);
    const chad = [1.0479, 0.0229, -0.0502, 0.0296, 0.9905, -0.0171, -0.0092, 0.0151, 0.7517];
    warmer.flat().forEach((value, at) => expect(Math.abs(value - chad[at]!)).toBeLessThan(0.003));
    const [r, , b] = toned([0.5, 0.5, 0.5], { warmth: 30 });
    expect(r).toBeGreaterThan(b + 0.03);
  });

  it('leaves grey grey, whatever the saturation, and keeps hue', () => {
    for (const grey of [0.02, 0.2, 0.5, 0.77, 1])
      for (const saturation of [-1, -0.4, 0.3, 1]) {
        const [r, g, b] = toned([grey, grey, grey], { saturation });
        expect(Math.max(r, g, b) - Math.min(r, g, b)).toBeLessThanOrEqual(1 / 65_535);
        expect(g).toBeCloseTo(grey, 4);
      }
    const [r, g, b] = toned([0.6, 0.4, 0.3], { saturation: -1 });
    expect(Math.max(r, g, b) - Math.min(r, g, b)).toBeLessThan(0.001);
    const hue = (colour: readonly number[]) => Math.atan2(labOf(colour)[2], labOf(colour)[1]);
    expect(hue(toned([0.6, 0.4, 0.3], { saturation: 0.4 }))).toBeCloseTo(hue([0.6, 0.4, 0.3]), 1);
  });

  it('brings what the space cannot hold towards grey of the same luminance', () => {
    const blue = toned([0.1, 0.3, 0.95], { exposure: 1.2 });
    expect(Math.max(...blue)).toBeLessThanOrEqual(1);
    const light = (colour: readonly number[]) => apply(SRGB.toXyz, colour.map(srgbToLinear) as unknown as Row)[1];
    expect(light(blue)).toBeCloseTo(light([0.1, 0.3, 0.95]) * 2 ** 1.2, 3);
  });

  it('of a window is that of the whole, to the last bit, as far as its reach', () => {
    const [width, height] = [90, 70];
    let seed = 7;
    const noise = () => (seed = (seed * 48_271) % 2_147_483_647) / 2_147_483_647;
    const pixels = Uint16Array.from({ length: width * height * 3 }, (_, at) => ((at % 3000) / 3000) * 40_000 + noise() * 20_000);
    const tone = { ...NO_TONE, exposure: 0.3, contrast: 0.2, saturation: 0.2, local: { amount: 0.8, radius: 5 } };
    const whole = applyTone({ width, height, channels: 3, pixels }, tone, WIDE_OPEN, SRGB);
    const window = { left: 30, top: 25, width: 20, height: 15 };
    const reach = toneReach(tone);
    const around = { left: 30 - reach, top: 25 - reach, width: 20 + 2 * reach, height: 15 + 2 * reach };
    const part = applyTone(cutOut({ width, height, channels: 3, pixels }, around), tone, WIDE_OPEN, SRGB);
    expect(cutOut(part, { ...window, left: reach, top: reach }).pixels).toEqual(cutOut(whole, window).pixels);
  });
});

describe('local contrast', () => {
  it('leaves a hard edge without overshoot, and lifts fine texture', () => {
    const [width, height] = [200, 40];
    const edge = Uint16Array.from({ length: width * height }, (_, at) => (at % width < 100 ? 13_107 : 52_428));
    localContrast(edge, width, height, 1, 20);
    expect(Math.min(...edge)).toBeGreaterThan(13_107 - 0.5 * 655.35);
    expect(Math.max(...edge)).toBeLessThan(52_428 + 0.5 * 655.35);
    const texture = Uint16Array.from({ length: width * height }, (_, at) => 32_768 + (Math.floor(at / 4) % 2 ? 1000 : -1000));
    localContrast(texture, width, height, 1, 20);
    expect(texture[width * 20 + 102]! - texture[width * 20 + 98]!).toBeGreaterThan(1.5 * 2000);
  });
});

describe('points', () => {
  const { curves } = SRGB;

  it('are percentiles by nearest rank', () => {
    // A worked example of the nearest-rank method (from memory); numpy.percentile calls it 'inverted_cdf'.
    const counts = new Uint32Array(32);
    for (const value of [3, 6, 7, 8, 8, 10, 13, 15, 16, 20]) counts[value]!++;
    expect([0.25, 0.5, 0.75, 1].map((share) => percentile(counts, share))).toEqual([7, 8, 15, 20]);
  });

  it('stretch a flat picture, but move middle grey no further than the limit', () => {
    const ramp = Uint16Array.from({ length: 3000 }, (_, at) => 65_535 * (0.2 + 0.6 * (Math.floor(at / 3) / 999)));
    const tones = tonesOf({ width: 1000, height: 1, channels: 3, pixels: ramp }, curves);
    const auto = { low: 0, high: 0, limit: 2 };
    const found = pointsOf({ auto, black: 0, white: 1 }, tones);
    expect(found.black).toBeCloseTo(srgbToLinear(0.2), 4);
    expect(found.white).toBeCloseTo(srgbToLinear(0.8), 4);
    const held = pointsOf({ auto: { ...auto, limit: 0.1 }, black: 0, white: 1 }, tones);
    const grey = ({ black, white }: Points) =>
      [(0.18 - black) / (1 - black), 0.18 / white].map((light) => Math.abs(Math.log2(light / 0.18)));
    for (const moved of grey(held)) expect(moved).toBeLessThanOrEqual(0.1 + 1e-9);
    expect(toned([0.2, 0.2, 0.2], {}, found)[0]).toBeCloseTo(0, 2);
    expect(toned([0.8, 0.8, 0.8], {}, found)[0]).toBeCloseTo(1, 2);
  });

  it('of a picture of one tone change nothing', () => {
    const tones = tonesOf({ width: 10, height: 1, channels: 1, pixels: new Uint16Array(10).fill(30_000) }, curves);
    const { black, white } = pointsOf({ auto: { low: 0.1, high: 0.1, limit: 2 }, black: 0, white: 1 }, tones);
    expect(black < white).toBe(true);
  });
});

describe('tone as a decision', () => {
  const preset = Preset.parse({ kind: 'rundle.preset', version: 1, title: 'Toned' });
  const master = { width: 600, height: 400 };

  it('is added to that of a preset, and works where there is none', () => {
    const own = plusTone(stepTone(null, 1)!, { ...NO_TONE_OF_PICTURE, warmth: 10 });
    const carried = (one: typeof preset) => makingOf(master, one, null, { ...NO_DECISIONS, tone: own }).preset.tone;
    expect(carried(preset)).toEqual({ ...NO_TONE, exposure: 0.167, warmth: 10 });
    expect(carried({ ...preset, tone: { ...NO_TONE, exposure: 3.95, gamma: 1.2 } })).toMatchObject({ exposure: 4, gamma: 1.2, warmth: 10 });
  });

  it('goes up and down in sixths of a stop, and back to none', () => {
    let own = stepTone(null, 1);
    for (let step = 1; step < 6; step++) own = stepTone(own, 1);
    expect(own?.exposure).toBe(1);
    for (let step = 0; step < 6; step++) own = stepTone(own, -1);
    expect(own).toBeNull();
  });

  it('that changes nothing makes no other recipe', () => {
    const text = (tone: Tone | null) => recipeTexts({ preset: { ...preset, tone }, studio: StudioDetails.parse({}), watermark: null })('m');
    expect(text(NO_TONE)).toBe(text(null));
    expect(text({ ...NO_TONE, local: { amount: 0, radius: 9 } })).toBe(text(null));
    expect(text({ ...NO_TONE, gamma: 1.1 })).not.toBe(text(null));
  });
});

const NO_TONE_OF_PICTURE = { exposure: 0, shadows: 0, highlights: 0, contrast: 0, saturation: 0, warmth: 0 };
