import { describe, expect, it } from 'vitest';
import { unsharpMask } from './unsharp-mask';

/** The definition, evaluated pixel by pixel with a two-dimensional Gaussian that reaches six sigma. */
function direct(pixels: Uint8Array, width: number, height: number, amount: number, sigma: number, threshold: number): number[] {
  const at = (x: number, y: number, c: number) =>
    pixels[(Math.min(height - 1, Math.max(0, y)) * width + Math.min(width - 1, Math.max(0, x))) * 3 + c]! / 255;
  const luma = (x: number, y: number) => 0.2126 * at(x, y, 0) + 0.7152 * at(x, y, 1) + 0.0722 * at(x, y, 2);
  const reach = Math.ceil(6 * sigma);
  const out: number[] = [];
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      let sum = 0;
      let weights = 0;
      for (let j = -reach; j <= reach; j++)
        for (let i = -reach; i <= reach; i++) {
          const weight = Math.exp(-(i * i + j * j) / (2 * sigma * sigma));
          sum += weight * luma(x + i, y + j);
          weights += weight;
        }
      const d = luma(x, y) - sum / weights;
      for (let c = 0; c < 3; c++) out.push(255 * Math.min(1, Math.max(0, at(x, y, c) + (Math.abs(d) >= threshold ? amount * d : 0))));
    }
  return out;
}

const width = 41;
const height = 23;
const busy = Uint8Array.from({ length: width * height * 3 }, (_, index) => 128 + 90 * Math.sin(index * 0.37) + 30 * Math.sin(index * 2.1));

describe('unsharp mask', () => {
  it.each([
    [0.7, 0.8],
    [0.5, 1.3],
    [2, 3],
    [1, 0.4],
  ])('amount %f, radius %f lies within one code value of its definition', (amount, radius) => {
    const pixels = busy.slice();
    unsharpMask({ width, height, pixels }, { amount, radius, threshold: 0 });
    const expected = direct(busy, width, height, amount, radius, 0);
    expect(Math.max(...expected.map((value, index) => Math.abs(value - pixels[index]!)))).toBeLessThanOrEqual(1);
  });

  it('gives the same picture from 16 bits', () => {
    const pixels = Uint16Array.from(busy, (value) => value * 257);
    unsharpMask({ width, height, pixels }, { amount: 0.7, radius: 0.8, threshold: 0.01 });
    const expected = direct(busy, width, height, 0.7, 0.8, 0.01);
    expect(Math.max(...expected.map((value, index) => Math.abs(value - pixels[index]! / 257)))).toBeLessThan(0.6);
  });

  it('leaves alone what lies below the threshold, and all of it at amount 0', () => {
    const soft = Uint8Array.from({ length: width * height * 3 }, (_, index) => 120 + (index % 2));
    for (const mask of [
      { amount: 3, radius: 0.8, threshold: 0.05 },
      { amount: 0, radius: 0.8, threshold: 0 },
    ]) {
      const pixels = soft.slice();
      unsharpMask({ width, height, pixels }, mask);
      expect(pixels).toEqual(soft);
    }
  });
});
