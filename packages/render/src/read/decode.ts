import { basename } from 'node:path';
import { type MasterFacts, type PixelSize, type Preset, ProblemError } from '@rundle/core';
import sharp, { type Sharp } from 'sharp';
import { MOST_PIXELS, readProblem } from './limits';

/** Decoded pixels, interleaved, still in the master's own colours. */
export interface Raster {
  width: number;
  height: number;
  channels: 1 | 3 | 4;
  pixels: Uint8Array | Uint16Array;
}

/**
 * Decodes a master straight to the largest size that a job wants: oriented, transparency laid over white, scaled with the
 * kernel. The profile is not applied here, because converting the small picture costs a fraction.
 * @throws ProblemError when the file cannot be decoded to its end
 */
export async function decode(path: string, facts: MasterFacts, size: PixelSize, kernel: Preset['size']['kernel']): Promise<Raster> {
  const opened = sharp(path, { ignoreIcc: true, limitInputPixels: MOST_PIXELS, sequentialRead: true });
  const own = facts.colourModel === 'cmyk' ? opened.pipelineColourspace('cmyk') : opened;
  const flat = facts.alpha ? own.flatten({ background: '#ffffff' }) : own;
  const scaled = scale(flat.autoOrient(), facts, size, kernel);
  try {
    return await rawOf(inOwnSpace(scaled, facts), facts.bits > 8 ? 16 : 8);
  } catch (error) {
    throw new ProblemError(readProblem(error, basename(path)));
  }
}

function scale(image: Sharp, from: PixelSize, to: PixelSize, kernel: Preset['size']['kernel']): Sharp {
  if (from.width === to.width && from.height === to.height) return image;
  // Shrinking while a JPEG loads is fast, but costs up to 12 dB against a full decode.
  return image.resize(to.width, to.height, { fit: 'fill', kernel, fastShrinkOnLoad: false });
}

function inOwnSpace(image: Sharp, { colourModel, bits }: MasterFacts): Sharp {
  if (colourModel === 'cmyk') return image.toColourspace('cmyk');
  if (colourModel === 'grey') return image.toColourspace(bits > 8 ? 'grey16' : 'b-w');
  return image.toColourspace(bits > 8 ? 'rgb16' : 'srgb');
}

/** Scales pixels that are already decoded: the next smaller output of the same master. */
export async function rescale(raster: Raster, size: PixelSize, kernel: Preset['size']['kernel']): Promise<Raster> {
  if (raster.width === size.width && raster.height === size.height) return raster;
  const deep = raster.pixels instanceof Uint16Array;
  const { width, height, channels } = raster;
  const image = sharp(raster.pixels, { raw: { width, height, channels }, limitInputPixels: false });
  return rawOf(scale(image, raster, size, kernel).toColourspace(deep ? 'rgb16' : 'srgb'), deep ? 16 : 8);
}

async function rawOf(image: Sharp, bits: 8 | 16): Promise<Raster> {
  const { data, info } = await image.raw({ depth: bits === 16 ? 'ushort' : 'uchar' }).toBuffer({ resolveWithObject: true });
  const pixels =
    bits === 16
      ? new Uint16Array(data.buffer, data.byteOffset, data.length / 2)
      : new Uint8Array(data.buffer, data.byteOffset, data.length);
  return { width: info.width, height: info.height, channels: info.channels as Raster['channels'], pixels };
}

/** The embedded profile of a master, or null. */
export async function embeddedProfile(path: string): Promise<Uint8Array | null> {
  return (await sharp(path, { limitInputPixels: MOST_PIXELS }).metadata()).icc ?? null;
}
