/*
 * Means over squares, row by row: see packages/core/src/tone/local-contrast.ts. Two sums are kept for each place, side by side in one vector of f64;
 * they are of whole numbers, so that they are exact.
 */

const ONE: f64 = 1.0 / 65535;
/** Bytes of the two sums of a place. */
const PAIR: usize = 16;

/** Adds a row of u16, and its squares, to the sums of columns, or takes it out (sign -1). */
export function sumWithSquares(row: usize, width: i32, sign: f64, sums: usize): void {
  const signs = f64x2.splat(sign);
  for (let x = 0; x < width; x++) {
    const value = <f64>load<u16>(row);
    const both = f64x2.mul(signs, f64x2.replace_lane(f64x2.splat(value), 1, value * value));
    v128.store(sums, f64x2.add(v128.load(sums), both));
    row += 2;
    sums += PAIR;
  }
}

/** The same of a row of u16 and one of u32. */
export function sumOfTwo(first: usize, second: usize, width: i32, sign: f64, sums: usize): void {
  const signs = f64x2.splat(sign);
  for (let x = 0; x < width; x++) {
    const both = f64x2.mul(signs, f64x2.replace_lane(f64x2.splat(<f64>load<u16>(first)), 1, <f64>load<u32>(second)));
    v128.store(sums, f64x2.add(v128.load(sums), both));
    first += 2;
    second += 4;
    sums += PAIR;
  }
}

/** Sums of columns to sums over squares of r to each side, as far as the row reaches. */
export function alongSums(columns: usize, width: i32, r: i32, out: usize): void {
  let sum = f64x2.splat(0);
  for (let x = 0; x < min(r, width); x++) sum = f64x2.add(sum, v128.load(columns + PAIR * <usize>x));
  for (let x = 0; x < width; x++) {
    if (x + r < width) sum = f64x2.add(sum, v128.load(columns + PAIR * <usize>(x + r)));
    if (x > r) sum = f64x2.sub(sum, v128.load(columns + PAIR * <usize>(x - r - 1)));
    v128.store(out + PAIR * <usize>x, sum);
  }
}

/**
 * Slope and offset of the guided filter for each place of a row.
 * @param sums of values and of their squares
 * @param shares f64: one by the number of px across the square of each place
 * @param rowShare the same of those down
 * @param detail variance at which the slope is one half
 * @param slopes u16, 65,535 for 1
 * @param offsets u32, in sixteenths
 */
export function guidedRow(sums: usize, shares: usize, rowShare: f64, width: i32, detail: f64, slopes: usize, offsets: usize): void {
  for (let x = 0; x < width; x++) {
    const means = f64x2.mul(v128.load(sums), f64x2.splat(rowShare * load<f64>(shares)));
    const mean = f64x2.extract_lane(means, 0);
    const spread = f64x2.extract_lane(means, 1) - mean * mean;
    const variance = spread > 0 ? spread : 0;
    const slope = <i32>((65535 * variance) / (variance + detail) + 0.5);
    store<u16>(slopes, <u16>slope);
    store<u32>(offsets, <u32>(<i32>(16 * (1 - <f64>slope * ONE) * mean + 0.5)));
    sums += PAIR;
    shares += 8;
    slopes += 2;
    offsets += 4;
  }
}

/**
 * Lightness of a row with its contrast against what the filter makes of it, in place.
 * @param sums of slopes and of offsets
 * @param lightness u16
 */
export function contrastRow(sums: usize, shares: usize, rowShare: f64, width: i32, amount: f64, lightness: usize): void {
  const units = f64x2.replace_lane(f64x2.splat(ONE), 1, 0.0625);
  for (let x = 0; x < width; x++) {
    const means = f64x2.mul(f64x2.mul(v128.load(sums), f64x2.splat(rowShare * load<f64>(shares))), units);
    const own = <f64>load<u16>(lightness);
    const isEdge = f64x2.extract_lane(means, 0);
    const mean = isEdge * own + f64x2.extract_lane(means, 1);
    const value = own + amount * (1 - isEdge) * (own - mean);
    store<u16>(lightness, value <= 0 ? 0 : value >= 65535 ? 65535 : <u16>(<i32>(value + 0.5)));
    sums += PAIR;
    shares += 8;
    lightness += 2;
  }
}
