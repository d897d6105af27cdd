import { ssim as reference } from 'ssim.js';
import { describe, expect, it } from 'vitest';
import { type Luma, msSsim, ssim } from './ms-ssim';

const width = 210;
const height = 190;
const grey = (at: (x: number, y: number) => number): Luma => ({
  width,
  height,
  values: Float32Array.from({ length: width * height }, (_, i) => Math.round(at(i % width, Math.floor(i / width)))),
});
const scene = (x: number, y: number) => 120 + 70 * Math.sin(x / 9) * Math.cos(y / 14) + 30 * Math.sin(x * y * 0.01);
const noise = (x: number, y: number) => (((x * 7919 + y * 104_729) % 41) - 20) / 20;
const sound = grey(scene);

/** The same for a general-purpose library: RGBA of 8 bits. */
const rgba = ({ values }: Luma) => ({
  width,
  height,
  data: Uint8ClampedArray.from({ length: values.length * 4 }, (_, i) => (i % 4 === 3 ? 255 : values[i >> 2]!)),
});

describe('structural similarity', () => {
  it.each([2, 8, 25])('with noise of %f is what the library ssim.js 3.5.0 finds', (strength) => {
    const noisy = grey((x, y) => scene(x, y) + strength * noise(x, y));
    const { mssim } = reference(rgba(sound), rgba(noisy), { ssim: 'original', downsample: false, rgb2grayVersion: 'original' });
    expect(ssim(sound, noisy)).toBeCloseTo(mssim, 3);
  });

  it('over several scales is 1 for the same picture and falls with noise, blur and blocks', () => {
    expect(msSsim(sound, sound)).toBeCloseTo(1, 6);
    const worse = [1, 4, 16, 40].map((strength) =>
      msSsim(
        sound,
        grey((x, y) => scene(x, y) + strength * noise(x, y)),
      ),
    );
    expect(worse).toEqual([...worse].sort((a, b) => b - a));
    const blocks = msSsim(
      sound,
      grey((x, y) => scene(x - (x % 8), y - (y % 8))),
    );
    expect(blocks).toBeLessThan(0.97);
    expect(blocks).toBeGreaterThan(0.3);
  });

  it('works on pictures that are too small for a window', () => {
    const small: Luma = { width: 3, height: 2, values: new Float32Array(6) };
    expect(msSsim(small, small)).toBe(1);
  });
});
