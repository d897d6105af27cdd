import type { Raster } from '../raster';

/** Cells of the grid that brightness is compared in. */
const COLUMNS = 9;
const ROWS = 8;

/**
 * A fingerprint of what a picture looks like: whether each cell of a coarse grid is darker than the one to its right (a
 * difference hash; N. Krawetz, "Kind of Like That", 2013). Frames of one moment differ in few of its 64 bits.
 * @param picture RGB, any size from 9 x 8 px on
 * @returns 16 hexadecimal digits
 */
export function likenessOf(picture: Raster): string {
  const { width, height, pixels, channels } = picture;
  const sums = new Float64Array(COLUMNS * ROWS);
  const counts = new Uint32Array(COLUMNS * ROWS);
  // Worked out once, since a division for each pixel takes most of the time.
  const columns = Uint8Array.from({ length: width }, (_, x) => Math.floor((x * COLUMNS) / width));
  for (let y = 0, at = 0; y < height; y++) {
    const first = Math.floor((y * ROWS) / height) * COLUMNS;
    for (let x = 0; x < width; x++, at += channels) {
      const cell = first + columns[x]!;
      sums[cell]! += 0.2126 * pixels[at]! + 0.7152 * (pixels[at + 1] ?? 0) + 0.0722 * (pixels[at + 2] ?? 0);
      counts[cell]!++;
    }
  }
  const mean = (cell: number) => sums[cell]! / Math.max(1, counts[cell]!);
  let digits = '';
  for (let row = 0; row < ROWS; row++) {
    let bits = 0;
    for (let column = 0; column < COLUMNS - 1; column++) {
      const cell = row * COLUMNS + column;
      bits = (bits << 1) | (mean(cell) < mean(cell + 1) ? 1 : 0);
    }
    digits += bits.toString(16).padStart(2, '0');
  }
  return digits;
}

/** 32 of the 64 bits. */
const half = (print: string, which: 0 | 1): number => parseInt(print.slice(8 * which, 8 * which + 8), 16) >>> 0;

/**
 * Finds pictures that look almost like one before them. Compares each with each; 2,000 take some hundredths of a second.
 * @param prints fingerprints in the order of the pictures; null is like nothing
 * @param within in how many bits two may differ
 * @returns for each the place of the first that it looks like; null: it looks like none before it
 */
export function firstAlike(prints: readonly (string | null)[], within: number): (number | null)[] {
  const [first, second] = ([0, 1] as const).map((which) => Uint32Array.from(prints, (print) => (print ? half(print, which) : 0)));
  /** Places of those that look like none before them. */
  const known = new Uint32Array(prints.length);
  let count = 0;
  return prints.map((print, at) => {
    if (!print) return null;
    for (let k = 0; k < count; k++) {
      const other = known[k]!;
      if (bitsOf(first![at]! ^ first![other]!) + bitsOf(second![at]! ^ second![other]!) <= within) return other;
    }
    known[count++] = at;
    return null;
  });
}

/** How many bits of a 32-bit number are set (Warren, Hacker's Delight, 5-1). */
function bitsOf(value: number): number {
  let v = value - ((value >>> 1) & 0x55555555);
  v = (v & 0x33333333) + ((v >>> 2) & 0x33333333);
  return (((v + (v >>> 4)) & 0x0f0f0f0f) * 0x01010101) >>> 24;
}
