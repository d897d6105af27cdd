/**
 * Rounds 16 bits per channel to 8, with a noise of one step's width before the rounding, so that a slow gradient keeps
 * its mean instead of falling into bands (rectangular dither: the expected value of the output is the input).
 * The noise comes from a fixed seed: the same picture gives the same file.
 * @param pixels 16 bits per channel
 * @param dither false: plain rounding, halves up
 */
export function toEightBits(pixels: Uint16Array, dither: boolean): Uint8Array {
  const out = new Uint8Array(pixels.length);
  const noise = dither ? noiseTable() : null;
  for (let at = 0; at < pixels.length; at++) {
    // Two strides that share no factor with the table's length keep rows from repeating the same noise.
    const offset = noise ? noise[(at + (at >>> 16) * 7919) & NOISE_MASK]! : 0.5;
    out[at] = Math.min(255, pixels[at]! / 257 + offset);
  }
  return out;
}

const NOISE_MASK = 0xffff;
let noise: Float32Array | undefined;

/** 65,536 numbers from 0 up to 1, by the xorshift generator of Marsaglia (2003) with shifts 13, 17, 5. */
function noiseTable(): Float32Array {
  if (noise) return noise;
  let state = 0x2545f491;
  noise = Float32Array.from({ length: NOISE_MASK + 1 }, () => {
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    return (state >>> 0) / 2 ** 32;
  });
  return noise;
}
