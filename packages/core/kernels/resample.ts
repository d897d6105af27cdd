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

/**
 * One output row of 8-bit pictures: a weighted sum of source rows, in whole numbers.
 * @param rows `count` addresses of rows of pairs
 * @param weights as many pairs of i16; 16,384 is 1
 * @param length samples in a row; up to 31 more are read and written
 * @param out i16 with six bits of fraction
 */
// prettier-ignore
export function downPairs(rows: usize, count: i32, weights: usize, length: i32, out: usize): void {
  const half = i32x4.splat(128);
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
    v128.store(to, i16x8.narrow_i32x4_s(i32x4.shr_s(s0, 8), i32x4.shr_s(s1, 8)));
    v128.store(to, i16x8.narrow_i32x4_s(i32x4.shr_s(s2, 8), i32x4.shr_s(s3, 8)), 16);
    v128.store(to, i16x8.narrow_i32x4_s(i32x4.shr_s(s4, 8), i32x4.shr_s(s5, 8)), 32);
    v128.store(to, i16x8.narrow_i32x4_s(i32x4.shr_s(s6, 8), i32x4.shr_s(s7, 8)), 48);
  }
}

/** Bytes in the form that {@link downPairs} writes: i16 with six bits of fraction. Up to 15 more are read and written. */
export function rowOfBytes(from: usize, length: i32, out: usize): void {
  for (let x = 0; x < length; x += 16) {
    const bytes = v128.load(from + x);
    v128.store(out + 2 * x, i16x8.shl(i16x8.extend_low_i8x16_u(bytes), 6));
    v128.store(out + 2 * x, i16x8.shl(i16x8.extend_high_i8x16_u(bytes), 6), 16);
  }
}

/**
 * Along such a row of RGB: each output pixel is a weighted sum of neighbours from its own start.
 * @param starts i32 per output pixel
 * @param weights i16, `taps` per output pixel, an even number; 16,384 is 1
 * @param out u16, 65,535 is full scale; up to three more are written
 */
export function alongWholeRgb(row: usize, starts: usize, weights: usize, taps: i32, width: i32, out: usize): void {
  const scale = f32x4.splat(257.0 / 1048576.0);
  const most = f32x4.splat(65535.0);
  const none = f32x4.splat(0);
  const half = f32x4.splat(0.5);
  let weight = weights;
  for (let x = 0; x < width; x++) {
    let from = row + <usize>load<i32>(starts + 4 * x) * 6;
    let sum = i32x4.splat(0);
    for (let k = 0; k < taps; k += 2) {
      const two = v128.load(from);
      const pairs = v128.shuffle<i16>(two, two, 0, 3, 1, 4, 2, 5, 6, 7);
      sum = i32x4.add(sum, i32x4.dot_i16x8_s(pairs, v128.load32_splat(weight)));
      from += 12;
      weight += 4;
    }
    const value = f32x4.min(most, f32x4.max(none, f32x4.add(f32x4.mul(f32x4.convert_i32x4_s(sum), scale), half)));
    const words = i32x4.trunc_sat_f32x4_u(value);
    v128.store64_lane(out + 6 * x, i16x8.narrow_i32x4_u(words, words), 0);
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
