import type { Raster } from '../raster';
import type { Placement } from './placement';

/**
 * Lays a watermark over a picture, in place: each channel becomes (1 - a) below + a above, on encoded values of the
 * picture's own space, where a is the mark's own coverage times the opacity (Porter and Duff 1984, "over").
 * @param picture grey, RGB or CMYK of 16 bits
 * @param mark the same, in the same space, as large as the placement
 * @param coverage one value per pixel of the mark, 65,535 is full
 * @param opacity 0-1
 */
export function blendMark(
  picture: Raster<Uint16Array>,
  mark: Uint16Array,
  coverage: Uint16Array,
  { left, top, width, height }: Placement,
  opacity: number,
): void {
  const { channels } = picture;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const from = y * width + x;
      const a = (coverage[from]! / 65_535) * opacity;
      if (a === 0) continue;
      const to = ((top + y) * picture.width + left + x) * channels;
      for (let c = 0; c < channels; c++) picture.pixels[to + c] = picture.pixels[to + c]! * (1 - a) + mark[from * channels + c]! * a + 0.5;
    }
}
