import { workspace } from '../kernels/kernels';

/**
 * Rounds 16 bits per channel to 8, with a noise of one step's width before the rounding, so that a slow gradient keeps
 * its mean instead of falling into bands (rectangular dither: the expected value of the output is the input).
 * The noise comes from a fixed seed: the same picture gives the same file.
 * @param pixels 16 bits per channel
 * @param dither false: plain rounding, halves up
 * @param out where to write; a new array when it is not given
 */
export function toEightBits(pixels: Uint16Array, dither: boolean, out: Uint8Array = new Uint8Array(pixels.length)): Uint8Array {
  const memory = workspace();
  const offsets = memory.put(dither ? noiseTable() : new Uint16Array(NOISE).fill(32_768));
  const from = memory.reserve(2 * PIECE);
  const to = memory.reserve(PIECE);
  for (let start = 0, piece = 0; start < pixels.length; start += PIECE, piece++) {
    const length = Math.min(PIECE, pixels.length - start);
    memory.fill(from, pixels.subarray(start, start + length));
    // A stride that shares no factor with the table's length keeps neighbouring pieces from repeating the same noise.
    memory.loops.wordsToBytes(from, length, offsets + 2 * ((piece * 7919) % (NOISE - PIECE)), to);
    out.set(memory.bytes(to, length), start);
  }
  return out;
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
