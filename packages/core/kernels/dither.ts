/**
 * Rounds words to bytes: value / 257 plus an offset between 0 and 1 for each, cut off.
 * @param from u16; up to 15 more are read
 * @param offsets f32, one per value
 * @param out u8; up to 15 more are written
 */
export function wordsToBytes(from: usize, length: i32, offsets: usize, out: usize): void {
  for (let x = 0; x < length; x += 16) {
    const a = v128.load(from + 2 * x);
    const b = v128.load(from + 2 * x, 16);
    const at = offsets + 4 * x;
    const low = i16x8.narrow_i32x4_u(rounded(i32x4.extend_low_i16x8_u(a), at), rounded(i32x4.extend_high_i16x8_u(a), at + 16));
    const high = i16x8.narrow_i32x4_u(rounded(i32x4.extend_low_i16x8_u(b), at + 32), rounded(i32x4.extend_high_i16x8_u(b), at + 48));
    v128.store(out + x, i8x16.narrow_i16x8_u(low, high));
  }
}

function rounded(words: v128, offsets: usize): v128 {
  const value = f32x4.add(f32x4.mul(f32x4.convert_i32x4_s(words), f32x4.splat(1.0 / 257.0)), v128.load(offsets));
  return i32x4.trunc_sat_f32x4_s(value);
}
