/**
 * Rounds words to bytes: value / 257 plus an offset between 0 and 1 for each, cut off. In whole numbers, with 65,536 as 1:
 * 255 v + v / 256 is 65,536 v / 257 to within one of them, and exactly that where v was a byte once.
 * @param from u16; up to 15 more are read
 * @param offsets u16, one per value, 65,536 being 1; up to 15 more are read
 * @param out u8; up to 15 more are written
 */
export function wordsToBytes(from: usize, length: i32, offsets: usize, out: usize): void {
  for (let x = 0; x < length; x += 16) {
    const low = rounded(v128.load(from + 2 * x), v128.load(offsets + 2 * x));
    const high = rounded(v128.load(from + 2 * x, 16), v128.load(offsets + 2 * x, 16));
    v128.store(out + x, i8x16.narrow_i16x8_u(low, high));
  }
}

function rounded(words: v128, offsets: v128): v128 {
  const scale = i16x8.splat(255);
  const rest = i16x8.shr_u(words, 8);
  const low = i32x4.add(i32x4.extmul_low_i16x8_u(words, scale), i32x4.extend_low_i16x8_u(rest));
  const high = i32x4.add(i32x4.extmul_high_i16x8_u(words, scale), i32x4.extend_high_i16x8_u(rest));
  const a = i32x4.shr_u(i32x4.add(low, i32x4.extend_low_i16x8_u(offsets)), 16);
  const b = i32x4.shr_u(i32x4.add(high, i32x4.extend_high_i16x8_u(offsets)), 16);
  return i16x8.narrow_i32x4_s(a, b);
}
