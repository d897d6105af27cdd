import { type FileHandle, open, stat } from 'node:fs/promises';
import { basename } from 'node:path';
import {
  jpegQuality,
  type MasterFacts,
  parseIccProfile,
  ProblemError,
  READER,
  sameSpace,
  SNIFF_BYTES,
  sniffFormat,
  SPACES,
} from '@rundle/core';
import sharp, { type Metadata } from 'sharp';
import { luminanceTable } from './jpeg-tables';
import { MOST_PIXELS, readProblem } from './limits';
import { readTags } from './tags';

/**
 * Reads what a master is, without decoding its pixels.
 * @param path file to read; opened for reading only
 * @throws ProblemError with what is wrong and what to do, when it is no picture that can be read
 */
export async function readFacts(path: string): Promise<MasterFacts> {
  const name = basename(path);
  const { size } = await stat(path).catch((error: unknown) => {
    throw new ProblemError(readProblem(error, name));
  });
  if (size === 0) throw new ProblemError({ code: 'empty', file: name, message: 'The file is empty. Copy it again from where it came.' });
  const quality = await lookInside(path, name);
  const header = await sharp(path, { limitInputPixels: MOST_PIXELS })
    .metadata()
    .catch((error: unknown) => {
      throw new ProblemError(readProblem(error, name));
    });
  const format = formatOf(header);
  if (!format) throw new ProblemError(readProblem('unsupported image format', name));
  const { width, height } = header.autoOrient;
  const tags = await readTags(path);
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
    ...profileOf(header),
    ...tags,
    jpegQuality: quality,
    likeness: null,
    outsideSrgb: null,
    proxy: null,
    weighings: [],
    finelyWeighed: false,
    reader: READER,
  };
}

/**
 * Looks at the first bytes: SVG, PDF and the like would be drawn, not decoded; a master is pixels.
 * @returns the quality of a JPEG by its tables; null for other types
 */
async function lookInside(path: string, name: string): Promise<number | null> {
  const file = await open(path, 'r');
  try {
    const { buffer, bytesRead } = await file.read(Buffer.alloc(SNIFF_BYTES), 0, SNIFF_BYTES, 0);
    const format = sniffFormat(buffer.subarray(0, bytesRead));
    if (!format) throw new ProblemError(readProblem('unsupported image format', name));
    return format === 'jpeg' ? await qualityOf(file) : null;
  } finally {
    await file.close();
  }
}

async function qualityOf(file: FileHandle): Promise<number | null> {
  const table = await luminanceTable(async (position, length) => {
    const { buffer, bytesRead } = await file.read(Buffer.alloc(length), 0, length, position);
    return buffer.subarray(0, bytesRead);
  });
  return table && jpegQuality(table);
}

function formatOf({ format, compression }: Metadata): MasterFacts['format'] | null {
  if (format === 'heif') return compression === 'av1' ? 'avif' : null;
  return format === 'jpeg' || format === 'tiff' || format === 'png' || format === 'webp' ? format : null;
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
