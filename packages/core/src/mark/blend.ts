import type { Raster } from '../raster';
import { overlap, type Rectangle, wholeOf } from '../size/rectangle';

/**
 * Lays a watermark over a picture, in place: each channel becomes (1 - a) below + a above, on encoded values of the
 * picture's own space, where a is the mark's own coverage times the opacity (Porter and Duff 1984, "over").
 * @param picture grey, RGB or CMYK of 16 bits
 * @param mark the same, in the same space, as large as the placement; what lies beside the picture is left out
 * @param coverage one value per pixel of the mark, 65,535 is full
 * @param opacity 0-1
 */
export function blendMark(
  picture: Raster<Uint16Array>,
  mark: Uint16Array,
  coverage: Uint16Array,
  placement: Rectangle,
  opacity: number,
): void {
  const { channels } = picture;
  const seen = overlap(placement, wholeOf(picture));
  if (!seen) return;
  for (let y = seen.top; y < seen.top + seen.height; y++)
    for (let x = seen.left; x < seen.left + seen.width; x++) {
      const from = (y - placement.top) * placement.width + x - placement.left;
      const a = (coverage[from]! / 65_535) * opacity;
      if (a === 0) continue;
      const to = (y * picture.width + x) * channels;
      for (let c = 0; c < channels; c++) picture.pixels[to + c] = picture.pixels[to + c]! * (1 - a) + mark[from * channels + c]! * a + 0.5;
    }
}
