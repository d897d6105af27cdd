import type { MasterFacts } from '../facts/facts';
import { FILE_TYPES, fileByType, type FileTypeName, MASTER_TYPES } from '../types/table';
import type { Preset } from '../preset/schema';
import type { PixelSize } from '../size/geometry';

/*
 * How long an output takes, on the machine on which these were measured; what a machine has done so far says how much faster
 * or slower it is.
 */

/** Milliseconds for a megapixel of an output up to its encoder: size, colour, sharpening. */
const PIXELS = 70;
/** Milliseconds for what each output needs whatever its size: metadata, check, its place on the disk. */
const EACH = 60;
/** Encodes that a search takes: for a ceiling, and for a likeness, each of which is decoded and compared, too. */
const TRIES = { ceiling: 3, match: 8 } as const;

/**
 * How long a worker is busy with an output, in ms, on an ordinary machine.
 * @param isFirst whether it is the first of its master, which pays for decoding it
 */
export function expectedMs(
  facts: Pick<MasterFacts, 'format' | 'width' | 'height'>,
  output: PixelSize,
  { file }: Preset,
  isFirst: boolean,
): number {
  const settings = fileByType(file);
  if (settings.type === 'original') return EACH;
  const aim = 'aim' in settings ? settings.aim.by : null;
  const tries = aim === 'match' ? TRIES.match : 'ceiling' in settings && settings.ceiling ? TRIES.ceiling : 1;
  const megapixels = (output.width * output.height) / 1e6;
  const decode = isFirst ? ((facts.width * facts.height) / 1e6) * MASTER_TYPES[facts.format].decodeMs : 0;
  return Math.round(EACH + decode + megapixels * (PIXELS + tries * FILE_TYPES[settings.type].encodeMs));
}

/** What was expected and what it took, of the outputs that were made last. */
export interface Pace {
  type: FileTypeName;
  expectedMs: number;
  ms: number;
  count: number;
}

/** Outputs of a type from which its own pace is trusted. */
const ENOUGH = 8;

/**
 * How long a run will take, in ms.
 * @param outputs what is to be made
 * @param paces what this machine has done so far, by type; nothing: it is taken for an ordinary one
 * @param workers how many work at once
 * @param slower how many times as long everything takes at present, see {@link slowerBy}
 */
export function runTime(
  outputs: readonly { type: FileTypeName; expectedMs: number }[],
  paces: readonly Pace[],
  workers: number,
  slower = 1,
): number {
  const sum = (of: readonly Pace[], key: 'ms' | 'expectedMs' | 'count') => of.reduce((total, pace) => total + pace[key], 0);
  const overall = sum(paces, 'count') >= ENOUGH && sum(paces, 'expectedMs') > 0 ? sum(paces, 'ms') / sum(paces, 'expectedMs') : 1;
  const factorOf = (type: FileTypeName) => {
    const own = paces.filter((pace) => pace.type === type);
    return sum(own, 'count') >= ENOUGH && sum(own, 'expectedMs') > 0 ? sum(own, 'ms') / sum(own, 'expectedMs') : overall;
  };
  const factors = new Map<FileTypeName, number>();
  let total = 0;
  for (const { type, expectedMs: expected } of outputs) {
    if (!factors.has(type)) factors.set(type, factorOf(type));
    total += expected * factors.get(type)!;
  }
  return Math.round((slower * total) / Math.max(1, workers));
}

/**
 * How many times as long a machine takes that does something else as well: processes that want to work share its cores evenly.
 * @param load processes that want to work now, in the mean of the last minute, @param workers of ours that will join them
 */
export const slowerBy = (load: number, workers: number, cores: number): number => Math.max(1, (load + workers) / Math.max(1, cores));
