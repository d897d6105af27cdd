import { cutOut, type EncodedTypeName, type PixelSize, type Raster, type Rectangle, toEightBits, wholeOf, widened } from '@rundle/core';
import sharp, { type Sharp } from 'sharp';
import { convertWithLittleCms } from '../colour/little-cms';
import { writerOf } from '../types/registry';
import { type ColourModel, pixelFile } from '../write/pixel-file';

/** A picture on its way to a screen: its pixels as they are, and the profile that says what they mean. */
export interface ScreenImage {
  picture: Raster;
  model: ColourModel;
  profile: Uint8Array | null;
}

/** A picture as a file for the page, without loss. */
export interface ScreenFile extends PixelSize {
  png: Buffer;
  /** Whether inks were converted to sRGB, since no browser shows inks. */
  converted: boolean;
}

/**
 * @param part what of it is shown; null: all
 * @param within the most px that it may have: a larger one is made smaller, for a look at the whole
 */
export async function toPng(image: ScreenImage, part: Rectangle | null, within: PixelSize | null): Promise<ScreenFile> {
  // A copy: pixels may lie in the memory that the file is made in.
  const area = part ?? wholeOf(image.picture);
  const shown = { ...image, picture: cutOut(image.picture as Raster<Uint8Array>, area) };
  const { picture, model, profile } = shown.model === 'cmyk' ? await inSrgb(shown) : shown;
  const bits = picture.pixels instanceof Uint8Array ? 8 : 16;
  const { file, pixels } = pixelFile(picture, model, bits, profile);
  pixels.set(picture.pixels);
  const opened = sharp(file, { ignoreIcc: true, limitInputPixels: false });
  const { width, height } = within ? fitted(picture, within) : picture;
  const sized = width < picture.width ? opened.resize(width, height, { fit: 'fill' }) : opened;
  const own = sized.toColourspace(model === 'grey' ? (bits === 16 ? 'grey16' : 'b-w') : bits === 16 ? 'rgb16' : 'srgb');
  // Not compressed: server and page are on one machine, and to compress would take longer than to send.
  const png = await (profile ? own.keepIccProfile() : own).png({ compressionLevel: 0 }).toBuffer();
  return { png, width, height, converted: shown.model === 'cmyk' };
}

/** A size made smaller so far that it fits. */
export function fitted({ width, height }: PixelSize, within: PixelSize): PixelSize {
  const share = Math.min(1, within.width / width, within.height / height);
  return { width: Math.max(1, Math.round(width * share)), height: Math.max(1, Math.round(height * share)) };
}

async function inSrgb({ picture, profile }: ScreenImage): Promise<ScreenImage> {
  const { width, height } = picture;
  const wide = widened(picture);
  // Inks without a profile never come this far: the run refuses to keep them.
  const pixels = await convertWithLittleCms(wide, profile!, 'srgb', { intent: 'relative', blackPoint: true });
  return { picture: { width, height, channels: 3, pixels: toEightBits(pixels, false) }, model: 'rgb', profile: null };
}

/** A part of a finished file as its decoder gives it. */
export async function decodeFinished(
  path: string,
  type: EncodedTypeName,
  model: ColourModel,
  part: Rectangle | null,
): Promise<ScreenImage> {
  const { input } = await writerOf(type).open(path);
  const opened = sharp(input, { ignoreIcc: true, limitInputPixels: false });
  const { icc, depth } = await opened.metadata();
  const bits = depth === 'ushort' ? 16 : 8;
  const cut: Sharp = part ? opened.extract(part) : opened;
  const own =
    model === 'cmyk'
      ? cut.pipelineColourspace('cmyk').toColourspace('cmyk')
      : cut.toColourspace(model === 'grey' ? (bits === 16 ? 'grey16' : 'b-w') : bits === 16 ? 'rgb16' : 'srgb');
  const { data, info } = await own.raw({ depth: bits === 16 ? 'ushort' : 'uchar' }).toBuffer({ resolveWithObject: true });
  const pixels = bits === 16 ? new Uint16Array(data.buffer, data.byteOffset, data.length / 2) : data;
  return { picture: { width: info.width, height: info.height, channels: info.channels, pixels }, model, profile: icc ?? null };
}
