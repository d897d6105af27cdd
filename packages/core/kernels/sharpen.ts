/*
 * The parts of the unsharp mask that work on one row. The blurs between them are weighted sums of rows, see resample.ts.
 */

/**
 * Luma of a row of RGB, by the weights of ITU-R BT.709.
 * @param from u16, RGB interleaved; up to 23 more are read
 * @param out f32; up to 7 more are written
 */
// prettier-ignore
export function lumaOfRow(from: usize, width: i32, out: usize): void {
  const red = f32x4.splat(0.2126);
  const green = f32x4.splat(0.7152);
  const blue = f32x4.splat(0.0722);
  for (let x = 0; x < width; x += 8) {
    const at = from + 6 * x;
    const a = v128.load(at), b = v128.load(at, 16), c = v128.load(at, 32);
    // Eight pixels are 24 words: their red words are 0, 3, 6 of a, 1, 4, 7 of b, 2, 5 of c, and so on.
    const r = v128.shuffle<u16>(v128.shuffle<u16>(a, b, 0, 3, 6, 9, 12, 15, 0, 0), c, 0, 1, 2, 3, 4, 5, 10, 13);
    const g = v128.shuffle<u16>(v128.shuffle<u16>(a, b, 1, 4, 7, 10, 13, 0, 0, 0), c, 0, 1, 2, 3, 4, 8, 11, 14);
    const l = v128.shuffle<u16>(v128.shuffle<u16>(a, b, 2, 5, 8, 11, 14, 0, 0, 0), c, 0, 1, 2, 3, 4, 9, 12, 15);
    const low = f32x4.add(
      f32x4.add(
        f32x4.mul(f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(r)), red),
        f32x4.mul(f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(g)), green),
      ),
      f32x4.mul(f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(l)), blue),
    );
    const high = f32x4.add(
      f32x4.add(
        f32x4.mul(f32x4.convert_i32x4_u(i32x4.extend_high_i16x8_u(r)), red),
        f32x4.mul(f32x4.convert_i32x4_u(i32x4.extend_high_i16x8_u(g)), green),
      ),
      f32x4.mul(f32x4.convert_i32x4_u(i32x4.extend_high_i16x8_u(l)), blue),
    );
    v128.store(out + 4 * x, low);
    v128.store(out + 4 * x, high, 16);
  }
}

/**
 * Continues a row by its outermost values.
 * @param row f32, `width` of them, with room for `reach` more on both sides
 */
export function continueRow(row: usize, width: i32, reach: i32): void {
  const first = load<f32>(row);
  const last = load<f32>(row + 4 * (width - 1));
  for (let k = 0; k < reach; k++) {
    store<f32>(row - 4 * (k + 1), first);
    store<f32>(row + 4 * (width + k), last);
  }
}

/**
 * Adds amount x (luma - mean) to the three channels of each pixel where that difference is not below a threshold.
 * @param row u16, RGB interleaved, changed in place and clamped to 0-65,535; up to 9 more are read and written
 * @param luma f32, @param mean f32, both on the scale of the row
 */
// prettier-ignore
export function addDifference(row: usize, luma: usize, mean: usize, width: i32, amount: f32, threshold: f32): void {
  const factor = f32x4.splat(amount);
  const least = f32x4.splat(threshold);
  for (let x = 0; x < width; x += 4) {
    const d = f32x4.sub(v128.load(luma + 4 * x), v128.load(mean + 4 * x));
    const add = v128.and(f32x4.mul(d, factor), f32x4.ge(f32x4.abs(d), least));
    const at = row + 6 * x;
    const a = v128.load(at), b = v128.load64_zero(at, 16);
    const first = sharpened(i32x4.extend_low_i16x8_u(a), v128.shuffle<f32>(add, add, 0, 0, 0, 1));
    const second = sharpened(i32x4.extend_high_i16x8_u(a), v128.shuffle<f32>(add, add, 1, 1, 2, 2));
    const third = sharpened(i32x4.extend_low_i16x8_u(b), v128.shuffle<f32>(add, add, 2, 3, 3, 3));
    v128.store(at, i16x8.narrow_i32x4_u(first, second));
    v128.store64_lane(at, i16x8.narrow_i32x4_u(third, third), 0, 16);
  }
}

function sharpened(words: v128, add: v128): v128 {
  const value = f32x4.add(f32x4.add(f32x4.convert_i32x4_s(words), add), f32x4.splat(0.5));
  return i32x4.trunc_sat_f32x4_s(f32x4.min(f32x4.splat(65535.0), f32x4.max(f32x4.splat(0), value)));
}
