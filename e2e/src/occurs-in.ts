import sharp from 'sharp';
import type { Browser } from './browser';

/** The pixels of a picture of the page. */
export async function pixelsIn(browser: Browser, css: string): Promise<{ data: Buffer; width: number; height: number }> {
  const base64 = await browser.driver.executeScript<string>(
    `const image = document.querySelector(arguments[0]);
     const canvas = document.createElement('canvas');
     [canvas.width, canvas.height] = [image.naturalWidth, image.naturalHeight];
     canvas.getContext('2d').drawImage(image, 0, 0);
     return canvas.toDataURL('image/png').split(',')[1];`,
    css,
  );
  const { data, info } = await sharp(Buffer.from(base64, 'base64')).removeAlpha().raw().toBuffer({ resolveWithObject: true });
  return { data, width: info.width, height: info.height };
}

/** Whether a piece occurs in a finished file, pixel for pixel. */
export async function occursIn(piece: { data: Buffer; width: number; height: number }, file: Buffer): Promise<boolean> {
  const { data, info } = await sharp(file).raw().toBuffer({ resolveWithObject: true });
  const rowAt = (x: number, y: number) => data.subarray(3 * (y * info.width + x), 3 * (y * info.width + x + piece.width));
  const own = (row: number) => piece.data.subarray(3 * row * piece.width, 3 * (row + 1) * piece.width);
  for (let y = 0; y + piece.height <= info.height; y++)
    for (let x = 0; x + piece.width <= info.width; x++)
      if (Array.from({ length: piece.height }, (_, row) => row).every((row) => rowAt(x, y + row).equals(own(row)))) return true;
  return false;
}
