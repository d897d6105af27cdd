import { createHash } from 'node:crypto';
import {
  CELL_PX,
  cellGrid,
  type Cells,
  cellsOf,
  ENCODED_TYPE_NAMES,
  jpegQuality,
  likenessOf,
  type SeenFile,
  typeOfName,
} from '@rundle/core';
import sharp, { type Sharp } from 'sharp';
import { codedPart } from '../metadata/jpeg-segments';
import { luminanceTable } from '../read/jpeg-tables';
import { decodeJpegXl } from '../write/jpeg-xl';

/** What a picture is made as small as to be told by its looks: whole cells of the fingerprint, px. */
const SMALL = { width: 72, height: 64 };

/** How files of JPEG XL begin, as a codestream or in a container (ISO/IEC 18181-2). */
const JPEG_XL = ['ff0a', '0000000c4a584c20'];

export const isJpegXl = (file: Buffer): boolean => JPEG_XL.some((begin) => file.subarray(0, begin.length / 2).toString('hex') === begin);

/**
 * What is known of a file by which it can be told again.
 * @returns null when it is no picture of a type that is delivered, or cannot be decoded
 */
export async function seeFile(path: string, file: Buffer): Promise<SeenFile | null> {
  const isXl = isJpegXl(file);
  try {
    const opened = sharp(isXl ? (await decodeJpegXl(file)).png : file, { limitInputPixels: false });
    const { format, width, height, compression } = await opened.metadata();
    const type = isXl ? 'jxl' : format === 'heif' && compression === 'av1' ? 'avif' : ENCODED_TYPE_NAMES.find((name) => name === format);
    if (!type) return null;
    const { data, info } = await opened
      .clone()
      .resize({ ...SMALL, fit: 'fill' })
      .flatten({ background: '#ffffff' })
      .toColourspace('srgb')
      .raw({ depth: 'uchar' })
      .toBuffer({ resolveWithObject: true });
    const isJpeg = type === 'jpeg';
    const table = isJpeg ? await luminanceTable((at, length) => file.subarray(at, at + length)) : null;
    return {
      path,
      bytes: file.length,
      sha256: sha256Of(file),
      type,
      width,
      height,
      coded: isJpeg ? sha256Of(codedPart(file)) : null,
      quality: table && jpegQuality(table),
      likeness: likenessOf({ ...SMALL, channels: info.channels, pixels: data }),
      cells: await cellsIn(opened, width, height),
    };
  } catch {
    return null;
  }
}

/** Reduced from all of its pixels: what decoders leave out to be quick differs from type to type. */
async function cellsIn(opened: Sharp, width: number, height: number): Promise<Cells> {
  const { columns, rows } = cellGrid(width, height);
  const size = { width: columns * CELL_PX, height: rows * CELL_PX };
  const { data, info } = await opened
    .clone()
    .resize({ ...size, fit: 'fill', kernel: 'linear', fastShrinkOnLoad: false })
    .flatten({ background: '#ffffff' })
    .toColourspace('srgb')
    .raw({ depth: 'uchar' })
    .toBuffer({ resolveWithObject: true });
  return cellsOf({ ...size, channels: info.channels, pixels: data });
}

/** By the extension, what may be a delivered picture: other files need not be opened. */
export const mayBeDelivered = (name: string): boolean => typeOfName(name) !== null;

export const sha256Of = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');
