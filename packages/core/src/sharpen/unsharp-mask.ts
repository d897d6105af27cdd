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
 * @param image RGB of 16 bits
 * @returns how far the sharpening overshot
 */
export function unsharpMask({ width, height, pixels }: Raster<Uint16Array>, { amount, radius, threshold }: UnsharpMask): Halo {
  const taps = gaussianTaps(radius);
  const reach = (taps.length - 1) / 2;
  const memory = workspace();
  const { loops } = memory;
  const weights = memory.put(taps);
  const row = memory.reserve(6 * width + 64);
  const mean = memory.reserve(4 * width);
  // Luma of a row, continued on both sides, and that luma blurred along the row.
  const ring = Array.from({ length: taps.length }, () => ({
    luma: memory.reserve(4 * (width + 2 * reach)),
    blurred: memory.reserve(4 * width),
  }));
  const slot = (y: number) => ring[((y % taps.length) + taps.length) % taps.length]!;
  const list = memory.reserve(4 * taps.length);
  const sum = (addresses: number[], out: number) => {
    memory.fill(list, Uint32Array.from(addresses));
    loops.downFloats(list, taps.length, weights, width, out);
  };
  const pixelRow = (y: number) => pixels.subarray(y * width * 3, (y + 1) * width * 3);
  const load = (y: number) => {
    const { luma, blurred } = slot(y);
    memory.fill(row, pixelRow(Math.min(height - 1, Math.max(0, y))));
    loops.lumaOfRow(row, width, luma + 4 * reach);
    const floats = memory.floats(luma, width + 2 * reach);
    floats.fill(floats[reach]!, 0, reach);
    floats.fill(floats[reach + width - 1]!, reach + width);
    sum(
      Array.from(taps, (_, k) => luma + 4 * k),
      blurred,
    );
  };
  const meter = new HaloMeter(amount, threshold * FULL, FULL);
  for (let y = -reach; y < reach; y++) load(y);
  for (let y = 0; y < height; y++) {
    // The row that enters lies below this one, so its pixels have not been sharpened yet.
    load(y + reach);
    sum(
      Array.from(taps, (_, k) => slot(y - reach + k).blurred),
      mean,
    );
    const luma = (of: number) => memory.floats(slot(of).luma + 4 * reach, width);
    if (meter.wants(y)) meter.look(luma(y - 1), luma(y), luma(y + 1), memory.floats(mean, width));
    memory.fill(row, pixelRow(y));
    loops.addDifference(row, slot(y).luma + 4 * reach, mean, width, amount, threshold * FULL);
    pixelRow(y).set(memory.words(row, width * 3));
  }
  return meter.result();
}

/** A Gaussian from -3 sigma to 3 sigma, at least one step to each side, that sums to 1. */
export function gaussianTaps(sigma: number): Float32Array {
  const reach = Math.max(1, Math.ceil(3 * sigma));
  const taps = Float64Array.from({ length: 2 * reach + 1 }, (_, at) => Math.exp(-((at - reach) ** 2) / (2 * sigma * sigma)));
  const sum = taps.reduce((total, tap) => total + tap, 0);
  return Float32Array.from(taps, (tap) => tap / sum);
}
