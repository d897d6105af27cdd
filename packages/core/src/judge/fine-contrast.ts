import type { Luma } from './ms-ssim';

/**
 * How much fine contrast a picture has: the mean absolute Laplacian of its luma, over the four neighbours of each pixel that has them all, in
 * levels of 8 bits. Sharpening raises it; making smaller, smoothing and strong compression take of it. A measure of focus in the literature: S. K. Nayar,
 * Y. Nakagawa, "Shape from Focus", IEEE TPAMI 16 (1994), takes the same of the two directions one by one.
 * @returns 0 for a picture that is even, or smaller than 3 x 3 px
 */
export function fineContrast({ width, height, values }: Luma): number {
  if (width < 3 || height < 3) return 0;
  let sum = 0;
  for (let y = 1; y < height - 1; y++)
    for (let x = 1, at = y * width + 1; x < width - 1; x++, at++)
      sum += Math.abs(4 * values[at]! - values[at - 1]! - values[at + 1]! - values[at - width]! - values[at + width]!);
  return sum / ((width - 2) * (height - 2));
}
