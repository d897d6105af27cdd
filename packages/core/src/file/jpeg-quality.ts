/**
 * The quantisation table for luminance of ITU-T T.81, Table K.1, row by row. Encoders of the Independent JPEG Group's way
 * scale it: at quality Q below 50 by 5000 / Q, from 50 on by 200 - 2 Q, in percent, halves up, held to 1-255.
 */
// prettier-ignore
const ANNEX_K_LUMINANCE = [
  16, 11, 10, 16, 24, 40, 51, 61,
  12, 12, 14, 19, 26, 58, 60, 55,
  14, 13, 16, 24, 40, 57, 69, 56,
  14, 17, 22, 29, 51, 87, 80, 62,
  18, 22, 37, 56, 68, 109, 103, 77,
  24, 35, 55, 64, 81, 104, 113, 92,
  49, 64, 78, 87, 103, 121, 120, 101,
  72, 92, 95, 98, 112, 100, 103, 99,
];

/** The table at a quality of 1-100, as that scaling gives it. */
export function annexKTable(quality: number): number[] {
  const percent = quality < 50 ? Math.floor(5000 / quality) : 200 - 2 * quality;
  return ANNEX_K_LUMINANCE.map((value) => Math.min(255, Math.max(1, Math.floor((value * percent + 50) / 100))));
}

/**
 * The quality whose scaled table comes nearest to one that was found in a file: what an encoder of that kind would have been
 * told. Encoders with tables of their own get the quality that throws away as much.
 * @param table 64 divisors of luminance, in any order
 * @returns 1-100
 */
export function jpegQuality(table: readonly number[]): number {
  // Sorted, since files hold their tables in zigzag order, and only how coarse it is counts here.
  const found = table.toSorted((a, b) => a - b);
  let best = 100;
  let least = Infinity;
  for (let quality = 100; quality >= 1; quality--) {
    const distance = sortedTable(quality).reduce((sum, value, at) => sum + Math.abs(value - (found[at] ?? 0)), 0);
    if (distance < least) [least, best] = [distance, quality];
  }
  return best;
}

const tables = new Map<number, number[]>();

function sortedTable(quality: number): number[] {
  let table = tables.get(quality);
  if (!table) tables.set(quality, (table = annexKTable(quality).sort((a, b) => a - b)));
  return table;
}
