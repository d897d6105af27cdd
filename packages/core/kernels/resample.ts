/*
 * The two passes of a separable resampling, on rows that the caller has put into memory. Positions are byte addresses.
 */

/**
 * Two rows of bytes as one row of pairs of i16, the form in which they are multiplied.
 * @param length samples in a row; up to 15 more are read, and written as pairs
 */
export function pairRows(upper: usize, lower: usize, length: i32, out: usize): void {
  for (let x = 0; x < length; x += 16) {
    const a = v128.load(upper + x);
    const b = v128.load(lower + x);
    const low = v128.shuffle<u8>(a, b, 0, 16, 1, 17, 2, 18, 3, 19, 4, 20, 5, 21, 6, 22, 7, 23);
    const high = v128.shuffle<u8>(a, b, 8, 24, 9, 25, 10, 26, 11, 27, 12, 28, 13, 29, 14, 30, 15, 31);
    const to = out + 4 * x;
    v128.store(to, i16x8.extend_low_i8x16_u(low));
    v128.store(to, i16x8.extend_high_i8x16_u(low), 16);
    v128.store(to, i16x8.extend_low_i8x16_u(high), 32);
    v128.store(to, i16x8.extend_high_i8x16_u(high), 48);
  }
}

/** The same of two rows of words, each less 32,768. Up to 7 more are read, and written as pairs. */
export function pairWordRows(upper: usize, lower: usize, length: i32, out: usize): void {
  const middle = i16x8.splat(-32768);
  for (let x = 0; x < length; x += 8) {
    const a = v128.xor(v128.load(upper + 2 * x), middle);
    const b = v128.xor(v128.load(lower + 2 * x), middle);
    v128.store(out + 4 * x, v128.shuffle<i16>(a, b, 0, 8, 1, 9, 2, 10, 3, 11));
    v128.store(out + 4 * x, v128.shuffle<i16>(a, b, 4, 12, 5, 13, 6, 14, 7, 15), 16);
  }
}

/**
 * One output row: a weighted sum of source rows, in whole numbers.
 * @param rows `count` addresses of rows of pairs
 * @param weights as many pairs of i16; 16,384 is 1
 * @param length samples in a row; up to 31 more are read and written
 * @param shift how many bits of the sums are rounded away
 * @param out i16
 */
// prettier-ignore
export function downPairs(rows: usize, count: i32, weights: usize, length: i32, shift: i32, out: usize): void {
  const half = i32x4.splat(1 << (shift - 1));
  for (let x = 0; x < length; x += 32) {
    let s0 = half, s1 = half, s2 = half, s3 = half, s4 = half, s5 = half, s6 = half, s7 = half;
    for (let k = 0; k < count; k++) {
      const from = <usize>load<u32>(rows + 4 * k) + 4 * x;
      const w = v128.load32_splat(weights + 4 * k);
      s0 = i32x4.add(s0, i32x4.dot_i16x8_s(v128.load(from), w));
      s1 = i32x4.add(s1, i32x4.dot_i16x8_s(v128.load(from, 16), w));
      s2 = i32x4.add(s2, i32x4.dot_i16x8_s(v128.load(from, 32), w));
      s3 = i32x4.add(s3, i32x4.dot_i16x8_s(v128.load(from, 48), w));
      s4 = i32x4.add(s4, i32x4.dot_i16x8_s(v128.load(from, 64), w));
      s5 = i32x4.add(s5, i32x4.dot_i16x8_s(v128.load(from, 80), w));
      s6 = i32x4.add(s6, i32x4.dot_i16x8_s(v128.load(from, 96), w));
      s7 = i32x4.add(s7, i32x4.dot_i16x8_s(v128.load(from, 112), w));
    }
    const to = out + 2 * x;
    v128.store(to, i16x8.narrow_i32x4_s(i32x4.shr_s(s0, shift), i32x4.shr_s(s1, shift)));
    v128.store(to, i16x8.narrow_i32x4_s(i32x4.shr_s(s2, shift), i32x4.shr_s(s3, shift)), 16);
    v128.store(to, i16x8.narrow_i32x4_s(i32x4.shr_s(s4, shift), i32x4.shr_s(s5, shift)), 32);
    v128.store(to, i16x8.narrow_i32x4_s(i32x4.shr_s(s6, shift), i32x4.shr_s(s7, shift)), 48);
  }
}

/**
 * The same to bytes: sums of weights of which 4,096 is 1, rounded half up and clamped.
 * @param out u8; up to 31 more are written
 */
// prettier-ignore
export function downPairsToBytes(rows: usize, count: i32, weights: usize, length: i32, out: usize): void {
  const half = i32x4.splat(2048);
  for (let x = 0; x < length; x += 32) {
    let s0 = half, s1 = half, s2 = half, s3 = half, s4 = half, s5 = half, s6 = half, s7 = half;
    for (let k = 0; k < count; k++) {
      const from = <usize>load<u32>(rows + 4 * k) + 4 * x;
      const w = v128.load32_splat(weights + 4 * k);
      s0 = i32x4.add(s0, i32x4.dot_i16x8_s(v128.load(from), w));
      s1 = i32x4.add(s1, i32x4.dot_i16x8_s(v128.load(from, 16), w));
      s2 = i32x4.add(s2, i32x4.dot_i16x8_s(v128.load(from, 32), w));
      s3 = i32x4.add(s3, i32x4.dot_i16x8_s(v128.load(from, 48), w));
      s4 = i32x4.add(s4, i32x4.dot_i16x8_s(v128.load(from, 64), w));
      s5 = i32x4.add(s5, i32x4.dot_i16x8_s(v128.load(from, 80), w));
      s6 = i32x4.add(s6, i32x4.dot_i16x8_s(v128.load(from, 96), w));
      s7 = i32x4.add(s7, i32x4.dot_i16x8_s(v128.load(from, 112), w));
    }
    v128.store(out + x, bytesOf(s0, s1, s2, s3));
    v128.store(out + x, bytesOf(s4, s5, s6, s7), 16);
  }
}

function bytesOf(s0: v128, s1: v128, s2: v128, s3: v128): v128 {
  const low = i16x8.narrow_i32x4_s(i32x4.shr_s(s0, 12), i32x4.shr_s(s1, 12));
  const high = i16x8.narrow_i32x4_s(i32x4.shr_s(s2, 12), i32x4.shr_s(s3, 12));
  return i8x16.narrow_i16x8_u(low, high);
}

/**
 * The same where the width stays, so that these sums are the result already.
 * @param scale what makes a sum a part of 65,535, @param offset what is then added, the half for rounding included
 * @param out u16, 65,535 is full scale; up to 15 more are written
 */
// prettier-ignore
export function downPairsToWords(rows: usize, count: i32, weights: usize, length: i32, scale: f32, offset: f32, out: usize): void {
  const factor = f32x4.splat(scale);
  const base = f32x4.splat(offset);
  for (let x = 0; x < length; x += 16) {
    let s0 = i32x4.splat(0), s1 = i32x4.splat(0), s2 = i32x4.splat(0), s3 = i32x4.splat(0);
    for (let k = 0; k < count; k++) {
      const from = <usize>load<u32>(rows + 4 * k) + 4 * x;
      const w = v128.load32_splat(weights + 4 * k);
      s0 = i32x4.add(s0, i32x4.dot_i16x8_s(v128.load(from), w));
      s1 = i32x4.add(s1, i32x4.dot_i16x8_s(v128.load(from, 16), w));
      s2 = i32x4.add(s2, i32x4.dot_i16x8_s(v128.load(from, 32), w));
      s3 = i32x4.add(s3, i32x4.dot_i16x8_s(v128.load(from, 48), w));
    }
    const to = out + 2 * x;
    v128.store(to, i16x8.narrow_i32x4_u(scaled(s0, factor, base), scaled(s1, factor, base)));
    v128.store(to, i16x8.narrow_i32x4_u(scaled(s2, factor, base), scaled(s3, factor, base)), 16);
  }
}

/**
 * Along four such rows of RGB at once, so that starts and weights are fetched once for all of them: each output pixel is a
 * weighted sum of neighbours from its own start.
 * @param row first of the rows, @param stride bytes from one to the next
 * @param starts i32 per output pixel
 * @param weights i16, `taps` per output pixel, a multiple of 2; 16,384 is 1
 * @param scale what makes a sum a part of 65,535, @param offset what is then added, the half for rounding included
 * @param out u16, 65,535 is full scale; four rows, one after the other
 */
// prettier-ignore
export function alongFour(row: usize, stride: usize, starts: usize, weights: usize, taps: i32, width: i32, scale: f32, offset: f32, out: usize): void {
  const factor = f32x4.splat(scale);
  const base = f32x4.splat(offset);
  // Two RGB pixels, and what follows them, as pairs of red, green, blue. A shuffle would build this mask anew each time.
  const pairs = i8x16(0, 1, 6, 7, 2, 3, 8, 9, 4, 5, 10, 11, -1, -1, -1, -1);
  let weight = weights;
  for (let x = 0; x < width; x++) {
    let a = row + <usize>load<i32>(starts + 4 * x) * 6;
    let s0 = i32x4.splat(0), s1 = i32x4.splat(0), s2 = i32x4.splat(0), s3 = i32x4.splat(0);
    for (let k = 0; k < taps; k += 2) {
      const w = v128.load32_splat(weight);
      const b = a + stride, c = b + stride, d = c + stride;
      s0 = i32x4.add(s0, i32x4.dot_i16x8_s(i8x16.swizzle(v128.load(a), pairs), w));
      s1 = i32x4.add(s1, i32x4.dot_i16x8_s(i8x16.swizzle(v128.load(b), pairs), w));
      s2 = i32x4.add(s2, i32x4.dot_i16x8_s(i8x16.swizzle(v128.load(c), pairs), w));
      s3 = i32x4.add(s3, i32x4.dot_i16x8_s(i8x16.swizzle(v128.load(d), pairs), w));
      a += 12;
      weight += 4;
    }
    storeFour(s0, s1, s2, s3, factor, base, out + 6 * x, 6 * width);
  }
}

/** A pixel of each row: three words, without touching the one behind them, which may begin the next row. */
// prettier-ignore
function storeFour(s0: v128, s1: v128, s2: v128, s3: v128, factor: v128, base: v128, to: usize, stride: usize): void {
  const a = i16x8.narrow_i32x4_u(scaled(s0, factor, base), scaled(s1, factor, base));
  const b = i16x8.narrow_i32x4_u(scaled(s2, factor, base), scaled(s3, factor, base));
  v128.store32_lane(to, a, 0);
  v128.store16_lane(to, a, 2, 4);
  v128.store32_lane(to + stride, a, 2);
  v128.store16_lane(to + stride, a, 6, 4);
  v128.store32_lane(to + 2 * stride, b, 0);
  v128.store16_lane(to + 2 * stride, b, 2, 4);
  v128.store32_lane(to + 3 * stride, b, 2);
  v128.store16_lane(to + 3 * stride, b, 6, 4);
}

function scaled(sum: v128, factor: v128, base: v128): v128 {
  return i32x4.trunc_sat_f32x4_s(f32x4.add(f32x4.mul(f32x4.convert_i32x4_s(sum), factor), base));
}

/** The same from bytes, where the height stays: 255 becomes 65,535. Parameters as in {@link alongFour}, `taps` a multiple of 4. */
// prettier-ignore
export function alongFourBytes(row: usize, stride: usize, starts: usize, weights: usize, taps: i32, width: i32, out: usize): void {
  const factor = f32x4.splat(257.0 / 16384.0);
  const base = f32x4.splat(0.5);
  // Five pixels of RGB, each byte made a word: pairs of the first two, pairs of the next two.
  const first = i8x16(0, -1, 3, -1, 1, -1, 4, -1, 2, -1, 5, -1, -1, -1, -1, -1);
  const second = i8x16(6, -1, 9, -1, 7, -1, 10, -1, 8, -1, 11, -1, -1, -1, -1, -1);
  let weight = weights;
  for (let x = 0; x < width; x++) {
    let a = row + <usize>load<i32>(starts + 4 * x) * 3;
    let s0 = i32x4.splat(0), s1 = i32x4.splat(0), s2 = i32x4.splat(0), s3 = i32x4.splat(0);
    for (let k = 0; k < taps; k += 4) {
      const w = v128.load32_splat(weight), v = v128.load32_splat(weight, 4);
      const b = a + stride, c = b + stride, d = c + stride;
      const p = v128.load(a), q = v128.load(b), r = v128.load(c), t = v128.load(d);
      s0 = i32x4.add(s0, i32x4.dot_i16x8_s(i8x16.swizzle(p, first), w));
      s1 = i32x4.add(s1, i32x4.dot_i16x8_s(i8x16.swizzle(q, first), w));
      s2 = i32x4.add(s2, i32x4.dot_i16x8_s(i8x16.swizzle(r, first), w));
      s3 = i32x4.add(s3, i32x4.dot_i16x8_s(i8x16.swizzle(t, first), w));
      s0 = i32x4.add(s0, i32x4.dot_i16x8_s(i8x16.swizzle(p, second), v));
      s1 = i32x4.add(s1, i32x4.dot_i16x8_s(i8x16.swizzle(q, second), v));
      s2 = i32x4.add(s2, i32x4.dot_i16x8_s(i8x16.swizzle(r, second), v));
      s3 = i32x4.add(s3, i32x4.dot_i16x8_s(i8x16.swizzle(t, second), v));
      a += 12;
      weight += 8;
    }
    storeFour(s0, s1, s2, s3, factor, base, out + 6 * x, 6 * width);
  }
}

/**
 * The same from bytes to bytes, by weights of which 4,096 is 1. Parameters as in {@link alongFour}.
 * @param out u8; four rows, one after the other
 */
// prettier-ignore
export function alongFourToBytes(row: usize, stride: usize, starts: usize, weights: usize, taps: i32, width: i32, out: usize): void {
  const half = i32x4.splat(2048);
  const first = i8x16(0, -1, 3, -1, 1, -1, 4, -1, 2, -1, 5, -1, -1, -1, -1, -1);
  const second = i8x16(6, -1, 9, -1, 7, -1, 10, -1, 8, -1, 11, -1, -1, -1, -1, -1);
  let weight = weights;
  for (let x = 0; x < width; x++) {
    let a = row + <usize>load<i32>(starts + 4 * x) * 3;
    let s0 = half, s1 = half, s2 = half, s3 = half;
    for (let k = 0; k < taps; k += 4) {
      const w = v128.load32_splat(weight), v = v128.load32_splat(weight, 4);
      const b = a + stride, c = b + stride, d = c + stride;
      const p = v128.load(a), q = v128.load(b), r = v128.load(c), t = v128.load(d);
      s0 = i32x4.add(s0, i32x4.dot_i16x8_s(i8x16.swizzle(p, first), w));
      s1 = i32x4.add(s1, i32x4.dot_i16x8_s(i8x16.swizzle(q, first), w));
      s2 = i32x4.add(s2, i32x4.dot_i16x8_s(i8x16.swizzle(r, first), w));
      s3 = i32x4.add(s3, i32x4.dot_i16x8_s(i8x16.swizzle(t, first), w));
      s0 = i32x4.add(s0, i32x4.dot_i16x8_s(i8x16.swizzle(p, second), v));
      s1 = i32x4.add(s1, i32x4.dot_i16x8_s(i8x16.swizzle(q, second), v));
      s2 = i32x4.add(s2, i32x4.dot_i16x8_s(i8x16.swizzle(r, second), v));
      s3 = i32x4.add(s3, i32x4.dot_i16x8_s(i8x16.swizzle(t, second), v));
      a += 12;
      weight += 8;
    }
    const bytes = bytesOf(s0, s1, s2, s3);
    const to = out + 3 * x;
    const apart = 3 * <usize>width;
    v128.store16_lane(to, bytes, 0);
    v128.store8_lane(to, bytes, 2, 2);
    v128.store16_lane(to + apart, bytes, 2);
    v128.store8_lane(to + apart, bytes, 6, 2);
    v128.store16_lane(to + 2 * apart, bytes, 4);
    v128.store8_lane(to + 2 * apart, bytes, 10, 2);
    v128.store16_lane(to + 3 * apart, bytes, 6);
    v128.store8_lane(to + 3 * apart, bytes, 14, 2);
  }
}

/** The same from rows of floats with weights of floats: for 16 bits and for linear light. */
export function downFloats(rows: usize, count: i32, weights: usize, length: i32, out: usize): void {
  for (let x = 0; x < length; x += 16) {
    let s0 = f32x4.splat(0);
    let s1 = f32x4.splat(0);
    let s2 = f32x4.splat(0);
    let s3 = f32x4.splat(0);
    for (let k = 0; k < count; k++) {
      const from = <usize>load<u32>(rows + 4 * k) + 4 * x;
      const w = v128.load32_splat(weights + 4 * k);
      s0 = f32x4.add(s0, f32x4.mul(v128.load(from), w));
      s1 = f32x4.add(s1, f32x4.mul(v128.load(from, 16), w));
      s2 = f32x4.add(s2, f32x4.mul(v128.load(from, 32), w));
      s3 = f32x4.add(s3, f32x4.mul(v128.load(from, 48), w));
    }
    const to = out + 4 * x;
    v128.store(to, s0);
    v128.store(to, s1, 16);
    v128.store(to, s2, 32);
    v128.store(to, s3, 48);
  }
}

/** Bytes to floats. */
export function floatsFromBytes(from: usize, length: i32, out: usize): void {
  for (let x = 0; x < length; x += 8) {
    const words = i16x8.extend_low_i8x16_u(v128.load64_zero(from + x));
    v128.store(out + 4 * x, f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(words)));
    v128.store(out + 4 * x, f32x4.convert_i32x4_u(i32x4.extend_high_i16x8_u(words)), 16);
  }
}

/** Words of 16 bits to floats. */
export function floatsFromWords(from: usize, length: i32, out: usize): void {
  for (let x = 0; x < length; x += 8) {
    const words = v128.load(from + 2 * x);
    v128.store(out + 4 * x, f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(words)));
    v128.store(out + 4 * x, f32x4.convert_i32x4_u(i32x4.extend_high_i16x8_u(words)), 16);
  }
}

/** Values looked up in a table of floats, from 8 or 16 bits: into linear light. */
export function floatsByTable(from: usize, bytes: i32, length: i32, tables: usize, tableLength: i32, channels: i32, out: usize): void {
  let channel = 0;
  for (let x = 0; x < length; x++) {
    const value = bytes == 1 ? <i32>load<u8>(from + x) : <i32>load<u16>(from + 2 * x);
    store<f32>(out + 4 * x, load<f32>(tables + 4 * (channel * tableLength + value)));
    if (++channel == channels) channel = 0;
  }
}

/**
 * Along one row of floats: each output pixel is a weighted sum of `taps` neighbours from its own start.
 * @param starts i32 per output pixel, @param weights f32, `taps` per output pixel
 * @param scale what makes 65,535 of full scale; results are rounded half up and clamped
 * @param root whether square roots are written: for light, of which `scale` is 65,535
 */
export function alongFloats(
  row: usize,
  channels: i32,
  starts: usize,
  weights: usize,
  taps: i32,
  width: i32,
  scale: f32,
  root: bool,
  out: usize,
): void {
  const factor = f32x4.splat(scale);
  const most = f32x4.splat(65535.0);
  const half = f32x4.splat(0.5);
  const none = f32x4.splat(0);
  const pixelBytes = 4 * channels;
  for (let x = 0; x < width; x++) {
    let from = row + <usize>load<i32>(starts + 4 * x) * pixelBytes;
    let weight = weights + 4 * x * taps;
    let sum = f32x4.splat(0);
    let odd = f32x4.splat(0);
    let k = 0;
    for (; k < taps - 1; k += 2) {
      sum = f32x4.add(sum, f32x4.mul(v128.load(from), v128.load32_splat(weight)));
      odd = f32x4.add(odd, f32x4.mul(v128.load(from + pixelBytes), v128.load32_splat(weight + 4)));
      from += 2 * pixelBytes;
      weight += 8;
    }
    if (k < taps) sum = f32x4.add(sum, f32x4.mul(v128.load(from), v128.load32_splat(weight)));
    sum = f32x4.add(sum, odd);
    if (root) sum = f32x4.sqrt(f32x4.max(none, sum));
    const value = f32x4.min(most, f32x4.max(none, f32x4.add(f32x4.mul(sum, factor), half)));
    const words = i32x4.trunc_sat_f32x4_u(value);
    // Writes up to four words; what lies beyond this pixel is written again by the next.
    v128.store64_lane(out + 2 * x * channels, i16x8.narrow_i32x4_u(words, words), 0);
  }
}
