import { basename } from 'node:path';
import {
  type Allocate,
  isTurned,
  type Kernel,
  type MasterFacts,
  type MasterFormat,
  type PixelSize,
  ProblemError,
  type Raster,
  upright,
} from '@rundle/core';
import sharp, { type Metadata, type Sharp } from 'sharp';
import { OPENERS } from '../types/registry';
import { MOST_PIXELS, readProblem, refuseTooMuchMemory } from './limits';

/**
 * Decodes a master whole: oriented, transparency laid over the backdrop, still in its own colours and bits. The profile is
 * not applied here, because converting the small picture costs a fraction.
 * @param backdrop `#rrggbb`, seen through transparent parts
 * @param allocate makes room for it; new memory unless it is said
 * @throws ProblemError when the file cannot be decoded to its end, or would need too much memory
 */
export async function decode(path: string, facts: MasterFacts, backdrop: string, allocate?: Allocate): Promise<Raster> {
  refuseTooMuchMemory(facts, basename(path));
  const quickly = await decodeStored(path, facts, allocate);
  return quickly ? upright(quickly, facts.orientation) : readColours(await open(path, facts), path, facts, backdrop);
}

/**
 * The pixels of 8-bit RGB as they lie in the file, by a way that is faster than the decoder's and gives the same.
 * @returns null where there is none, or it did not come to the end: then the decoder says what is wrong
 */
export async function decodeStored(path: string, facts: MasterFacts, allocate: Allocate = newWords): Promise<Raster<Uint8Array> | null> {
  const { format, bits, colourModel, alpha, page, orientation, width, height } = facts;
  if (bits !== 8 || colourModel !== 'rgb' || alpha || page) return null;
  const lying = isTurned(orientation) ? { width: height, height: width } : { width, height };
  const room = (bytes: number) => {
    const words = allocate(Math.ceil(bytes / 2));
    return new Uint8Array(words.buffer, words.byteOffset, bytes);
  };
  // Whatever is wrong with the file, the decoder says it better.
  const pixels = await OPENERS[format].pixels?.(path, lying, room).catch(() => null);
  return pixels ? { ...lying, channels: 3, pixels } : null;
}

const newWords: Allocate = (words) => new Uint16Array(words);

/**
 * Decodes a large picture of 8-bit RGB at another height, its columns scaled by libvips as they are read: a third faster
 * than keeping all of it. That one step rounds to 8 bits, which moves the result by a sixth of a step on average.
 * @param height of the upright picture, px
 * @returns the picture as it lies in the file, not yet upright: turning the small result costs a fraction. Where the file
 * lies on its side, its rows are the columns that have been scaled.
 */
export async function decodeAtHeight(path: string, facts: MasterFacts, height: number, kernel: Kernel): Promise<Raster> {
  const [wide, high] = isTurned(facts.orientation) ? [height, facts.width] : [facts.width, height];
  const columns = (await stored(path, facts)).resize(wide, high, { fit: 'fill', kernel, fastShrinkOnLoad: false });
  return read(columns.toColourspace('srgb'), false, path);
}

/** Some rows of a master that lies upright, of a type in which they can be read without all that comes before them. */
export async function decodeRows(path: string, facts: MasterFacts, top: number, height: number): Promise<Raster> {
  const opened = sharp(await inputOf(path, facts.format), {
    ...pageOf(facts.page),
    ignoreIcc: true,
    limitInputPixels: MOST_PIXELS,
  }).extract({
    left: 0,
    top,
    width: facts.width,
    height,
  });
  return readColours(opened, path, facts, '#ffffff');
}

/** A quick small picture of a master, over white, for looking at: less exact than {@link decode} with a resize. */
export async function decodeSmall(path: string, facts: MasterFacts, { width, height }: PixelSize): Promise<Raster> {
  const opened = (await open(path, facts)).resize(width, height, { fit: 'fill', kernel: 'cubic' });
  return readColours(opened, path, facts, '#ffffff');
}

/** The transparency of a master that has one: 0 is clear. Oriented like the picture. */
export async function decodeAlpha(path: string, facts: MasterFacts): Promise<Raster> {
  const deep = facts.bits > 8;
  return read((await open(path, facts)).extractChannel('alpha').toColourspace(deep ? 'grey16' : 'b-w'), deep, path);
}

const inputOf = (path: string, format: MasterFormat): string | Promise<Buffer> => OPENERS[format].input(path);
const stored = async (path: string, { format, page }: MasterFacts): Promise<Sharp> =>
  sharp(await inputOf(path, format), { ...pageOf(page), ignoreIcc: true, limitInputPixels: MOST_PIXELS, sequentialRead: true });
const open = async (path: string, facts: MasterFacts): Promise<Sharp> => (await stored(path, facts)).autoOrient();

/** What a decoder says of a master before it reads its pixels. */
export const headerOf = async (path: string, format: MasterFormat, page = 0): Promise<Metadata> =>
  sharp(await inputOf(path, format), { ...pageOf(page), limitInputPixels: MOST_PIXELS }).metadata();

/** Types without pages know nothing of one. */
export const pageOf = (page: number) => (page ? { page } : {});

/** Reads colours in the master's own model and bits. */
async function readColours(image: Sharp, path: string, facts: MasterFacts, backdrop: string): Promise<Raster> {
  const { colourModel, bits, alpha, fractions } = facts;
  if (fractions && colourModel === 'rgb') return readFractions(image, path, alpha, backdrop);
  const own = colourModel === 'cmyk' ? image.pipelineColourspace('cmyk') : image;
  const flat = alpha ? own.flatten({ background: backdrop }) : own;
  // Lab of 8 bits is coarser than RGB of 8 bits.
  const deep = bits > 8 || colourModel === 'lab';
  return read(inOwnSpace(flat, colourModel, deep), deep, path);
}

/** Numbers of 0 to 1 as they are: the decoder would take them for linear sRGB, whatever the profile says. */
async function readFractions(image: Sharp, path: string, alpha: boolean, backdrop: string): Promise<Raster> {
  const own = image.pipelineColourspace('scrgb');
  const flat = alpha ? own.flatten({ background: backdrop }) : own;
  const { data, info } = await decoded(flat.toColourspace('scrgb').raw({ depth: 'float' }), path);
  const fractions = new Float32Array(data.buffer, data.byteOffset, data.length / 4);
  // What is no number at all is black.
  const pixels = Uint16Array.from(fractions, (value) => Math.round(65_535 * Math.min(1, Math.max(0, value || 0))));
  return { width: info.width, height: info.height, channels: info.channels, pixels };
}

function inOwnSpace(image: Sharp, model: MasterFacts['colourModel'], deep: boolean): Sharp {
  if (model === 'cmyk') return image.toColourspace('cmyk');
  if (model === 'grey') return image.toColourspace(deep ? 'grey16' : 'b-w');
  return image.toColourspace(deep ? 'rgb16' : 'srgb');
}

async function read(image: Sharp, deep: boolean, path: string): Promise<Raster> {
  const { data, info } = await decoded(image.raw({ depth: deep ? 'ushort' : 'uchar' }), path);
  const pixels = deep
    ? new Uint16Array(data.buffer, data.byteOffset, data.length / 2)
    : new Uint8Array(data.buffer, data.byteOffset, data.length);
  return { width: info.width, height: info.height, channels: info.channels, pixels };
}

async function decoded(image: Sharp, path: string) {
  try {
    return await image.toBuffer({ resolveWithObject: true });
  } catch (error) {
    throw new ProblemError(readProblem(error, basename(path)));
  }
}

/** The embedded profile of a master, or null. */
export async function embeddedProfile(path: string, { format, page }: MasterFacts): Promise<Uint8Array | null> {
  return (await headerOf(path, format, page)).icc ?? null;
}
