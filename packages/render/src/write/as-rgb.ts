import type { Raster, Rgb8 } from '@rundle/core';
import type { ColourModel } from './pixel-file';

/** A finished picture of 8 bits as RGB, to be judged: grey in all three, inks by their plain complement. */
export function asRgb({ width, height, channels, pixels }: Raster, model: ColourModel): Rgb8 {
  if (channels === 3) return { width, height, pixels: pixels as Uint8Array };
  const rgb = new Uint8Array(width * height * 3);
  for (let at = 0; at < width * height; at++) {
    const from = at * channels;
    const light = model === 'cmyk' ? (255 - pixels[from + 3]!) / 255 : 1;
    for (let c = 0; c < 3; c++) {
      const value = pixels[from + (model === 'grey' ? 0 : c)]!;
      rgb[at * 3 + c] = model === 'cmyk' ? Math.round((255 - value) * light) : value;
    }
  }
  return { width, height, pixels: rgb };
}
