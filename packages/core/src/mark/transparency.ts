import type { Raster } from '../raster';
import { hexToColour } from './border';

/**
 * Takes a backdrop out again from under a picture that was laid over it: c = (flat - (1 - a) b) / a, where a is the
 * transparency scaled like the picture. Scaling the flat picture keeps the colours hidden under clear parts out of the edges.
 * @param flat RGB or grey of 16 bits, laid over the backdrop
 * @param alpha one channel of 16 bits, as large
 * @returns a copy; where the picture is clear, its colour is the backdrop's
 */
export function withoutBackdrop(flat: Raster<Uint16Array>, alpha: Uint16Array, backdrop: string): Raster<Uint16Array> {
  const [r, g, b] = hexToColour(backdrop);
  const below = flat.channels === 1 ? [0.2126 * r + 0.7152 * g + 0.0722 * b] : [r, g, b];
  const pixels = flat.pixels.slice();
  for (let at = 0; at < alpha.length; at++) {
    const a = alpha[at]! / 65_535;
    if (a === 0 || a === 1) continue;
    for (let c = 0; c < below.length; c++) {
      const to = at * flat.channels + c;
      pixels[to] = Math.min(65_535, Math.max(0, (pixels[to]! - (1 - a) * below[c]!) / a + 0.5));
    }
  }
  return { ...flat, pixels };
}

/** Grey or RGB and its transparency as one picture, with a channel more. */
export function withAlpha({ width, height, channels, pixels }: Raster<Uint16Array>, alpha: Uint16Array): Raster<Uint16Array> {
  const all = (channels + 1) as 2 | 4;
  const out = new Uint16Array(width * height * all);
  for (let at = 0; at < alpha.length; at++) {
    for (let c = 0; c < channels; c++) out[all * at + c] = pixels[channels * at + c]!;
    out[all * at + channels] = alpha[at]!;
  }
  return { width, height, channels: all, pixels: out };
}
