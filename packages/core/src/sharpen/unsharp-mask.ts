/** Settings of the unsharp mask, in output pixels; see the Sharpness rung. */
export interface UnsharpMask {
  /** Share of the difference that is added, 0-5. */
  amount: number;
  /** Sigma of the Gaussian in px. */
  radius: number;
  /** Smallest difference that is sharpened, share of full scale 0-1. */
  threshold: number;
}

/** An RGB picture, interleaved, 8 or 16 bits per channel. */
export interface RgbImage<P extends Uint8Array | Uint16Array = Uint8Array | Uint16Array> {
  width: number;
  height: number;
  pixels: P;
}

/**
 * Sharpens by an unsharp mask on luma, in place. On encoded values 0-1: Y = 0.2126 R + 0.7152 G + 0.0722 B (the weights
 * of ITU-R BT.709); d = Y - G*Y with G a Gaussian of sigma `radius`, cut at three sigma; where |d| >= threshold,
 * amount x d is added to R, G and B alike; clamped to 0-1. Edges are continued by their outermost pixel.
 *
 * Works through the picture row by row with a ring of blurred rows, so that it needs memory for a few rows only.
 */
export function unsharpMask(image: RgbImage, { amount, radius, threshold }: UnsharpMask): void {
  if (amount === 0) return;
  const { width, height, pixels } = image;
  const full = pixels instanceof Uint8Array ? 255 : 65_535;
  const taps = gaussianTaps(radius);
  const reach = taps.length - 1;
  const rows = 2 * reach + 1;
  // Each ring row keeps its luma and that luma blurred along the row.
  const ring = Array.from({ length: rows }, () => ({ luma: new Float32Array(width + 2 * reach), blurred: new Float32Array(width) }));
  const at = (y: number) => ring[((y % rows) + rows) % rows]!;
  const load = (y: number) => {
    const row = at(y);
    lumaRow(pixels, width, Math.min(height - 1, Math.max(0, y)), reach, row.luma);
    blurRow(row.luma, taps, row.blurred);
  };
  for (let y = -reach; y < reach; y++) load(y);
  const mean = new Float32Array(width);
  const least = threshold * full;
  for (let y = 0; y < height; y++) {
    // The row that enters lies below this one, so its pixels have not been sharpened yet.
    load(y + reach);
    scaleInto(mean, at(y).blurred, taps[0]!);
    for (let k = 1; k <= reach; k++) addPair(mean, at(y - k).blurred, at(y + k).blurred, taps[k]!);
    addDifference(pixels, y * width * 3, at(y).luma, reach, mean, amount, least, full);
  }
}

/** Half of a Gaussian, from its middle outwards, so that the whole of it sums to 1. */
export function gaussianTaps(sigma: number): Float64Array {
  const reach = Math.max(1, Math.ceil(3 * sigma));
  const taps = Float64Array.from({ length: reach + 1 }, (_, k) => Math.exp(-(k * k) / (2 * sigma * sigma)));
  const sum = taps.reduce((total, tap, k) => total + (k ? 2 * tap : tap), 0);
  return taps.map((tap) => tap / sum);
}

function lumaRow(pixels: Uint8Array | Uint16Array, width: number, y: number, reach: number, out: Float32Array): void {
  let from = y * width * 3;
  for (let x = reach; x < reach + width; x++, from += 3)
    out[x] = 0.2126 * pixels[from]! + 0.7152 * pixels[from + 1]! + 0.0722 * pixels[from + 2]!;
  out.fill(out[reach]!, 0, reach);
  out.fill(out[reach + width - 1]!, reach + width);
}

function blurRow(luma: Float32Array, taps: Float64Array, out: Float32Array): void {
  const reach = taps.length - 1;
  if (reach === 3) return blurRowBySeven(luma, taps, out);
  for (let x = 0; x < out.length; x++) {
    let sum = taps[0]! * luma[x + reach]!;
    for (let k = 1; k <= reach; k++) sum += taps[k]! * (luma[x + reach - k]! + luma[x + reach + k]!);
    out[x] = sum;
  }
}

/** The usual radius, 0.8 px, has seven taps; written out, it takes half the time. */
function blurRowBySeven(luma: Float32Array, taps: Float64Array, out: Float32Array): void {
  const [t0 = 0, t1 = 0, t2 = 0, t3 = 0] = taps;
  for (let x = 0; x < out.length; x++)
    out[x] = t0 * luma[x + 3]! + t1 * (luma[x + 2]! + luma[x + 4]!) + t2 * (luma[x + 1]! + luma[x + 5]!) + t3 * (luma[x]! + luma[x + 6]!);
}

function scaleInto(out: Float32Array, row: Float32Array, tap: number): void {
  for (let x = 0; x < out.length; x++) out[x] = tap * row[x]!;
}

function addPair(out: Float32Array, above: Float32Array, below: Float32Array, tap: number): void {
  for (let x = 0; x < out.length; x++) out[x]! += tap * (above[x]! + below[x]!);
}

function addDifference(
  pixels: Uint8Array | Uint16Array,
  start: number,
  luma: Float32Array,
  reach: number,
  mean: Float32Array,
  amount: number,
  least: number,
  full: number,
): void {
  for (let x = 0, to = start; x < mean.length; x++, to += 3) {
    const d = luma[x + reach]! - mean[x]!;
    if (d < least && d > -least) continue;
    const add = amount * d + 0.5;
    pixels[to] = clamp(pixels[to]! + add, full);
    pixels[to + 1] = clamp(pixels[to + 1]! + add, full);
    pixels[to + 2] = clamp(pixels[to + 2]! + add, full);
  }
}

const clamp = (value: number, full: number): number => (value < 0 ? 0 : value > full ? full : value);
