/*
 * What puts a picture upright: rows back to front, and columns as rows. A pixel has 1 to 8 bytes.
 */

/** The columns of a band of rows, one after the other, each from its first row to its last or the other way round. */
export function columnsOfBand(band: usize, width: i32, rows: i32, pixelBytes: i32, fromLast: bool, out: usize): void {
  const rowBytes = <usize>width * pixelBytes;
  const first = fromLast ? band + <usize>(rows - 1) * rowBytes : band;
  const step = fromLast ? 0 - rowBytes : rowBytes;
  for (let x = 0; x < width; x++) {
    let from = first + <usize>x * pixelBytes;
    for (let y = 0; y < rows; y++) {
      copyPixel(from, out, pixelBytes);
      from += step;
      out += pixelBytes;
    }
  }
}

/** A row from its last pixel to its first. */
export function backToFront(row: usize, width: i32, pixelBytes: i32, out: usize): void {
  for (let from = row + <usize>(width - 1) * pixelBytes; from >= row; from -= pixelBytes) {
    copyPixel(from, out, pixelBytes);
    out += pixelBytes;
  }
}

function copyPixel(from: usize, to: usize, pixelBytes: i32): void {
  // RGB of 16 bits is what is turned nearly always.
  if (pixelBytes == 6) {
    store<u32>(to, load<u32>(from));
    store<u16>(to, load<u16>(from, 4), 4);
  } else for (let byte = 0; byte < pixelBytes; byte++) store<u8>(to + byte, load<u8>(from + byte));
}
