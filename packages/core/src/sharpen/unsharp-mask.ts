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
export function unsharpMask(image: Raster<Uint16Array>, mask: UnsharpMask): Halo {
  return new Masking(image, mask).all();
}

/** A row, its luma continued on both sides, and that luma blurred along the row: addresses. */
interface RingRow {
  row: number;
  luma: number;
  blurred: number;
}

class Masking {
  private readonly memory = workspace();
  private readonly count: number;
  private readonly reach: number;
  private readonly allWeights: number;
  /** From the middle outwards. */
  private readonly weights: number;
  private readonly mean: number;
  private readonly ring: RingRow[];
  /** Which rows lie below each other when each of the ring is the first. */
  private readonly down: number[];
  private readonly meter: HaloMeter;

  constructor(
    private readonly image: Raster<Uint16Array>,
    private readonly mask: UnsharpMask,
  ) {
    const { memory } = this;
    const { width, channels } = image;
    const taps = gaussianTaps(mask.radius);
    this.count = taps.length;
    this.reach = (taps.length - 1) / 2;
    this.allWeights = memory.put(taps);
    this.weights = this.allWeights + 4 * this.reach;
    this.mean = memory.reserve(4 * width);
    this.ring = Array.from(taps, () => ({
      row: memory.reserve(2 * channels * width + 64),
      luma: memory.reserve(4 * (width + 2 * this.reach)) + 4 * this.reach,
      blurred: memory.reserve(4 * width),
    }));
    this.down = this.ring.map((_, first) => memory.put(Uint32Array.from(taps, (_tap, k) => this.rowAt(first + k).blurred)));
    this.meter = new HaloMeter(mask.amount, mask.threshold * FULL, FULL);
  }

  all(): Halo {
    const { image, mask, memory, meter, reach, count, mean } = this;
    const { width, height, channels, pixels } = image;
    const { amount } = mask;
    const threshold = mask.threshold * FULL;
    const { loops } = memory;
    for (let y = -reach; y < reach; y++) this.load(y);
    for (let y = 0; y < height; y++) {
      // The row that enters lies below this one, so its pixels have not been sharpened yet.
      this.load(y + reach);
      const rows = this.down[this.place(y - reach)]!;
      if (channels !== 3 || meter.wants(y)) {
        loops.downFloats(rows, count, this.allWeights, width, mean);
        if (meter.wants(y)) meter.look(this.lumaOf(y - 1), this.lumaOf(y), this.lumaOf(y + 1), memory.floats(mean, width));
      }
      const { row, luma } = this.rowAt(y);
      if (channels === 3) loops.sharpenRow(row, luma, rows, this.weights, reach, width, amount, threshold);
      else sharpenOthers(memory.words(row, width * channels), channels, this.lumaOf(y), memory.floats(mean, width), amount, threshold);
      pixels.set(memory.words(row, width * channels), y * width * channels);
    }
    return meter.result();
  }

  private load(y: number): void {
    const { memory, reach, image } = this;
    const { width, height, channels, pixels } = image;
    const { loops } = memory;
    const { row, luma, blurred } = this.rowAt(y);
    const length = width * channels;
    const from = Math.min(height - 1, Math.max(0, y)) * length;
    memory.words(row, length).set(pixels.subarray(from, from + length));
    if (channels === 3) loops.lumaOfRow(row, width, luma);
    else lumaOfOthers(memory.words(row, length), channels, memory.floats(luma, width));
    loops.continueRow(luma, width, reach);
    loops.blurAlong(luma, width, this.weights, reach, blurred);
  }

  private lumaOf(y: number): Float32Array {
    return this.memory.floats(this.rowAt(y).luma, this.image.width);
  }

  private rowAt(y: number): RingRow {
    return this.ring[this.place(y)]!;
  }

  private place(y: number): number {
    const { count } = this;
    return ((y % count) + count) % count;
  }
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
