import { describe, expect, it } from 'vitest';
import { msSsim } from './ms-ssim';
import { type Planes, planesOf, visibleDifference } from './visible-difference';

const [width, height] = [200, 160];
const picture = (colour: (x: number, y: number) => readonly [number, number, number]): Planes => {
  const pixels = new Uint8Array(width * height * 3);
  for (let at = 0; at < width * height; at++) pixels.set(colour(at % width, Math.floor(at / width)), 3 * at);
  return planesOf({ width, height, pixels });
};
const scene = (x: number, y: number) =>
  [130 + 60 * Math.sin(x / 9) * Math.cos(y / 13), 120 + 50 * Math.sin(y / 7), 110 + 40 * Math.cos(x / 11)] as const;

describe('the visible difference', () => {
  const sound = picture(scene);

  it('is none between a picture and itself, and more for more of the same', () => {
    expect(visibleDifference(sound, sound).difference).toBeCloseTo(0, 6);
    const noisy = [2, 6, 20].map((by) =>
      picture(
        (x, y) => scene(x, y).map((value) => value + by * ((((x * 31 + y * 57) % 17) - 8) / 8)) as unknown as [number, number, number],
      ),
    );
    const differences = noisy.map((one) => visibleDifference(sound, one).difference);
    expect(differences).toEqual(differences.toSorted((a, b) => a - b));
    expect(visibleDifference(sound, noisy[2]!).likeness).toBeCloseTo(msSsim(sound[0], noisy[2]![0]), 9);
  });

  it('counts colours that run, which luma alone does not see, by how far the worst hundredth is off', () => {
    // Red and blue change so that luma stays (ITU-R BT.709): by 20 levels of red, 58.9 of blue.
    const [red, blue] = [20, (-20 * 0.2126) / 0.0722];
    const spoilt = (share: number) => picture((_, y) => (y < share * height ? [100 + red, 100, Math.round(120 + blue)] : [100, 100, 120]));
    const even = picture(() => [100, 100, 120]);
    const { difference, likeness } = visibleDifference(even, spoilt(0.05));
    expect(likeness).toBeGreaterThan(0.9999);
    // Cr is off by red / 1.5748, Cb by blue / 1.8556, both in the worst hundredth.
    expect(difference).toBeCloseTo(0.0004 * (red / 1.5748 - Math.round(blue) / 1.8556), 3);
    expect(visibleDifference(even, spoilt(0)).difference).toBeCloseTo(0, 6);
  });
});
