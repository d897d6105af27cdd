import { expect, it } from 'vitest';
import { fineContrast } from './fine-contrast';

const luma = (width: number, height: number, of: (x: number, y: number) => number) => ({
  width,
  height,
  values: Float32Array.from({ length: width * height }, (_, at) => of(at % width, Math.floor(at / width))),
});

it('fine contrast is what the four neighbours say: by hand for patterns, none for what is even or a plain slope', () => {
  expect(fineContrast(luma(9, 7, () => 80))).toBe(0);
  expect(fineContrast(luma(9, 7, (x, y) => 3 * x + 5 * y))).toBe(0);
  // A chessboard of 0 and 10: each pixel is 10 off all four.
  expect(fineContrast(luma(8, 8, (x, y) => 10 * ((x + y) % 2)))).toBe(40);
  // Columns of 0 and 10: 10 off two of them.
  expect(fineContrast(luma(8, 8, (x) => 10 * (x % 2)))).toBe(20);
  // One bright pixel in a field of 3 x 3 that count: 4 times its height at itself, once at four others.
  expect(fineContrast(luma(5, 5, (x, y) => (x === 2 && y === 2 ? 9 : 0)))).toBeCloseTo((4 * 9 + 4 * 9) / 9);
  expect(fineContrast(luma(2, 40, (x) => x))).toBe(0);
  // A grid of twice the contrast has twice as much.
  expect(fineContrast(luma(8, 8, (x) => 20 * (x % 2)))).toBe(2 * fineContrast(luma(8, 8, (x) => 10 * (x % 2))));
});
