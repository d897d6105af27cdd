/**
 * How many of the blocks of 2 x 2 pixels in a pair of rows hold a colour difference, Cb or Cr, that lies further than `limit`
 * from the block's mean. In whole numbers, with 65,536 as 1.
 * @param above u8, RGB interleaved, @param below the row beneath it
 * @param limit in 8-bit steps
 */
export function smearedBlocks(above: usize, below: usize, width: i32, limit: i32): i32 {
  let count = 0;
  const most = limit << 18; // four times, as the sums below
  for (let x = 0; x + 1 < width; x += 2) {
    if (spread(above, below, -11058, -21710, 32768) > most || spread(above, below, 32768, -27439, -5329) > most) count++;
    above += 6;
    below += 6;
  }
  return count;
}

/** Four times the largest distance of four pixels from their mean in one colour difference; its offset plays no part. */
function spread(above: usize, below: usize, red: i32, green: i32, blue: i32): i32 {
  const a = difference(above, red, green, blue);
  const b = difference(above + 3, red, green, blue);
  const c = difference(below, red, green, blue);
  const d = difference(below + 3, red, green, blue);
  const sum = a + b + c + d;
  return max(4 * max(max(a, b), max(c, d)) - sum, sum - 4 * min(min(a, b), min(c, d)));
}

function difference(pixel: usize, red: i32, green: i32, blue: i32): i32 {
  return red * <i32>load<u8>(pixel) + green * <i32>load<u8>(pixel, 1) + blue * <i32>load<u8>(pixel, 2);
}
