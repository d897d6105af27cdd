import type { Raster } from '../raster';
import { SALIENCE_CELLS, type Salience } from '../size/proposal';
import { type Cascade, findFaces } from './faces';

/** Long edge, in px, of the picture on which it is measured. */
export const SALIENCE_EDGE = 448;

/** How much strong colour counts beside detail. */
const COLOUR = 0.35;
/** Steps from pixel to pixel, levels of 8 bits, above which more is no more to be seen: else foliage would count most of all. */
const MOST_DETAIL = 24;

/**
 * Measures what draws the eye: detail and strong colour by cells, and faces.
 * @param picture 8-bit grey or RGB in a space like sRGB, {@link SALIENCE_EDGE} px long
 */
export function salienceOf(picture: Raster<Uint8Array>, cascade: Cascade): Salience {
  const { width, height } = picture;
  const luma = lumaOf(picture);
  const sums = new Float64Array(SALIENCE_CELLS ** 2);
  const counts = new Uint32Array(SALIENCE_CELLS ** 2);
  for (let y = 1; y < height; y++) {
    const row = Math.floor((y * SALIENCE_CELLS) / height) * SALIENCE_CELLS;
    for (let x = 1; x < width; x++) {
      const at = y * width + x;
      const step = Math.abs(luma[at]! - luma[at - 1]!) + Math.abs(luma[at]! - luma[at - width]!);
      const cell = row + Math.floor((x * SALIENCE_CELLS) / width);
      sums[cell]! += Math.min(MOST_DETAIL, step) / MOST_DETAIL + COLOUR * chromaAt(picture, at);
      counts[cell]!++;
    }
  }
  const means = Array.from(sums, (sum, cell) => sum / Math.max(1, counts[cell]!));
  const most = Math.max(...means, 1e-9);
  const share = (value: number) => Math.min(1, Math.max(0, Math.round(value * 1e4) / 1e4));
  return {
    cells: means.map((mean) => Math.round((15 * mean) / most).toString(16)).join(''),
    faces: findFaces({ width, height, channels: 1, pixels: luma }, cascade).map((face) => ({
      x: share(face.left / width),
      y: share(face.top / height),
      w: share(face.width / width),
      h: share(face.height / height),
    })),
  };
}

function lumaOf({ width, height, channels, pixels }: Raster<Uint8Array>): Uint8Array {
  if (channels < 3) return Uint8Array.from({ length: width * height }, (_, at) => pixels[at * channels]!);
  const luma = new Uint8Array(width * height);
  for (let at = 0, from = 0; at < luma.length; at++, from += channels)
    luma[at] = 0.2126 * pixels[from]! + 0.7152 * pixels[from + 1]! + 0.0722 * pixels[from + 2]! + 0.5;
  return luma;
}

/** How far a pixel is from grey, 0-1. */
function chromaAt({ channels, pixels }: Raster<Uint8Array>, at: number): number {
  if (channels < 3) return 0;
  const [r, g, b] = [pixels[at * channels]!, pixels[at * channels + 1]!, pixels[at * channels + 2]!];
  return (Math.max(r, g, b) - Math.min(r, g, b)) / 255;
}
