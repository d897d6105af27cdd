import type { Raster } from '../raster';
import type { PixelSize } from '../size/geometry';

/** Red, green and blue, 16 bits each. */
export type Colour16 = readonly [number, number, number];

/** `#rrggbb` as 16-bit values. */
export const hexToColour = (hex: string): Colour16 =>
  [1, 3, 5].map((at) => parseInt(hex.slice(at, at + 2), 16) * 257) as unknown as Colour16;

/**
 * Lays a picture into a plain area, which becomes its border.
 * @param picture any number of channels; those beyond the colour's (transparency) are opaque in the border
 * @param area size of the result
 * @param left where the picture lies in it, px
 * @param top the same
 * @param colour in the picture's own space, one value for each of its inks or primaries
 */
export function framed(
  picture: Raster<Uint16Array>,
  { width, height }: PixelSize,
  left: number,
  top: number,
  colour: ArrayLike<number>,
): Raster<Uint16Array> {
  const { channels } = picture;
  const pixels = new Uint16Array(width * height * channels).fill(65_535);
  const fill = (from: number, to: number) => {
    for (let at = from * channels; at < to * channels; at += channels)
      for (let c = 0; c < colour.length && c < channels; c++) pixels[at + c] = colour[c]!;
  };
  fill(0, top * width);
  for (let y = 0; y < picture.height; y++) {
    const row = (top + y) * width;
    fill(row, row + left);
    const from = y * picture.width * channels;
    pixels.set(picture.pixels.subarray(from, from + picture.width * channels), (row + left) * channels);
    fill(row + left + picture.width, row + width);
  }
  fill((top + picture.height) * width, width * height);
  return { width, height, channels, pixels };
}
