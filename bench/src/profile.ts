import { fileByType, makingBy, Preset, type PresetInput, StudioDetails, toEightBits, unsharpMask, wholeOf } from '@rundle/core';
import { endExifTool, readFacts } from '@rundle/render';
import { readFile, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import sharp from 'sharp';
import { verifyOutput } from '../../packages/render/src/check/verify';
import { descriptionOf } from '../../packages/render/src/metadata/description';
import { describingBytes } from '../../packages/render/src/metadata/embed';
import { decode, decodeStored } from '../../packages/render/src/read/decode';
import { coloursOf } from '../../packages/render/src/rungs';
import { MasterSource, roomForOne } from '../../packages/render/src/source';
import { askForShortestTables } from '../../packages/render/src/types/jpeg/turbo';
import { callLibraries } from '../../packages/render/src/types/libraries';
import { writerOf } from '../../packages/render/src/types/registry';
import { Encoder } from '../../packages/render/src/write/encode';
import { pixelFile } from '../../packages/render/src/write/pixel-file';
import { work } from './measure';

/*
 * Where the time of a picture goes: the engine's own steps one after the other in this process, by processor time.
 */

/** Stages in the order in which a picture goes through them, with how long each takes, seconds. */
export interface Profile {
  path: string;
  stages: { stage: string; seconds: number }[];
}

sharp.concurrency(1);
sharp.cache(false);
askForShortestTables();
callLibraries();

const ROUNDS = 4;

/**
 * @param path what it is told as
 * @param masters each is gone through; the first round counts for nothing, since the programs are compiled in it
 */
export async function profileOf(path: string, masters: readonly string[], more: Partial<PresetInput>): Promise<Profile> {
  const preset = Preset.parse({ kind: 'rundle.preset', version: 1, title: 'Profile', size: { px: 2048 }, ...more });
  const took = new Map<string, number>();
  let counts = false;
  const timed = async <T>(stage: string, act: () => T | Promise<T>): Promise<T> => {
    const before = process.cpuUsage();
    const value = await act();
    const { user, system } = process.cpuUsage(before);
    if (counts) took.set(stage, (took.get(stage) ?? 0) + (user + system) / 1e6);
    return value;
  };
  for (let round = 0; round < ROUNDS; round++) {
    counts = round > 0;
    for (const master of masters) await throughStages(master, preset, timed);
  }
  const all = masters.length * (ROUNDS - 1);
  // What is made of a master takes its decoding in: that has been timed by itself.
  const decoded = took.get('decode') ?? 0;
  took.set('scale', Math.max(0, (took.get('scale') ?? 0) - decoded));
  await endExifTool();
  return { path, stages: [...took].map(([stage, seconds]) => ({ stage, seconds: seconds / all })) };
}

async function throughStages(
  master: string,
  preset: Preset,
  timed: <T>(stage: string, act: () => T | Promise<T>) => Promise<T>,
): Promise<void> {
  const facts = await timed('facts', () => readFacts(master));
  const making = makingBy(facts, preset);
  const room = roomForOne();
  await timed('decode', async () => (await decodeStored(master, facts, room)) ?? decode(master, facts, '#ffffff'));
  const source = new MasterSource(master, facts, true, roomForOne());
  const sized = await timed('scale', () => source.sized(making.geometry.scaled, preset, null));
  const { converted } = await timed('convert', () => coloursOf(sized, wholeOf(sized.picture), preset, true));
  const { sharpen } = preset;
  if (sharpen) await timed('sharpen', () => unsharpMask(converted.raster, sharpen));
  const { file, pixels } = pixelFile(converted.raster, 'rgb', preset.file.bits, converted.profile);
  await timed('dither', () => toEightBits(converted.raster.pixels, true, pixels as Uint8Array));
  const image = {
    picture: { ...converted.raster, pixels },
    model: 'rgb' as const,
    file,
    profile: converted.profile,
    gamut: null,
    halo: null,
  };
  const settings = fileByType(preset.file);
  if (settings.type === 'original') throw new Error('A copy has no stages.');
  const encoded = await timed('encode', () => new Encoder(image, settings).encode(preset.file.quality));
  const studio = StudioDetails.parse({});
  const writer = writerOf(settings.type);
  const described = await timed('metadata', () => describingBytes(descriptionOf({ master, facts, studio }, making, 'srgb')));
  const to = join(work, `profile.${settings.type}`);
  await timed('write', () => writeFile(to, writer.metadata.apart ? writer.metadata.apart.put(encoded.data, described) : encoded.data));
  await timed('check', async () => {
    await readFile(to);
    const promised = {
      name: 'profile',
      settings,
      bits: preset.file.bits,
      picture: image.picture,
      model: image.model,
      profile: image.profile,
    };
    await verifyOutput(to, { ...promised, described: writer.metadata.apart ? described : null, most: null });
  });
  await rm(to);
}
