import { workspace } from '../kernels/kernels';
import type { Raster } from '../raster';
import { HaloMeter, type Halo } from './halo';

/** Settings of the unsharp mask, in output pixels; see the Sharpness rung. */
export interface UnsharpMask {
  /** Share of the difference that is added, 0-5. */
  amount: number;
  /** Sigma of the Gaussian in px. */
  radius: number;
  /** Smallest difference that is sharpened, share of full scale 0-1. */
  threshold: number;
}

const FULL = 65_535;

/**
 * Sharpens by an unsharp mask on luma, in place. On encoded values 0-1: Y = 0.2126 R + 0.7152 G + 0.0722 B (the weights
 * of ITU-R BT.709); d = Y - G*Y with G a Gaussian of sigma `radius`, cut at three sigma; where |d| >= threshold,
 * amount x d is added to R, G and B alike; clamped to 0-1. Edges are continued by their outermost pixel.
 *
 * Works from row to row with a ring of blurred rows, so that it needs memory for a few rows only.
 * Grey is its own Y. For CMYK Y comes from (1-C)(1-K), (1-M)(1-K), (1-Y)(1-K) as R, G and B, and amount x d is subtracted from all four inks.
 * @param image grey, RGB or CMYK of 16 bits
 * @returns how far the sharpening overshot
 */
export function unsharpMask(image: Raster<Uint16Array>, { amount, radius, threshold }: UnsharpMask): Halo {
  const { width, height, channels, pixels } = image;
  const taps = gaussianTaps(radius);
  const count = taps.length;
  const reach = (count - 1) / 2;
  const memory = workspace();
  const { loops } = memory;
  const allWeights = memory.put(taps);
  const weights = allWeights + 4 * reach; // from the middle outwards
  const mean = memory.reserve(4 * width);
  // A row, its luma continued on both sides, and that luma blurred along the row.
  const ring = Array.from({ length: count }, () => ({
    row: memory.reserve(2 * channels * width + 64),
    luma: memory.reserve(4 * (width + 2 * reach)) + 4 * reach,
    blurred: memory.reserve(4 * width),
  }));
  const place = (y: number) => ((y % count) + count) % count;
  // Which rows lie below each other when each of the ring is the first.
  const down = ring.map((_, first) => memory.put(Uint32Array.from(taps, (_tap, k) => ring[(first + k) % count]!.blurred)));
  const rowBytes = 2 * channels * width;
  const load = (y: number) => {
    const { row, luma, blurred } = ring[place(y)]!;
    const from = pixels.byteOffset + Math.min(height - 1, Math.max(0, y)) * rowBytes;
    memory.fill(row, new Uint8Array(pixels.buffer, from, rowBytes));
    if (channels === 3) loops.lumaOfRow(row, width, luma);
    else lumaOfOthers(memory.words(row, width * channels), channels, memory.floats(luma, width));
    loops.continueRow(luma, width, reach);
    loops.blurAlong(luma, width, weights, reach, blurred);
  };
  const meter = new HaloMeter(amount, threshold * FULL, FULL);
  const lumaOf = (y: number) => memory.floats(ring[place(y)]!.luma, width);
  for (let y = -reach; y < reach; y++) load(y);
  for (let y = 0; y < height; y++) {
    // The row that enters lies below this one, so its pixels have not been sharpened yet.
    load(y + reach);
    const rows = down[place(y - reach)]!;
    if (channels !== 3 || meter.wants(y)) {
      loops.downFloats(rows, count, allWeights, width, mean);
      if (meter.wants(y)) meter.look(lumaOf(y - 1), lumaOf(y), lumaOf(y + 1), memory.floats(mean, width));
    }
    const { row, luma } = ring[place(y)]!;
    if (channels === 3) loops.sharpenRow(row, luma, rows, weights, reach, width, amount, threshold * FULL);
    else sharpenOthers(memory.words(row, width * channels), channels, lumaOf(y), memory.floats(mean, width), amount, threshold * FULL);
    pixels.set(memory.words(row, width * channels), y * width * channels);
  }
  return meter.result();
}

/** Luma of a row of grey or CMYK, on the scale of its words. */
function lumaOfOthers(row: Uint16Array, channels: number, luma: Float32Array): void {
  if (channels === 1) {
    luma.set(row);
    return;
  }
  for (let x = 0, at = 0; x < luma.length; x++, at += 4) {
    const light = 1 - row[at + 3]! / FULL;
    luma[x] = light * (0.2126 * (FULL - row[at]!) + 0.7152 * (FULL - row[at + 1]!) + 0.0722 * (FULL - row[at + 2]!));
  }
}

/** Sharpens a row of grey, or of inks, which are the other way round: more of them is darker. */
function sharpenOthers(
  row: Uint16Array,
  channels: number,
  luma: Float32Array,
  mean: Float32Array,
  amount: number,
  threshold: number,
): void {
  const sign = channels === 4 ? -amount : amount;
  for (let x = 0; x < luma.length; x++) {
    const d = luma[x]! - mean[x]!;
    if (Math.abs(d) < threshold) continue;
    const add = Math.floor(sign * d + 0.5);
    for (let at = x * channels; at < (x + 1) * channels; at++) row[at] = Math.min(FULL, Math.max(0, row[at]! + add));
  }
}

/** How far the Gaussian reaches to each side, px: three sigma, at least one step. */
export const reachOf = (sigma: number): number => Math.max(1, Math.ceil(3 * sigma));

/** A Gaussian of that reach that sums to 1. */
export function gaussianTaps(sigma: number): Float32Array {
  const reach = reachOf(sigma);
  const taps = Float64Array.from({ length: 2 * reach + 1 }, (_, at) => Math.exp(-((at - reach) ** 2) / (2 * sigma * sigma)));
  const sum = taps.reduce((total, tap) => total + tap, 0);
  return Float32Array.from(taps, (tap) => tap / sum);
}
