/*
 * Means over squares, row by row: see packages/core/src/tone/local-contrast.ts. Sums are f64 and of whole numbers, so that they are exact.
 */

const ONE: f64 = 1.0 / 65535;

/** Adds a row of u16, and its squares, to sums of columns, or takes it out (sign -1). */
export function sumWithSquares(row: usize, width: i32, sign: f64, sums: usize, squares: usize): void {
  for (let x: usize = 0; x < <usize>width; x++) {
    const value = <f64>load<u16>(row + 2 * x);
    store<f64>(sums + 8 * x, load<f64>(sums + 8 * x) + sign * value);
    store<f64>(squares + 8 * x, load<f64>(squares + 8 * x) + sign * value * value);
  }
}

/** The same of a row of u16 and one of u32. */
export function sumOfTwo(first: usize, second: usize, width: i32, sign: f64, sums: usize, others: usize): void {
  for (let x: usize = 0; x < <usize>width; x++) {
    store<f64>(sums + 8 * x, load<f64>(sums + 8 * x) + sign * <f64>load<u16>(first + 2 * x));
    store<f64>(others + 8 * x, load<f64>(others + 8 * x) + sign * <f64>load<u32>(second + 4 * x));
  }
}

/** Sums of columns to sums over squares of r to each side, as far as the row reaches. @param out f64 */
export function alongSums(columns: usize, width: i32, r: i32, out: usize): void {
  let sum: f64 = 0;
  for (let x = 0; x < min(r, width); x++) sum += load<f64>(columns + 8 * <usize>x);
  for (let x = 0; x < width; x++) {
    if (x + r < width) sum += load<f64>(columns + 8 * <usize>(x + r));
    if (x > r) sum -= load<f64>(columns + 8 * <usize>(x - r - 1));
    store<f64>(out + 8 * <usize>x, sum);
  }
}

/**
 * Slope and offset of the guided filter for each place of a row.
 * @param counts u32: how many px the square of each place has across
 * @param detail variance at which the slope is one half
 * @param slopes u16, 65,535 for 1
 * @param offsets u32, in sixteenths
 */
export function guidedRow(
  sums: usize,
  squares: usize,
  counts: usize,
  rows: f64,
  width: i32,
  detail: f64,
  slopes: usize,
  offsets: usize,
): void {
  for (let x: usize = 0; x < <usize>width; x++) {
    const share = 1 / (rows * <f64>load<u32>(counts + 4 * x));
    const mean = load<f64>(sums + 8 * x) * share;
    const spread = load<f64>(squares + 8 * x) * share - mean * mean;
    const variance = spread > 0 ? spread : 0;
    const slope = <u32>((65535 * variance) / (variance + detail) + 0.5);
    store<u16>(slopes + 2 * x, <u16>slope);
    store<u32>(offsets + 4 * x, <u32>(16 * (1 - <f64>slope * ONE) * mean + 0.5));
  }
}

/** Lightness of a row with its contrast against what the filter makes of it, in place. @param lightness u16 */
export function contrastRow(slopes: usize, offsets: usize, counts: usize, rows: f64, width: i32, amount: f64, lightness: usize): void {
  for (let x: usize = 0; x < <usize>width; x++) {
    const share = 1 / (rows * <f64>load<u32>(counts + 4 * x));
    const own = <f64>load<u16>(lightness + 2 * x);
    const isEdge = load<f64>(slopes + 8 * x) * share * ONE;
    const mean = isEdge * own + load<f64>(offsets + 8 * x) * share * 0.0625;
    const value = own + amount * (1 - isEdge) * (own - mean);
    store<u16>(lightness + 2 * x, value <= 0 ? 0 : value >= 65535 ? 65535 : <u16>(value + 0.5));
  }
}
