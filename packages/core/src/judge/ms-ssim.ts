import { workspace } from '../kernels/kernels';

/** A grey picture of 8-bit luma, 0-255. */
export interface Luma {
  width: number;
  height: number;
  values: Float32Array;
}

/** Exponents of the five scales, finest first (Wang, Simoncelli and Bovik 2003, "Multi-scale structural similarity", section 3.2). */
const EXPONENTS = [0.0448, 0.2856, 0.3001, 0.2363, 0.1333] as const;
const C1 = (0.01 * 255) ** 2;
const C2 = (0.03 * 255) ** 2;
const WINDOW = 11;

/**
 * Multi-scale structural similarity of two pictures of one size (Wang et al. 2003): contrast and structure at five scales,
 * luminance at the coarsest, each over a Gaussian window of 11 px and sigma 1.5 (Wang et al. 2004). Pictures too small for
 * five scales are compared on as many as they have, the exponents made to sum to the same.
 * @returns 1 for equal pictures, less for worse; at least 0
 */
export function msSsim(a: Luma, b: Luma): number {
  const scales = Math.max(1, Math.min(EXPONENTS.length, Math.floor(Math.log2(Math.min(a.width, a.height) / WINDOW)) + 1));
  const used = EXPONENTS.slice(0, scales);
  const total = used.reduce((sum, exponent) => sum + exponent, 0);
  let score = 1;
  let [left, right] = [a, b];
  used.forEach((exponent, scale) => {
    const last = scale === scales - 1;
    const { ssim, contrast } = similarity(left, right);
    score *= Math.max(0, last ? ssim : contrast) ** (exponent / total);
    if (!last) [left, right] = [halved(left), halved(right)];
  });
  return score;
}

/** Mean structural similarity at one scale (Wang, Bovik, Sheikh and Simoncelli 2004, equation 13). */
export const ssim = (a: Luma, b: Luma): number => similarity(a, b).ssim;

/**
 * Means over the picture, wherever the window fits: SSIM, and its part without luminance. Goes down row by row with a ring of
 * five blurred rows each: a, b, their squares and their product.
 */
function similarity(a: Luma, b: Luma): { ssim: number; contrast: number } {
  const { width, height } = a;
  const taps = windowTaps();
  const reach = taps.length - 1;
  const memory = workspace();
  const { loops } = memory;
  const weights = memory.put(taps);
  const list = memory.reserve(4 * taps.length);
  const row = memory.reserve(4 * width);
  const across = width - reach;
  if (across < 1 || height <= reach) return { ssim: 1, contrast: 1 };
  const ring = Array.from({ length: taps.length }, () => Array.from({ length: 5 }, () => memory.reserve(4 * across)));
  const means = Array.from({ length: 5 }, () => memory.reserve(4 * across));
  const sum = (addresses: Uint32Array, out: number) => {
    memory.fill(list, addresses);
    loops.downFloats(list, taps.length, weights, across, out);
  };
  const along = Uint32Array.from(taps, (_, k) => row + 4 * k);
  const scratch = new Float32Array(width);
  let ssimSum = 0;
  let contrastSum = 0;
  for (let y = 0; y < height; y++) {
    const x = a.values.subarray(y * width, (y + 1) * width);
    const z = b.values.subarray(y * width, (y + 1) * width);
    const slot = ring[y % taps.length]!;
    PRODUCTS.forEach((product, map) => {
      for (let at = 0; at < width; at++) scratch[at] = product(x[at]!, z[at]!);
      memory.fill(row, scratch);
      sum(along, slot[map]!);
    });
    if (y < reach) continue;
    for (let map = 0; map < 5; map++)
      sum(
        Uint32Array.from(taps, (_, k) => ring[(y - reach + k) % taps.length]![map]!),
        means[map]!,
      );
    const [meanA, meanB, squareA, squareB, both] = means.map((address) => memory.floats(address, across)) as [
      Float32Array,
      Float32Array,
      Float32Array,
      Float32Array,
      Float32Array,
    ];
    for (let at = 0; at < across; at++) {
      const ma = meanA[at]!;
      const mb = meanB[at]!;
      const contrast = (2 * (both[at]! - ma * mb) + C2) / (squareA[at]! - ma * ma + (squareB[at]! - mb * mb) + C2);
      contrastSum += contrast;
      ssimSum += (contrast * (2 * ma * mb + C1)) / (ma * ma + mb * mb + C1);
    }
  }
  const count = across * (height - reach);
  return { ssim: ssimSum / count, contrast: contrastSum / count };
}

/** What is averaged: both pictures, their squares, their product. */
const PRODUCTS: readonly ((a: number, b: number) => number)[] = [(a) => a, (_, b) => b, (a) => a * a, (_, b) => b * b, (a, b) => a * b];

/** One edge of the window: a Gaussian of sigma 1.5 that sums to 1. */
function windowTaps(): Float32Array {
  const taps = Float64Array.from({ length: WINDOW }, (_, at) => Math.exp(-((at - WINDOW / 2 + 0.5) ** 2) / (2 * 1.5 ** 2)));
  const sum = taps.reduce((total, tap) => total + tap, 0);
  return Float32Array.from(taps, (tap) => tap / sum);
}

/** Half as large, each pixel the mean of four. */
function halved({ width, height, values }: Luma): Luma {
  const w = width >> 1;
  const h = height >> 1;
  const out = new Float32Array(w * h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const at = 2 * y * width + 2 * x;
      out[y * w + x] = (values[at]! + values[at + 1]! + values[at + width]! + values[at + width + 1]!) / 4;
    }
  return { width: w, height: h, values: out };
}

/** Luma of an RGB picture of 8 bits, by the weights of ITU-R BT.709. */
export function lumaOf({ width, height, pixels }: { width: number; height: number; pixels: Uint8Array }): Luma {
  const values = new Float32Array(width * height);
  for (let at = 0, from = 0; at < values.length; at++, from += 3)
    values[at] = 0.2126 * pixels[from]! + 0.7152 * pixels[from + 1]! + 0.0722 * pixels[from + 2]!;
  return { width, height, values };
}
