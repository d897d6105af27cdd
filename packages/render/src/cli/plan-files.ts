import { existsSync, realpathSync } from 'node:fs';
import { basename, dirname, join, resolve } from 'node:path';
import {
  carriedFacts,
  chosenPage,
  COMPARABLE_FROM,
  type DecidedPictures,
  type Decisions,
  decisionsIn,
  ENGINE,
  type Making,
  makingOf,
  markText,
  NO_DECISIONS,
  NOTHING_SALIENT,
  notWritable,
  type OutputOf,
  partPreset,
  planRun,
  type PlanMaster,
  type PlannedOutput,
  type Preset,
  type Problem,
  problemOf,
  recipeText,
  hasDetails,
  idsByTitle,
  type StudioDetails,
  type Watermark,
  isAvifWeighed,
} from '@rundle/core';
import { sha256Of } from '@rundle/place';
import type { Renderer } from '../pool/renderer';
import { isWritable } from '../types/on-this-machine';
import type { TargetRecord } from './record';
import type { ReadyPreset } from './call';
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
  { command, presets, out, set, studio, decisions, quick, again, sync }: RenderCall,
  record: TargetRecord,
): Promise<FilePlan> {
  const weighs = command === 'plan' && !quick ? { withAvif: presets.some(({ preset }) => preset.file.type === 'avif') } : null;
  const read = await Promise.all(
    files.map(async (file) =>
      withSalience(pool, await readMaster(pool, file, record, weighs, decisions && decidedBy(decisions, presets)), presets, record),
    ),
  );
  const masters = [...read, ...problems.map(missingMaster)];
  const originals = new Set(files.map((file) => realOf(file)));
  const earlier = new Set<string>();
  const synced = sync ? await Sync.of(resolve(out), masters, presets) : null;
  const byId = new Map(masters.map((master) => [master.id, master]));
  const madeBy = (path: string, { masterId, presetId, part }: OutputOf) => {
    const { preset, watermark } = presets[Number(presetId)]!;
    const making = makingOfFile(byId.get(masterId), partPreset(preset, part));
    return making ? ENGINES.find((engine) => record.holds(path, recipeOf(record, masterId, making, watermark, studio, engine))) : undefined;
  };
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
    ...synced?.request((path, output) => isUpToDate(madeBy(path, output))),
    standing: (_, path, output) => {
      const target = join(resolve(out), path);
      if (!existsSync(target)) return { is: 'free' };
      if (originals.has(realOf(target))) return { is: 'master' };
      const earlierFile = synced?.at(path);
      if (earlierFile) return earlierFile;
      if (careful && !record.isOurs(path)) return { is: 'stranger' };
      const engine = madeBy(path, output);
      if (engine !== undefined && engine !== ENGINE && !again) earlier.add(path);
      return { is: 'ours', upToDate: isUpToDate(engine), stale: null, made: null };
    },
  });
  return { masters, outputs, earlier: earlier.size, sync: synced };
}

/** Engines whose outputs can be known by their recipe, this one first. */
const ENGINES = Array.from({ length: ENGINE - COMPARABLE_FROM + 1 }, (_, before) => ENGINE - before);

/** How a preset of the command line is made of a file; null: it could not be read. */
export const makingOfFile = (master: PlanMaster | undefined, preset: Preset): Making | null =>
  master?.read.ok ? makingOf(master.read.facts, preset, null, master.decisions ?? NO_DECISIONS) : null;

/** What decides the content of an output of the command line. */
export const recipeOf = (
  record: TargetRecord,
  master: string,
  { preset }: Pick<Making, 'preset'>,
  watermark: Watermark | null,
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

/** What a file of decisions says of a picture, by its content. */
function decidedBy(decisions: DecidedPictures, presets: readonly ReadyPreset[]): (sha256: string) => Decisions {
  const ids = idsByTitle(presets.map(({ preset: { title } }, at) => ({ id: String(at), title })));
  return (sha256) => decisionsIn(decisions.get(sha256), ids);
}

/** A master that is looked at where a crop has to be proposed. */
async function withSalience(
  pool: Renderer,
  master: PlanMaster,
  presets: readonly ReadyPreset[],
  record: TargetRecord,
): Promise<PlanMaster> {
  if (!master.read.ok || master.read.facts.salience) return master;
  if (!presets.some(({ preset }) => preset.size.ratio && makingOfFile(master, preset)?.cutBy === 'middle')) return master;
  const { facts } = master.read;
  const salience = await pool.salience(master.id, facts).catch(() => NOTHING_SALIENT); // what is wrong with it is told when it is rendered
  // What was decided is not what the file says.
  const page = chosenPage(master.decisions?.page ?? null);
  record.keepFacts(master.id, page, { ...(record.factsOf(master.id, page) ?? facts), salience });
  return { ...master, read: { ok: true, facts: { ...facts, salience } } };
}

async function readMaster(
  pool: Renderer,
  file: string,
  record: TargetRecord,
  weighs: { withAvif: boolean } | null,
  decided: ((sha256: string) => Decisions) | null,
): Promise<PlanMaster> {
  const about = { id: file, fileName: basename(file) };
  try {
    const decisions = decided ? decided(await sha256Of(file)) : NO_DECISIONS;
    const page = chosenPage(decisions.page);
    const known = record.factsOf(file, page);
    const read = known ?? (await pool.facts(file, null, page));
    const isOpen = weighs && (!read.finelyWeighed || (weighs.withAvif && !isAvifWeighed(read)));
    const facts = isOpen
      ? { ...read, weighings: await pool.weigh(file, read, { small: true, fine: true, ...weighs }), finelyWeighed: true }
      : read;
    if (facts !== known) record.keepFacts(file, page, facts);
    const counting = carriedFacts(facts, decisions);
    return { ...about, read: { ok: true, facts: counting }, rating: facts.rating ?? 0, tags: facts.keywords, decisions };
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
