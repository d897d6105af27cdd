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

/** What is averaged: both pictures, their squares, their product. */
const MAPS = 5;

/**
 * Means over the picture, wherever the window fits: SSIM, and its part without luminance. Goes down row by row with a ring of
 * blurred rows of each map.
 */
function similarity(a: Luma, b: Luma): { ssim: number; contrast: number } {
  const { width, height } = a;
  const taps = windowTaps();
  const reach = taps.length - 1;
  const across = width - reach;
  if (across < 1 || height <= reach) return { ssim: 1, contrast: 1 };
  const memory = workspace();
  const { loops } = memory;
  const weights = memory.put(taps);
  const maps = Array.from({ length: MAPS }, () => {
    const row = memory.reserve(4 * width);
    const ring = Array.from(taps, () => memory.reserve(4 * across));
    return { row, ring, mean: memory.reserve(4 * across) };
  });
  // Where the taps of a row lie, and those of a column for each place in the ring that its first row may have.
  const lists = maps.map(({ row, ring }) => ({
    along: memory.put(Uint32Array.from(taps, (_, k) => row + 4 * k)),
    down: ring.map((_, first) => memory.put(Uint32Array.from(taps, (_tap, k) => ring[(first + k) % ring.length]!))),
  }));
  // Nothing is reserved from here on, so that the views stay.
  const rowsOf = maps.map(({ row }) => memory.floats(row, width)) as [Float32Array, Float32Array, Float32Array, Float32Array, Float32Array];
  const means = maps.map(({ mean }) => memory.floats(mean, across)) as typeof rowsOf;
  let ssimSum = 0;
  let contrastSum = 0;
  for (let y = 0; y < height; y++) {
    products(a.values, b.values, y * width, width, rowsOf);
    for (let map = 0; map < MAPS; map++)
      loops.downFloats(lists[map]!.along, taps.length, weights, across, maps[map]!.ring[y % taps.length]!);
    if (y < reach) continue;
    const first = (y - reach) % taps.length;
    for (let map = 0; map < MAPS; map++) loops.downFloats(lists[map]!.down[first]!, taps.length, weights, across, maps[map]!.mean);
    const [meanA, meanB, squareA, squareB, both] = means;
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

/** A row of each map. */
function products(
  a: Float32Array,
  b: Float32Array,
  from: number,
  width: number,
  [ofA, ofB, squareA, squareB, both]: [Float32Array, Float32Array, Float32Array, Float32Array, Float32Array],
): void {
  for (let x = 0; x < width; x++) {
    const [va, vb] = [a[from + x]!, b[from + x]!];
    ofA[x] = va;
    ofB[x] = vb;
    squareA[x] = va * va;
    squareB[x] = vb * vb;
    both[x] = va * vb;
  }
}

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
