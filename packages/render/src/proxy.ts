import {
  type EncodedFileByType,
  fileByType,
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
import { type ConvertedImage, convertColour } from './colour/convert';
import { sourceColour } from './colour/source';
import { decodeSmall, embeddedProfile } from './read/decode';
import { Encoder, type FinishedImage } from './write/encode';
import { pixelFile } from './write/pixel-file';

const { colour, file: rung } = Preset.parse({
  kind: 'rundle.preset',
  version: 1,
  title: 'Proxy',
  file: { type: 'jpeg', quality: PROXY_QUALITY, progressive: false, chroma: '4:2:0' },
});
const SETTINGS = fileByType(rung) as Extract<EncodedFileByType, { type: 'jpeg' }>;

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
  const profile = iccProfileOf('srgb');
  const { file, pixels } = pixelFile(raster, 'rgb', 8, profile);
  toEightBits(raster.pixels, false, pixels as Uint8Array);
  const image: FinishedImage = { picture: { ...raster, pixels }, model: 'rgb', file, profile, gamut: null, halo: null };
  const { data } = await new Encoder(image, SETTINGS).encode(PROXY_QUALITY);
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
