import { readFile, rm } from 'node:fs/promises';
import { basename, join } from 'node:path';
import {
  type Decisions,
  makingOf,
  type MasterFacts,
  NO_DECISIONS,
  type PixelSize,
  Preset,
  ProblemError,
  StudioDetails,
} from '@rundle/core';
import sharp from 'sharp';
import type { Renderer } from '../pool/renderer';
import type { OutputResult } from '../render-master';

/** A picture that comes on a sheet. */
export interface SheetPicture {
  path: string;
  /** Of a master; null: read when they are needed. */
  facts: MasterFacts | null;
  decisions: Decisions | null;
}

/** How many times as many pixels as are printed a JPEG may have that is taken as it is. */
const TAKEN_AS_IS = 2;

/**
 * A picture as a JPEG that fills a box: one that is hardly larger is taken as it is, all others are made as an output is, in their own colours and
 * with their profile; print colour is converted, since a printer’s driver wants RGB.
 * @param folder where it may be made
 * @throws ProblemError when it cannot be read
 */
export async function printOf(
  renderer: Renderer,
  { path, facts, decisions }: SheetPicture,
  box: PixelSize,
  folder: string,
  name: string,
): Promise<Buffer> {
  if (decisions === null && (await isPrintable(path, box))) return readFile(path);
  const known = facts ?? (await renderer.facts(path, null));
  const keeps = known.colourModel !== 'cmyk' && known.colourModel !== 'lab' && known.profile !== null;
  const preset = Preset.parse({
    ...PRINT,
    size: { fit: 'box', width: box.width, height: box.height, turn: false, ppi: 300 },
    colour: { space: keeps ? 'keep' : 'srgb' },
  });
  const making = makingOf(known, preset, null, decisions ?? NO_DECISIONS);
  const to = join(folder, `${name}.jpg`);
  const job = { master: path, content: path, modified: 0, facts: known, studio: StudioDetails.parse({}) };
  let result: OutputResult | null = null;
  await renderer.render(
    { ...job, outputs: [{ id: name, fileName: basename(path), to, making, watermark: null }] },
    () => {},
    (told) => {
      result = told;
    },
  );
  const told = result as OutputResult | null;
  if (told?.status !== 'done') throw new ProblemError(told?.error ?? { code: 'render-failed', message: 'It was not made.' });
  try {
    return await readFile(to);
  } finally {
    await rm(to, { force: true });
  }
}

const PRINT = {
  kind: 'rundle.preset',
  version: 1,
  title: 'Print',
  sharpen: { amount: 0.8, radius: 1 },
  file: { quality: 90, progressive: false },
  metadata: { rights: 'remove', description: 'remove' },
} as const;

/** A baseline or progressive JPEG in RGB or grey, upright, that is not much larger than it is printed. */
async function isPrintable(path: string, box: PixelSize): Promise<boolean> {
  const { format, width, height, orientation, space, channels } = await sharp(path).metadata();
  const isPlain = format === 'jpeg' && (orientation ?? 1) === 1 && space !== 'cmyk' && channels <= 3;
  return isPlain && (width <= TAKEN_AS_IS * box.width || height <= TAKEN_AS_IS * box.height);
}
