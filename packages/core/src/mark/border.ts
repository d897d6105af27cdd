import type { Raster } from '../raster';

/** Red, green and blue, 16 bits each. */
export type Colour16 = readonly [number, number, number];

/** `#rrggbb` as 16-bit values. */
export const hexToColour = (hex: string): Colour16 =>
  [1, 3, 5].map((at) => parseInt(hex.slice(at, at + 2), 16) * 257) as unknown as Colour16;

/**
 * Adds a plain border around a picture.
 * @param picture any number of channels; those beyond the colour's (transparency) are opaque in the border
 * @param px width of the border on each side
 * @param colour in the picture's own space, one value for each of its inks or primaries
 */
export function framed(picture: Raster<Uint16Array>, px: number, colour: ArrayLike<number>): Raster<Uint16Array> {
  const { channels } = picture;
  const width = picture.width + 2 * px;
  const height = picture.height + 2 * px;
  const pixels = new Uint16Array(width * height * channels).fill(65_535);
  const fill = (from: number, to: number) => {
    for (let at = from * channels; at < to * channels; at += channels)
      for (let c = 0; c < colour.length && c < channels; c++) pixels[at + c] = colour[c]!;
  };
  fill(0, px * width);
  for (let y = 0; y < picture.height; y++) {
    const row = (px + y) * width;
    fill(row, row + px);
    const from = y * picture.width * channels;
    pixels.set(picture.pixels.subarray(from, from + picture.width * channels), (row + px) * channels);
    fill(row + px + picture.width, row + width);
  }
  fill((px + picture.height) * width, width * height);
  return { width, height, channels, pixels };
}
