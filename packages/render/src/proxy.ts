import {
  type GamutLoss,
  iccProfileOf,
  likenessOf,
  type MasterFacts,
  type Proxy,
  PROXY_EDGE,
  PROXY_QUALITY,
  Preset,
  longEdgeSize,
  problemOf,
  ProblemError,
  toEightBits,
  widened,
} from '@rundle/core';
import { writeFile } from 'node:fs/promises';
import { basename } from 'node:path';
import { asideOf, makeFile, putFileOrDrop } from '@rundle/place';
import sharp from 'sharp';
import { type ConvertedImage, convertColour } from './colour/convert';
import { sourceColour } from './colour/source';
import { decodeSmall, embeddedProfile } from './read/decode';
import { pixelFile } from './write/pixel-file';

const { colour } = Preset.parse({ kind: 'rundle.preset', version: 1, title: 'Proxy' });

/** What is known of a master once its pixels have been seen. */
export interface PixelFacts {
  proxy: Proxy;
  likeness: string;
  /** Null where it is sRGB already. */
  outsideSrgb: GamutLoss | null;
}

/** A master at a small size, that of its proxy unless it is said, in sRGB, 16 bits. */
export async function smallPicture(path: string, facts: MasterFacts, size = longEdgeSize(PROXY_EDGE, facts)): Promise<ConvertedImage> {
  const small = await decodeSmall(path, facts, size);
  const profile = facts.colourModel === 'lab' ? null : await embeddedProfile(path, facts);
  const { colour: source } = sourceColour(small.channels as 1 | 3 | 4, profile, facts, 'srgb');
  return convertColour(widened(small), source, colour);
}

/**
 * Makes the small sRGB JPEG of a master that contact sheets show.
 * @param path the master
 * @param to where to write it; replaced when it is there
 * @throws ProblemError when the master cannot be decoded to its end
 */
export async function makeProxy(path: string, facts: MasterFacts, to: string): Promise<PixelFacts> {
  const { raster, gamut } = await smallPicture(path, facts);
  const { file, pixels } = pixelFile(raster, 'rgb', 8, iccProfileOf('srgb'));
  toEightBits(raster.pixels, false, pixels as Uint8Array);
  const data = await sharp(file, { ignoreIcc: true }).keepIccProfile().jpeg({ quality: PROXY_QUALITY }).toBuffer();
  const aside = asideOf(to);
  try {
    await makeFile(aside, 'The small picture', () => writeFile(aside, data));
    await putFileOrDrop(aside, to, { mayReplace: () => true });
  } catch (error) {
    throw new ProblemError({ ...problemOf(error), file: basename(path) });
  }
  const proxy = { width: raster.width, height: raster.height, bytes: data.length };
  return { proxy, likeness: likenessOf(raster), outsideSrgb: gamut };
}
