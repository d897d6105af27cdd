import { existsSync, realpathSync } from 'node:fs';
import { basename, dirname, join, resolve } from 'node:path';
import {
  COMPARABLE_FROM,
  ENGINE,
  markText,
  notWritable,
  planRun,
  type PlanMaster,
  type PlannedOutput,
  type Problem,
  problemOf,
  recipeText,
  hasDetails,
  type StudioDetails,
} from '@rundle/core';
import type { Renderer } from '../pool/renderer';
import { isWritable } from '../types/on-this-machine';
import type { ReadyPreset } from './call';
import type { TargetRecord } from './record';
import type { RenderCall, Work } from './render';
import { Sync } from './sync';

export interface FilePlan {
  masters: PlanMaster[];
  outputs: PlannedOutput[];
  /** How many files an earlier engine made that stay as they are. */
  earlier: number;
  /** Files of the call before, where they give way; null: they are nothing special. */
  sync: Sync | null;
}

/**
 * Plans a run over files on disk: reads the facts of each, then asks the core. Ids are the paths and the preset's place. Files that could
 * not even be found stay in the plan as failures. For `plan`, parts of each are weighed, unless weights may be guessed.
 */
export async function planFiles(
  pool: Renderer,
  { files, problems, careful = false }: Work,
  { command, presets, out, set, studio, quick, again, sync }: RenderCall,
  record: TargetRecord,
): Promise<FilePlan> {
  const weighs = command === 'plan' && !quick;
  const masters = [...(await Promise.all(files.map((file) => readMaster(pool, file, record, weighs)))), ...problems.map(missingMaster)];
  const originals = new Set(files.map((file) => realOf(file)));
  const earlier = new Set<string>();
  const synced = sync ? await Sync.of(resolve(out), masters, presets) : null;
  const madeBy = (path: string, masterId: string, presetId: string) =>
    ENGINES.find((engine) => record.holds(path, recipeOf(record, masterId, presets[Number(presetId)]!, studio, engine)));
  const isUpToDate = (engine: number | undefined) => engine !== undefined && (engine === ENGINE || !again);
  const outputs = planRun({
    setTitle: set ?? basename(dirname(files[0] ?? resolve(out))),
    masters,
    fills: hasDetails(studio),
    presets: presets.map(({ preset }, index) => ({
      id: String(index),
      preset,
      problem: isWritable(preset.file.type) ? null : notWritable(preset.file.type),
    })),
    ...synced?.request((path, masterId, presetId) => isUpToDate(madeBy(path, masterId, presetId))),
    standing: (_, path, masterId, presetId) => {
      const target = join(resolve(out), path);
      if (!existsSync(target)) return { is: 'free' };
      if (originals.has(realOf(target))) return { is: 'master' };
      const earlierFile = synced?.at(path);
      if (earlierFile) return earlierFile;
      if (careful && !record.isOurs(path)) return { is: 'stranger' };
      const engine = madeBy(path, masterId, presetId);
      if (engine !== undefined && engine !== ENGINE && !again) earlier.add(path);
      return { is: 'ours', upToDate: isUpToDate(engine), stale: null, made: null };
    },
  });
  return { masters, outputs, earlier: earlier.size, sync: synced };
}

/** Engines whose outputs can be known by their recipe, this one first. */
const ENGINES = Array.from({ length: ENGINE - COMPARABLE_FROM + 1 }, (_, before) => ENGINE - before);

/** What decides the content of an output of the command line. */
export const recipeOf = (
  record: TargetRecord,
  master: string,
  { preset, watermark }: ReadyPreset,
  studio: StudioDetails,
  engine = ENGINE,
): string =>
  recipeText({
    engine,
    master: record.identity(master),
    preset,
    studio,
    watermark: watermark && markText(watermark, (data) => Buffer.from(data).toString('base64')),
  });

async function readMaster(pool: Renderer, file: string, record: TargetRecord, weighs: boolean): Promise<PlanMaster> {
  const about = { id: file, fileName: basename(file) };
  try {
    const known = record.factsOf(file);
    const read = known ?? (await pool.facts(file, null));
    const facts = weighs && !read.finelyWeighed ? { ...read, weighings: await pool.weigh(file, read, true), finelyWeighed: true } : read;
    if (facts !== known) record.keepFacts(file, facts);
    return { ...about, read: { ok: true, facts }, rating: facts.rating ?? 0, tags: facts.keywords };
  } catch (error) {
    return { ...about, read: { ok: false, problem: problemOf(error, 'unreadable') }, rating: 5, tags: [] };
  }
}

const missingMaster = (problem: Problem): PlanMaster => ({
  id: problem.file ?? '',
  fileName: basename(problem.file ?? ''),
  read: { ok: false, problem },
  rating: 5,
  tags: [],
});

function realOf(path: string): string {
  try {
    return realpathSync.native(path); // asks the system once, not once per folder on the way
  } catch {
    return path;
  }
}
