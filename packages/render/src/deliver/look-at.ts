import { FILE_TYPES, nameOfSpace, parseIccProfile, type SeenFile, SNIFF_BYTES, sniffWritten, type SpaceName } from '@rundle/core';
import sharp from 'sharp';
import { writerOf } from '../types/registry';
import { seeFile } from './see-file';

/** What a delivery has to know of a file: what is seen of it, what its colours are, and a few hundred bytes of it to show until it has come. */
export interface LookedAt {
  seen: SeenFile;
  /** Null: another space, or none that can be told. */
  space: SpaceName | null;
  /** A data address; null for types that no browser shows. */
  placeholder: string | null;
}

/** Longest side of a placeholder, px. */
const TINY = 16;

/**
 * Looks at a file that is to be delivered.
 * @returns null when it is no picture of a type that is delivered, or cannot be decoded
 */
export async function lookAt(path: string, file: Buffer): Promise<LookedAt | null> {
  const seen = await seeFile(path, file);
  if (!seen) return null;
  const { inBrowsers, needs } = FILE_TYPES[seen.type];
  // Of what another program has to decode, the colours are not looked at.
  return { seen, space: needs ? null : await spaceOf(file), placeholder: inBrowsers === null ? null : await placeholderOf(file) };
}

/** The space that a file says its colours are in; without a profile browsers take them for sRGB (CSS Color 4, 12.2). */
async function spaceOf(file: Buffer): Promise<SpaceName | null> {
  const { icc, space } = await sharp(file, { limitInputPixels: false }).metadata();
  if (space === 'cmyk') return null;
  if (!icc) return 'srgb';
  const { matrix } = parseIccProfile(icc);
  return matrix && nameOfSpace(matrix);
}

async function placeholderOf(file: Buffer): Promise<string> {
  const tiny = await sharp(file, { limitInputPixels: false })
    .resize({ width: TINY, height: TINY, fit: 'inside' })
    .webp({ quality: 40, effort: 4 })
    .toBuffer();
  return `data:image/webp;base64,${tiny.toString('base64')}`;
}

/** What a file is shown as in a list of them: a small JPEG, in sRGB. @throws Error when it cannot be decoded */
export async function thumbnailOf(file: Buffer, longEdge: number): Promise<Buffer> {
  const type = sniffWritten(file.subarray(0, SNIFF_BYTES));
  return sharp(type ? (await writerOf(type).open(file)).input : file, { limitInputPixels: false })
    .resize({ width: longEdge, height: longEdge, fit: 'inside', withoutEnlargement: true })
    .flatten({ background: '#ffffff' })
    .toColourspace('srgb')
    .jpeg({ quality: 82 })
    .toBuffer();
}
