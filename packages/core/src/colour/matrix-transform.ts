import { workspace } from '../kernels/kernels';
import { encodeTable, linearTable } from './curves';
import { invert, type Matrix, multiply } from './matrix';
import type { RgbSpace } from './spaces';

/** Beyond what the rounding of profiles explains: this far outside 0-1 of linear light a pixel counts as out of gamut. */
export const GAMUT_TOLERANCE = 0.002;

/** Linear RGB of one space to linear RGB of another. */
export const between = (source: RgbSpace, target: RgbSpace): Matrix => multiply(invert(target.toXyz), source.toXyz);

/** Pixels that are converted at a time. */
const PIECE = 8192;

/**
 * Converts a picture from one RGB space to another: relative colorimetric, which for matrix profiles is the curve, the
 * product of the matrices and the target's curve (ICC.1:2022, annex F.3). Black-point compensation changes nothing, since
 * the black of both is 0.
 * @param pixels RGB interleaved, 16 bits per channel
 * @returns the converted pixels, and the share of them (0-1) that the target could not hold before they were clipped
 */
export function convertMatrix(pixels: Uint16Array, source: RgbSpace, target: RgbSpace): { pixels: Uint16Array; outside: number } {
  const memory = workspace();
  const tables = new Float32Array(3 * 65_536);
  source.curves.forEach((curve, channel) => tables.set(linearTable(curve), channel * 65_536));
  const at = {
    tables: memory.put(tables),
    matrix: memory.put(Float32Array.from(between(source, target).flat())),
    // The targets have one curve for all channels.
    encode: memory.put(encodeTable(target.curves[0])),
    from: memory.reserve(6 * PIECE),
    to: memory.reserve(6 * PIECE),
  };
  const out = new Uint16Array(pixels.length);
  let outside = 0;
  for (let start = 0; start < pixels.length; start += 3 * PIECE) {
    const piece = pixels.subarray(start, start + 3 * PIECE);
    memory.fill(at.from, piece);
    outside += memory.loops.convertRgb(at.from, piece.length / 3, at.tables, at.matrix, at.encode, GAMUT_TOLERANCE, at.to);
    out.set(memory.words(at.to, piece.length), start);
  }
  return { pixels: out, outside: (3 * outside) / Math.max(1, pixels.length) };
}
