import type { Geometry } from '@rundle/core';
import type { Raster } from '../read/decode';

/** Cuts a rectangle out of decoded pixels; the result is a copy. */
export function crop(raster: Raster, { left, top, width, height }: NonNullable<Geometry['crop']>): Raster {
  const { channels } = raster;
  const pixels =
    raster.pixels instanceof Uint8Array ? new Uint8Array(width * height * channels) : new Uint16Array(width * height * channels);
  for (let row = 0; row < height; row++) {
    const start = ((top + row) * raster.width + left) * channels;
    pixels.set(raster.pixels.subarray(start, start + width * channels), row * width * channels);
  }
  return { width, height, channels, pixels };
}
