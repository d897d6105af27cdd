import { workspace } from '../kernels/kernels';
import { activeTone, type ToneRung } from './schema';

/**
 * Contrast against the surroundings, on lightness: l + amount (1 - a) (l - m), where m is the lightness smoothed by a guided filter that follows itself
 * (He, Sun and Tang, Guided Image Filtering, IEEE TPAMI 35(6), 2013, eqs. 5, 6 and 8). It keeps hard edges, so that they get no halo: what differs by less
 * than about {@link DETAIL} is detail, what differs by much more is an edge. a is the filter's own mean slope, 1 at an edge and 0 where all is even, so that
 * next to an edge nothing is added. Means are of a square of 2 r + 1 px, cut at the picture's border.
 *
 * Sums are of whole numbers, which floats of 64 bits hold exactly, so that a window has the values, to the last bit, that the whole picture has
 * there; see {@link toneReach}.
 * @param lightness 0-65,535 for L* 0-100, row by row; changed in place
 */
export function localContrast(lightness: Uint16Array, width: number, height: number, amount: number, radius: number): void {
  const r = Math.max(1, Math.round(radius));
  const memory = workspace();
  const { loops } = memory;
  const across = Float64Array.from({ length: width }, (_, x) => 1 / (Math.min(width - 1, x + r) - Math.max(0, x - r) + 1));
  const shares = memory.put(across);
  const [row, slope, own] = [memory.reserve(2 * width), memory.reserve(2 * width), memory.reserve(2 * width)];
  const offset = memory.reserve(4 * width);
  const pairs = () => memory.put(new Float64Array(2 * width));
  const [first, second, around] = [pairs(), pairs(), pairs()];
  const slopes = new Uint16Array(lightness.length);
  const offsets = new Uint32Array(lightness.length);
  const rowOf = <T extends Uint16Array | Uint32Array>(plane: T, y: number) => plane.subarray(y * width, (y + 1) * width) as T;

  overRows(height, r, {
    take: (y, sign) => {
      memory.fill(row, rowOf(lightness, y));
      loops.sumWithSquares(row, width, sign, first);
    },
    give: (y, rows) => {
      loops.alongSums(first, width, r, around);
      loops.guidedRow(around, shares, 1 / rows, width, DETAIL * DETAIL, slope, offset);
      slopes.set(memory.words(slope, width), y * width);
      offsets.set(memory.integers(offset, width), y * width);
    },
  });
  overRows(height, r, {
    take: (y, sign) => {
      memory.fill(slope, rowOf(slopes, y));
      memory.fill(offset, rowOf(offsets, y));
      loops.sumOfTwo(slope, offset, width, sign, second);
    },
    give: (y, rows) => {
      loops.alongSums(second, width, r, around);
      memory.fill(own, rowOf(lightness, y));
      loops.contrastRow(around, shares, 1 / rows, width, amount, own);
      lightness.set(memory.words(own, width), y * width);
    },
  });
}

/**
 * Goes down a picture with a band of r rows to each side.
 * @param act `take`: a row enters the band (1) or leaves it (-1); `give`: the band of a row is complete, with so many rows
 */
function overRows(
  height: number,
  r: number,
  { take, give }: { take: (y: number, sign: 1 | -1) => void; give: (y: number, rows: number) => void },
): void {
  for (let y = 0; y < Math.min(r, height); y++) take(y, 1);
  for (let y = 0; y < height; y++) {
    if (y + r < height) take(y + r, 1);
    if (y > r) take(y - r - 1, -1);
    give(y, Math.min(height - 1, y + r) - Math.max(0, y - r) + 1);
  }
}

/** How many px around a place decide about its tone. */
export function toneReach(tone: ToneRung): number {
  const local = activeTone(tone)?.local;
  return local && local.amount !== 0 ? 2 * Math.max(1, Math.round(local.radius)) : 0;
}

/** A standard deviation of so much lightness is half detail, half edge: 5 L*. */
const DETAIL = 5 * 655.35;
