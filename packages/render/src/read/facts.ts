import { open, stat } from 'node:fs/promises';
import { basename } from 'node:path';
import {
  type MasterFacts,
  notReadable,
  parseIccProfile,
  ProblemError,
  READER,
  sameSpace,
  SNIFF_BYTES,
  sniffFormat,
  SPACES,
} from '@rundle/core';
import type { Metadata } from 'sharp';
import { isReadable } from '../types/on-this-machine';
import { isRawInside } from '../types/raw/raw';
import { OPENERS } from '../types/registry';
import { bytesOf } from '../types/type';
import { headerOf } from './decode';
import { readProblem } from './limits';
import { readTags, tagFacts } from './tags';

/**
 * Reads what a master is, without decoding its pixels.
 * @param path file to read; opened for reading only
 * @param page which one of a file with several, from 1; null: the first
 * @throws ProblemError with what is wrong and what to do, when it is no picture that can be read
 */
export async function readFacts(path: string, page: number | null = null): Promise<MasterFacts> {
  const name = basename(path);
  const { size } = await stat(path).catch((error: unknown) => {
    throw new ProblemError(readProblem(error, name));
  });
  if (size === 0) throw new ProblemError({ code: 'empty', file: name, message: 'The file is empty. Copy it again from where it came.' });
  const { format, own, isUndescribed } = await lookInside(path, name, page);
  const header = await headerOf(path, format, own?.page).catch((error: unknown) => {
    throw new ProblemError(readProblem(error, name));
  });
  if (!OPENERS[format].isOf(header)) throw new ProblemError(readProblem('unsupported image format', name));
  const { width, height } = header.autoOrient;
  const tags = isUndescribed ? tagFacts({}) : await readTags(path);
  return {
    format,
    width,
    height,
    orientation: header.orientation ?? 1,
    bytes: size,
    bits: bitsOf(header),
    channels: header.channels ?? 3,
    colourModel: modelOf(header),
    alpha: header.hasAlpha ?? false,
    pages: header.pages ?? 1,
    page: 0,
    fractions: header.depth === 'float' || header.depth === 'double',
    ...profileOf(header),
    ...tags,
    jpegQuality: null,
    ...own,
    likeness: null,
    outsideSrgb: null,
    proxy: null,
    weighings: [],
    finelyWeighed: false,
    salience: null,
    reader: READER,
  };
}

/**
 * Looks at the first bytes: SVG, PDF and the like would be drawn, not decoded; a master is pixels.
 * @returns its type, facts that only this type has, and whether no metadata describe it
 * @throws ProblemError when it is none that can be read here
 */
export async function lookInside(path: string, name: string, page: number | null = null) {
  const file = await open(path, 'r');
  const bytesAt = bytesOf(file);
  try {
    const begins = sniffFormat(await bytesAt(0, SNIFF_BYTES));
    const format = begins === 'tiff' && (await isRawInside(bytesAt)) ? 'raw' : begins;
    if (!format) throw new ProblemError(readProblem('unsupported image format', name));
    if (!isReadable(format)) throw new ProblemError(notReadable(format, name));
    const opener = OPENERS[format];
    return { format, own: await opener.facts?.(bytesAt, page), isUndescribed: (await opener.isUndescribed?.(bytesAt)) ?? false };
  } finally {
    await file.close();
  }
}

const DEPTHS: Record<string, number> = { uchar: 8, char: 8, ushort: 16, short: 16, uint: 32, int: 32, float: 32, double: 64 };

const bitsOf = ({ depth }: Metadata): number => DEPTHS[depth ?? 'uchar'] ?? 8;

function modelOf({ space }: Metadata): MasterFacts['colourModel'] {
  if (space === 'cmyk') return 'cmyk';
  if (space === 'b-w' || space === 'grey16') return 'grey';
  return space === 'lab' || space === 'labs' || space === 'labq' ? 'lab' : 'rgb';
}

/** A damaged profile is told as none: its colours cannot be known, and the preset's assumption takes over. */
function profileOf({ icc }: Metadata): { profile: string | null; sRgb: boolean } {
  if (!icc) return { profile: null, sRgb: false };
  try {
    const { description, matrix } = parseIccProfile(icc);
    return { profile: description, sRgb: matrix !== null && sameSpace(matrix, SPACES.srgb) };
  } catch {
    return { profile: null, sRgb: false };
  }
}
