/*
 * Resampling of a turned picture: each output pixel is a weighted sum of the source pixels around the place where it lies, which no passes along
 * rows and columns can make.
 */

/** Pixels of one to four floats as pixels of four, the form in which they are weighed. Up to three floats behind the last pixel are read. */
export function pixelsOfFour(from: usize, channels: i32, width: i32, out: usize): void {
  for (let x = 0; x < width; x++) v128.store(out + 16 * x, v128.load(from + 4 * x * channels));
}

/** The sum of some weights. */
function sumOf(weights: usize, first: i32, end: i32): f32 {
  let sum: f32 = 0;
  for (let k = first; k < end; k++) sum += load<f32>(weights + 4 * k);
  return sum;
}

/**
 * A row of output pixels, each weighed from a part of the source. A pixel is the same to the last bit, whatever part and whichever of its neighbours it is
 * made with.
 * @param part pixels of four floats, `partWidth` x `partHeight` of them from column `left` and row `top` of the source on: all within reach
 * @param u column and @param v row of the source, in px between the middles of pixels, where output pixel 0 of the row lies; @param du and @param dv from one
 *   to the next
 * @param first output pixel that is made, @param width how many
 * @param reach distance in source px beyond which the kernel is 0
 * @param table its weights: `taps` for each of `phases` + 1 places between two source px, each summing to 1
 * @param scale what makes 65,535 of full scale; results are rounded half up and clamped
 * @param root whether square roots are written: for light, of which `scale` is 65,535
 * @param out u16; up to three more are written
 */
// prettier-ignore
export function turnedRow(part: usize, partWidth: i32, partHeight: i32, left: i32, top: i32, u: f64, v: f64, du: f64, dv: f64, first: i32, width: i32, reach: f64, table: usize, taps: i32, phases: f64, channels: i32, scale: f32, root: bool, out: usize): void {
  const most = f32x4.splat(65535.0);
  const half = f32x4.splat(0.5);
  const none = f32x4.splat(0);
  const stride = 16 * partWidth;
  for (let x = 0; x < width; x++) {
    const column = u + <f64>(first + x) * du - <f64>left - reach;
    const row = v + <f64>(first + x) * dv - <f64>top - reach;
    const fromX = Math.ceil(column);
    const fromY = Math.ceil(row);
    const across = table + 4 * taps * <i32>((fromX - column) * phases + 0.5);
    const down = table + 4 * taps * <i32>((fromY - row) * phases + 0.5);
    const startX = max(0, -<i32>fromX), endX = min(taps, partWidth - <i32>fromX);
    const startY = max(0, -<i32>fromY), endY = min(taps, partHeight - <i32>fromY);
    let sum = none;
    let y = startY;
    for (; y < endY - 1; y += 2) {
      let a = none, b = none;
      let from = part + (<i32>fromY + y) * stride + 16 * (<i32>fromX + startX);
      for (let k = startX; k < endX; k++) {
        const weight = v128.load32_splat(across + 4 * k);
        a = f32x4.add(a, f32x4.mul(v128.load(from), weight));
        b = f32x4.add(b, f32x4.mul(v128.load(from + stride), weight));
        from += 16;
      }
      sum = f32x4.add(sum, f32x4.mul(a, v128.load32_splat(down + 4 * y)));
      sum = f32x4.add(sum, f32x4.mul(b, v128.load32_splat(down + 4 * y + 4)));
    }
    if (y < endY) {
      let a = none;
      let from = part + (<i32>fromY + y) * stride + 16 * (<i32>fromX + startX);
      for (let k = startX; k < endX; k++) {
        a = f32x4.add(a, f32x4.mul(v128.load(from), v128.load32_splat(across + 4 * k)));
        from += 16;
      }
      sum = f32x4.add(sum, f32x4.mul(a, v128.load32_splat(down + 4 * y)));
    }
    // At an edge of the source a part of the weights is left out.
    if (endX - startX < taps || endY - startY < taps)
      sum = f32x4.mul(sum, f32x4.splat(1 / (sumOf(across, startX, endX) * sumOf(down, startY, endY))));
    if (root) sum = f32x4.sqrt(f32x4.max(none, sum));
    const value = f32x4.min(most, f32x4.max(none, f32x4.add(f32x4.mul(sum, f32x4.splat(scale)), half)));
    const words = i32x4.trunc_sat_f32x4_u(value);
    // Writes up to four words; what lies beyond this pixel is written again by the next.
    v128.store64_lane(out + 2 * x * channels, i16x8.narrow_i32x4_u(words, words), 0);
  }
}
