/*
 * The parts of the unsharp mask that work on one row. Both blurs are symmetric, so that samples as far to one side as to the
 * other are added before they are weighed.
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
  // Eight pixels are 24 words: their red words are 0, 3, 6 of a, 1, 4, 7 of b, 2, 5 of c, and so on. Masks that are put together by "or" stay in
  // registers, where a shuffle of two would build its own each time.
  const ra = i8x16(0, 1, 6, 7, 12, 13, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1);
  const rb = i8x16(-1, -1, -1, -1, -1, -1, 2, 3, 8, 9, 14, 15, -1, -1, -1, -1);
  const rc = i8x16(-1, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, 4, 5, 10, 11);
  const ga = i8x16(2, 3, 8, 9, 14, 15, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1);
  const gb = i8x16(-1, -1, -1, -1, -1, -1, 4, 5, 10, 11, -1, -1, -1, -1, -1, -1);
  const gc = i8x16(-1, -1, -1, -1, -1, -1, -1, -1, -1, -1, 0, 1, 6, 7, 12, 13);
  const ba = i8x16(4, 5, 10, 11, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1);
  const bb = i8x16(-1, -1, -1, -1, 0, 1, 6, 7, 12, 13, -1, -1, -1, -1, -1, -1);
  const bc = i8x16(-1, -1, -1, -1, -1, -1, -1, -1, -1, -1, 2, 3, 8, 9, 14, 15);
  for (let x = 0; x < width; x += 8) {
    const at = from + 6 * x;
    const a = v128.load(at), b = v128.load(at, 16), c = v128.load(at, 32);
    const r = v128.or(v128.or(i8x16.swizzle(a, ra), i8x16.swizzle(b, rb)), i8x16.swizzle(c, rc));
    const g = v128.or(v128.or(i8x16.swizzle(a, ga), i8x16.swizzle(b, gb)), i8x16.swizzle(c, gc));
    const l = v128.or(v128.or(i8x16.swizzle(a, ba), i8x16.swizzle(b, bb)), i8x16.swizzle(c, bc));
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
 * A row blurred along itself.
 * @param row f32, continued on both sides by `reach`; up to 7 more are read
 * @param weights f32, from the middle outwards, `reach` + 1 of them
 * @param out f32; up to 7 more are written
 */
export function blurAlong(row: usize, width: i32, weights: usize, reach: i32, out: usize): void {
  const middle = v128.load32_splat(weights);
  for (let x = 0; x < width; x += 8) {
    const at = row + 4 * x;
    let a = f32x4.mul(v128.load(at), middle);
    let b = f32x4.mul(v128.load(at, 16), middle);
    for (let k = 1; k <= reach; k++) {
      const w = v128.load32_splat(weights + 4 * k);
      const left = at - 4 * k;
      const right = at + 4 * k;
      a = f32x4.add(a, f32x4.mul(f32x4.add(v128.load(left), v128.load(right)), w));
      b = f32x4.add(b, f32x4.mul(f32x4.add(v128.load(left, 16), v128.load(right, 16)), w));
    }
    v128.store(out + 4 * x, a);
    v128.store(out + 4 * x, b, 16);
  }
}

/**
 * Adds amount x (luma - mean) to the three channels of each pixel where that difference is not below a threshold. The mean is
 * the blur down the columns of rows that are blurred along already. What is added is rounded half up, once for the three, which
 * gives what rounding each sum would.
 * @param row u16, RGB interleaved, changed in place and clamped to 0-65,535; up to 9 more are read and written
 * @param luma f32, on the scale of the row
 * @param blurred 2 `reach` + 1 addresses of rows of f32, from top to bottom, this row's in the middle
 * @param weights f32, from the middle outwards
 */
// prettier-ignore
export function sharpenRow(row: usize, luma: usize, blurred: usize, weights: usize, reach: i32, width: i32, amount: f32, threshold: f32): void {
  const factor = f32x4.splat(amount);
  const least = f32x4.splat(threshold);
  const half = f32x4.splat(0.5);
  const middle = v128.load32_splat(weights);
  const here = <usize>load<u32>(blurred + 4 * reach);
  for (let x = 0; x < width; x += 4) {
    let mean = f32x4.mul(v128.load(here + 4 * x), middle);
    for (let k = 1; k <= reach; k++) {
      const above = <usize>load<u32>(blurred + 4 * (reach - k));
      const below = <usize>load<u32>(blurred + 4 * (reach + k));
      const both = f32x4.add(v128.load(above + 4 * x), v128.load(below + 4 * x));
      mean = f32x4.add(mean, f32x4.mul(both, v128.load32_splat(weights + 4 * k)));
    }
    const d = f32x4.sub(v128.load(luma + 4 * x), mean);
    const add = f32x4.floor(f32x4.add(v128.and(f32x4.mul(d, factor), f32x4.ge(f32x4.abs(d), least)), half));
    const whole = i32x4.trunc_sat_f32x4_s(add);
    const at = row + 6 * x;
    const a = v128.load(at), b = v128.load64_zero(at, 16);
    const first = i32x4.add(i32x4.extend_low_i16x8_u(a), v128.shuffle<i32>(whole, whole, 0, 0, 0, 1));
    const second = i32x4.add(i32x4.extend_high_i16x8_u(a), v128.shuffle<i32>(whole, whole, 1, 1, 2, 2));
    const third = i32x4.add(i32x4.extend_low_i16x8_u(b), v128.shuffle<i32>(whole, whole, 2, 3, 3, 3));
    v128.store(at, i16x8.narrow_i32x4_u(first, second));
    v128.store64_lane(at, i16x8.narrow_i32x4_u(third, third), 0, 16);
  }
}
