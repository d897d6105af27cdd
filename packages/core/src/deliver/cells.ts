import * as z from 'zod';
import type { Raster } from '../raster';

/** Cells along the long edge. */
const MOST = 40;
/** Pixels of the reduced picture along the edge of a cell. */
export const CELL_PX = 6;

/**
 * What a picture's colours are like, cell by cell of a coarse grid: by these it is told whether somebody has altered it, where its bytes are not
 * those that were delivered.
 */
export const Cells = z.strictObject({
  columns: z.int().min(1).max(MOST),
  rows: z.int().min(1).max(MOST),
  values: z
    .string()
    .regex(/^(?:[0-9a-f]{6})+$/)
    .meta({
      description: 'Row by row of each cell the means of luma and both chromas (ITU-R BT.709, 8 bits, chromas around 128), hexadecimal',
    }),
});
export type Cells = z.infer<typeof Cells>;

/** How many cells a picture has. */
export function cellGrid(width: number, height: number): Pick<Cells, 'columns' | 'rows'> {
  const long = Math.max(width, height);
  const cells = (edge: number) => Math.max(1, Math.round((MOST * edge) / long));
  return { columns: cells(width), rows: cells(height) };
}

/** @param picture RGB of 8 bits, reduced to {@link CELL_PX} pixels along each edge of its cells */
export function cellsOf({ width, height, pixels, channels }: Raster): Cells {
  const [columns, rows] = [width / CELL_PX, height / CELL_PX];
  const sums = new Float64Array(columns * rows * 3);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const at = (y * width + x) * channels;
      const cell = 3 * (Math.floor(y / CELL_PX) * columns + Math.floor(x / CELL_PX));
      const [r, g, b] = [pixels[at]!, pixels[at + 1]!, pixels[at + 2]!];
      const luma = 0.2126 * r + 0.7152 * g + 0.0722 * b;
      sums[cell]! += luma;
      sums[cell + 1]! += (b - luma) / 1.8556;
      sums[cell + 2]! += (r - luma) / 1.5748;
    }
  const values = Array.from(sums, (sum, at) => Math.round(sum / CELL_PX ** 2) + (at % 3 ? 128 : 0));
  return { columns, rows, values: values.map((value) => Math.min(255, Math.max(0, value)).toString(16).padStart(2, '0')).join('') };
}

/**
 * Levels by which a cell is off that nobody has altered, at most: 6 in 36 photographs compressed again as JPEG of quality 20 to 90, WebP and AVIF,
 * or made as small as 400 px. A patch of 32 px in 1600 is off by 15 or more in all of them.
 */
const ALTERED = 9;
/** All three values together, as the mean of all cells: at most 2.3 in the same, 5.0 as JPEG of quality 20. */
const ALTERED_ALL_OVER = { usual: 3, coarse: 6 };
/** Below this a JPEG changes colours by itself, in quality. */
const COARSE = 30;
/** A gain of both chromas that is a change of saturation, where there are colours: within 0.03 in the same photographs. */
const GAIN = 0.05;
/** Mean square of both chromas from which a gain can be told. */
const COLOURFUL = 64;
/** Share of cells that are off from which a picture counts as changed all over. */
const ALL_OVER = 0.5;

/** How a picture differs from what it was, beyond what compression and another size do. */
export type Alteration =
  /** In a part of it, as shares of the picture. */
  | { kind: 'part'; x: number; y: number; width: number; height: number }
  | { kind: 'all-over' }
  /** Colours are stronger, or weaker, by a share. */
  | { kind: 'saturation'; by: number };

/**
 * Holds a picture against what it was.
 * @param quality of a JPEG as it is now; null: not known
 * @returns null when it is not altered, as far as can be told; undefined when that cannot be told
 */
export function alterationOf(was: Cells | null, is: Cells | null, quality: number | null): Alteration | null | undefined {
  if (!was || !is || was.columns !== is.columns || was.rows !== is.rows) return undefined;
  const [before, after] = [valuesOf(was), valuesOf(is)];
  const count = was.columns * was.rows;
  const off = Array.from({ length: count }, (_, cell) => {
    const of = [0, 1, 2].map((value) => Math.abs(before[3 * cell + value]! - after[3 * cell + value]!));
    return { most: Math.max(...of), sum: of.reduce((a, b) => a + b) };
  });
  const altered = off.flatMap(({ most }, cell) => (most >= ALTERED ? [cell] : []));
  const mean = off.reduce((total, { sum }) => total + sum, 0) / count;
  const limit = quality !== null && quality < COARSE ? ALTERED_ALL_OVER.coarse : ALTERED_ALL_OVER.usual;
  const gain = gainOf(before, after);
  if (gain !== null && Math.abs(gain - 1) > GAIN && limit === ALTERED_ALL_OVER.usual) return { kind: 'saturation', by: gain - 1 };
  if (altered.length > ALL_OVER * count || mean > limit) return { kind: 'all-over' };
  return altered.length ? { kind: 'part', ...boxOf(altered, was) } : null;
}

const valuesOf = ({ values }: Cells): number[] =>
  Array.from({ length: values.length / 2 }, (_, at) => parseInt(values.slice(2 * at, 2 * at + 2), 16));

/** By how much both chromas have been multiplied, by least squares; null: there are hardly any colours. */
function gainOf(before: readonly number[], after: readonly number[]): number | null {
  let product = 0;
  let square = 0;
  for (let at = 0; at < before.length; at++)
    if (at % 3) {
      product += (before[at]! - 128) * (after[at]! - 128);
      square += (before[at]! - 128) ** 2;
    }
  return square / (before.length / 3) > COLOURFUL ? product / square : null;
}

function boxOf(cells: readonly number[], { columns, rows }: Cells): Omit<Extract<Alteration, { kind: 'part' }>, 'kind'> {
  const [across, down] = [cells.map((cell) => cell % columns), cells.map((cell) => Math.floor(cell / columns))];
  const [left, top] = [Math.min(...across), Math.min(...down)];
  return {
    x: left / columns,
    y: top / rows,
    width: (Math.max(...across) + 1 - left) / columns,
    height: (Math.max(...down) + 1 - top) / rows,
  };
}
