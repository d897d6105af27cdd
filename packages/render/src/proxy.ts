import {
  type MasterFacts,
  type Proxy,
  PROXY_EDGE,
  PROXY_QUALITY,
  Preset,
  outputGeometry,
  problemOf,
  ProblemError,
  toEightBits,
} from '@rundle/core';
import { mkdir } from 'node:fs/promises';
import { basename, dirname } from 'node:path';
import sharp from 'sharp';
import { toSrgb } from './colour/to-srgb';
import { decode, embeddedProfile } from './read/decode';
import { placeFile } from './write/place';

const { colour } = Preset.parse({ kind: 'rundle.preset', version: 1, title: 'Proxy' });

/**
 * Makes the small sRGB JPEG of a master that contact sheets show and weights are expected from.
 * @param path the master
 * @param to where to write it; replaced when it is there
 * @throws ProblemError when the master cannot be decoded to its end
 */
export async function makeProxy(path: string, facts: MasterFacts, to: string): Promise<Proxy> {
  const { output } = outputGeometry({ ...Preset.shape.size.parse({}), px: PROXY_EDGE }, facts);
  const { raster } = await toSrgb(await decode(path, facts, output, 'linear'), await embeddedProfile(path), colour);
  const pixels = raster.pixels instanceof Uint16Array ? toEightBits(raster.pixels, false) : raster.pixels;
  const raw = { width: raster.width, height: raster.height, channels: 3 as const };
  const data = await sharp(pixels, { raw }).withIccProfile('srgb').jpeg({ quality: PROXY_QUALITY }).toBuffer();
  await mkdir(dirname(to), { recursive: true });
  await placeFile(to, data, true, async () => {}).catch((error: unknown) => {
    throw new ProblemError({ ...problemOf(error), file: basename(path) });
  });
  return { width: output.width, height: output.height, bytes: data.length };
}
