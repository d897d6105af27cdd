import { workspace } from '../kernels/kernels';
import type { Raster } from '../raster';
import type { Rectangle } from '../size/rectangle';

/**
 * Rounds 16 bits per channel to 8, with a noise of one step's width before the rounding, so that a slow gradient keeps
 * its mean instead of falling into bands (rectangular dither: the expected value of the output is the input).
 * The noise comes from a fixed seed: the same picture gives the same file.
 * @param pixels 16 bits per channel
 * @param dither false: plain rounding, halves up
 * @param out where to write; a new array when it is not given
 */
export function toEightBits(pixels: Uint16Array, dither: boolean, out: Uint8Array = new Uint8Array(pixels.length)): Uint8Array {
  roundRuns(pixels, dither, out, pixels.length, () => 0);
  return out;
}

/**
 * The same for a cut out of a larger picture: each value gets the noise of its place in that, so that the cut comes out as it does there.
 * @param cut as large as `place`
 * @param place where it lies
 * @param width of the whole picture, px
 */
export function cutToEightBits(
  { pixels, channels }: Raster<Uint16Array>,
  place: Rectangle,
  width: number,
  dither: boolean,
  out: Uint8Array,
): void {
  roundRuns(pixels, dither, out, place.width * channels, (row) => ((place.top + row) * width + place.left) * channels);
}

/**
 * @param run values that lie side by side in the whole picture
 * @param indexOf where a run begins in that, counted in values
 */
function roundRuns(pixels: Uint16Array, dither: boolean, out: Uint8Array, run: number, indexOf: (run: number) => number): void {
  const memory = workspace();
  const offsets = memory.put(dither ? noiseTable() : new Uint16Array(NOISE).fill(32_768));
  const from = memory.reserve(2 * PIECE);
  const to = memory.reserve(PIECE);
  for (let start = 0, row = 0; start < pixels.length; start += run, row++) {
    const index = indexOf(row);
    for (let at = 0; at < run;) {
      const piece = Math.floor((index + at) / PIECE);
      const within = (index + at) % PIECE;
      const length = Math.min(PIECE - within, run - at);
      memory.fill(from, pixels.subarray(start + at, start + at + length));
      // A stride that shares no factor with the table's length keeps neighbouring pieces from repeating the same noise.
      memory.loops.wordsToBytes(from, length, offsets + 2 * (((piece * 7919) % (NOISE - PIECE)) + within), to);
      out.set(memory.bytes(to, length), start + at);
      at += length;
    }
  }
}

/** Values that are rounded in one go. */
const PIECE = 16_384;
const NOISE = 65_536;
let noise: Uint16Array | undefined;

/** 65,536 numbers from 0 up to 65,535, by the xorshift generator of Marsaglia (2003) with shifts 13, 17, 5. */
function noiseTable(): Uint16Array {
  if (noise) return noise;
  let state = 0x2545f491;
  noise = Uint16Array.from({ length: NOISE }, () => {
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    return state >>> 16;
  });
  return noise;
}
