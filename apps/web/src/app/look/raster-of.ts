import type { Raster } from '@rundle/core';

/**
 * The pixels of a picture, without transparency.
 * @param own whether its numbers are taken as they are, and not converted to those of the screen
 */
export async function rasterOf(picture: Blob, own = false): Promise<Raster<Uint8Array>> {
  const bitmap = await createImageBitmap(picture, own ? { colorSpaceConversion: 'none' } : {});
  const { width, height } = bitmap;
  const drawing = new OffscreenCanvas(width, height).getContext('2d')!;
  drawing.drawImage(bitmap, 0, 0);
  bitmap.close();
  const rgba = drawing.getImageData(0, 0, width, height).data;
  const pixels = new Uint8Array(width * height * 3);
  for (let at = 0; at < width * height; at++) pixels.set(rgba.subarray(4 * at, 4 * at + 3), 3 * at);
  return { width, height, channels: 3, pixels };
}
