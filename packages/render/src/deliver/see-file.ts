import { createHash } from 'node:crypto';
import { CELL_PX, cellGrid, type Cells, cellsOf, likenessOf, type SeenFile, SNIFF_BYTES, sniffWritten, typeOfName } from '@rundle/core';
import sharp, { type Sharp } from 'sharp';
import { writerOf } from '../types/registry';

/** What a picture is made as small as to be told by its looks: whole cells of the fingerprint, px. */
const SMALL = { width: 72, height: 64 };

/**
 * What is known of a file by which it can be told again.
 * @returns null when it is no picture of a type that is delivered, or cannot be decoded
 */
export async function seeFile(path: string, file: Buffer): Promise<SeenFile | null> {
  const type = sniffWritten(file.subarray(0, SNIFF_BYTES));
  if (!type) return null;
  try {
    const writer = writerOf(type);
    const opened = sharp((await writer.open(file)).input, { limitInputPixels: false });
    const header = await opened.metadata();
    if (!writer.isOf(header)) return null;
    const { width, height } = header;
    const { data, info } = await opened
      .clone()
      .resize({ ...SMALL, fit: 'fill' })
      .flatten({ background: '#ffffff' })
      .toColourspace('srgb')
      .raw({ depth: 'uchar' })
      .toBuffer({ resolveWithObject: true });
    const coded = writer.codedPart?.(file);
    return {
      path,
      bytes: file.length,
      sha256: sha256Of(file),
      type,
      width,
      height,
      coded: coded ? sha256Of(coded) : null,
      quality: (await writer.qualityIn?.((at, length) => file.subarray(at, at + length))) ?? null,
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
