import { availableParallelism, loadavg } from 'node:os';
import {
  type CreditLine,
  creditLines,
  type EarlierFate,
  ENGINE,
  type FileTypeName,
  type Finding,
  type Forecast,
  forecast,
  type NewName,
  newNames,
  hasDetails,
  type HouseRules,
  type Move,
  movesOf,
  notWritable,
  outputKey,
  OnceByPreset,
  type OutputOf,
  Place,
  placeOfPreset,
  planMasterOf,
  type PlanMaster,
  type PlannedOutput,
  planRun,
  type Preset,
  type Problem,
  runTime,
  slowerBy,
  type StoredPreset,
  StudioDetails,
  varied,
  withOwn,
} from '@rundle/core';
import {
  type Database,
  decisionsOf,
  loadMasters,
  type MadeOf,
  type MasterRecord,
  type RunScope,
  type SetRow,
  vetMaster,
  type WatermarkRow,
  writableTypes,
} from '@rundle/store';
import type { Transaction } from 'sequelize';
import type { Stores } from '../services';
import { requestProblem } from '../http/problem';
import { listPresets } from '../presets/stored';
import { houseRulesOf } from '../vet/vet-set';
import { watermarkOf } from '../watermarks/named';
import { Makers, type MarkByPreset } from './makers';
import { type MachinePace, paceOf } from './pace';
import { planNotices } from './plan-notices';
import { MadeBefore, shortOf } from './standing';
import { targetsOf } from './targets';

export interface SetPlan {
  masters: MasterRecord[];
  presets: StoredPreset[];
  outputs: PlannedOutput[];
  /** What is to be said once, of the whole plan. */
  notices: Finding[];
  /** What becomes of files of earlier runs when those at an earlier name or place go. */
  moves: Move[];
  credits: CreditLine[];
  /** What an output of this plan is made of. */
  wanted: (output: OutputOf) => { recipe: string; madeOf: MadeOf };
  place: Place;
  once: OnceByPreset;
  /** Room where the files go, bytes. */
  freeBytes: number | null;
  placeProblem: Problem | null;
  timeMs: number;
  /** Rundle's own folder for the set, or the folder of the machine; null: those of the masters. */
  target: string | null;
  /** Rundle's own folder for the set, where anything goes there. */
  own: string | null;
  /** What fills missing rights: the studio's details under those of the set. */
  details: StudioDetails;
  house: HouseRules | null;
}

/** How old a look at the disk may be for a plan that only is shown, in ms; what is run is looked at anew. */
const LOOK_KEPT = 1000;

/** What to plan. */
export interface PlanWish {
  presetIds: readonly string[];
  /** What becomes of files of an earlier name or place. */
  earlier: EarlierFate;
  /** What the run is confined to. */
  scope?: RunScope;
}

/** Whether an output is one of a run. */
function scopeOf({ masterIds, pairs }: RunScope): (output: OutputOf) => boolean {
  const masters = masterIds && new Set(masterIds);
  // Without a part a pair stands for all files of its picture and preset.
  const named = pairs && new Set(pairs.map(({ part = '', ...pair }) => outputKey({ ...pair, part })));
  return (output) =>
    (!masters || masters.has(output.masterId)) && (!named || named.has(outputKey(output)) || named.has(outputKey({ ...output, part: '' })));
}

/** What a plan is made from, as it stands now. */
interface Asked {
  masters: MasterRecord[];
  presets: StoredPreset[];
  once: OnceByPreset;
  /** The studio's own details, those of the set, and both together. */
  studio: StudioDetails;
  own: StudioDetails;
  details: StudioDetails;
  house: HouseRules | null;
  writable: ReadonlySet<FileTypeName>;
  marks: MarkByPreset;
}

/**
 * Plans a run over a set as it stands now.
 * @param transaction in which everything is looked up, when the plan is carried out at once
 * @throws HttpProblem 409 while pictures are still arriving, 404 for a preset that is gone
 */
export async function planSet(
  { database, files }: Stores,
  set: SetRow,
  { presetIds: wantedIds, earlier, scope = {} }: PlanWish,
  transaction?: Transaction,
): Promise<SetPlan> {
  // Each is a call of the database or of the disk that waits for none of the others.
  const [asked, pace] = await Promise.all([lookUp(database, set, wantedIds, transaction), paceOf(database)]);
  const { masters, presets, details, house, once } = asked;
  const wanted = masters.filter(({ choice }) => choice !== 'out');
  const ofSet = Place.parse(set.place);
  const placed = presets.map(({ id, preset }) => ({
    id,
    folder: preset.folder,
    place: placeOfPreset(preset, once[id]?.place, ofSet),
  }));
  const targets = await targetsOf(files.outputs, set, wanted, placed);
  const since = transaction ? 0 : LOOK_KEPT;
  const wish = { setId: set.id, presetIds: presets.map(({ id }) => id), since, again: set.remakeBy === ENGINE };
  const [before, freeBytes] = await Promise.all([
    MadeBefore.of(database, files.outputs, targets, wish, transaction),
    files.outputs.freeBytes(targets.all[0]),
  ]);
  const makers = new Makers(presets, details, asked.marks, once);
  const byId = new Map(masters.map((master) => [master.id, master]));
  const isInRun = scopeOf(scope);
  const isWhole = scope.masterIds === undefined && scope.pairs === undefined;
  const goes = { removed: earlier === 'go' && isWhole, copies: earlier === 'go' && isWhole && set.copies === 'go' };
  const wantedOf = (output: OutputOf) => makers.wanted(byId.get(output.masterId)!, output);
  const planned = planRun({
    setTitle: set.title,
    masters: wanted.map(planMaster),
    house,
    fills: hasDetails(details),
    presets: presets.map(({ id, preset }, at) => ({ id, preset, problem: presetProblem(asked, id, preset, targets.ofPresets[at]!) })),
    targetOf: ({ id }, presetId) => targets.of(byId.get(id)!, presetId),
    standing: (at, path) => before.at(at, path, goes),
    current: (output) => before.currentOf(output, wantedOf),
    weightBefore: (output, fileName) => before.weightBefore(output, wantedOf, fileName),
    earlier,
    isInRun,
  });
  const outputs = isWhole ? planned : planned.filter(isInRun);
  const moves = movesOf(outputs, before.files(), isWhole);
  return {
    masters,
    presets,
    outputs,
    moves,
    notices: planNotices(outputs, presets, before, wantedOf),
    credits: creditLines(creditedMasters(outputs, byId, presets), asked.studio, asked.own),
    wanted: (output) => {
      const { recipe, madeOf } = wantedOf(output);
      return { recipe: recipe(), madeOf };
    },
    place: targets.place,
    once,
    freeBytes,
    placeProblem: targets.problem,
    timeMs: timeOf(pace, outputs, presets),
    target: targets.shared,
    own: targets.own,
    details,
    house,
  };
}

/** @throws HttpProblem 409 while pictures are still arriving, 404 for a preset that is gone */
async function lookUp(database: Database, set: SetRow, wantedIds: readonly string[], transaction?: Transaction): Promise<Asked> {
  const within = transaction ? { transaction } : {};
  const presetIds = [...new Set(wantedIds)];
  const [masters, stored, studioRow, house, writable] = await answersTo(
    [
      () => loadMasters(database, set.id, within),
      () => listPresets(database, presetIds, transaction),
      () => database.studio.findByPk(1, within),
      () => houseRulesOf(database, set, transaction),
      () => writableTypes(database.sequelize, transaction),
    ],
    transaction,
  );
  const arriving = masters.filter(({ state }) => state === 'arriving').length;
  if (arriving) throw requestProblem('still-arriving', `${arriving} pictures are still being read. Plan again in a moment.`);
  if (stored.length < presetIds.length) throw requestProblem('not-found', 'One of the chosen presets has been deleted. Choose again.');
  const once = OnceByPreset.parse(set.once);
  const presets = stored.map((one) => ({ ...one, preset: sameObject(`${one.id} ${one.version}`, varied(one.preset, once[one.id])) }));
  const studio = StudioDetails.parse(studioRow?.details ?? {});
  const own = StudioDetails.parse(set.rights);
  const marks = new Map<string, WatermarkRow | Problem | null>();
  for (const { id, preset } of presets) marks.set(id, preset.mark && (await watermarkOf(database, preset.mark.watermark, transaction)));
  return {
    masters,
    presets,
    once,
    studio,
    own,
    details: withOwn(studio, own),
    house: house && sameObject(`house ${set.houseRulesId}`, house),
    writable,
    marks,
  };
}

/** Asks all at once; a transaction has one connection, which answers one question after the other. */
async function answersTo<T extends readonly unknown[]>(
  questions: { [At in keyof T]: () => Promise<T[At]> },
  transaction?: Transaction,
): Promise<T> {
  if (!transaction) return (await Promise.all(questions.map((ask) => ask()))) as unknown as T;
  const answers: unknown[] = [];
  for (const ask of questions) answers.push(await ask());
  return answers as unknown as T;
}

/** Why nothing can be made by a preset; null: it can. @param elsewhere why its folder cannot be written to */
function presetProblem({ writable, marks }: Asked, id: string, { file }: Preset, elsewhere: Problem | null): Problem | null {
  if (!writable.has(file.type)) return notWritable(file.type);
  const mark = marks.get(id);
  return mark && 'code' in mark ? mark : elsewhere;
}

function timeOf({ paces, workers }: MachinePace, outputs: readonly PlannedOutput[], presets: readonly StoredPreset[]): number {
  const typeOf = new Map<string, FileTypeName>(presets.map(({ id, preset }) => [id, preset.file.type]));
  const planned = outputs.filter((output) => output.status === 'planned');
  return runTime(
    planned.map(({ presetId, expectedMs }) => ({ type: typeOf.get(presetId)!, expectedMs })),
    paces,
    workers,
    slowerBy(loadavg()[0]!, workers, availableParallelism()),
  );
}

/** Presets and rules as they were parsed first: what was worked out with the same object need not be worked out again. */
const objects = new Map<string, object>();
const MOST_OBJECTS = 500;

function sameObject<T extends object>(name: string, value: T): T {
  const key = `${name} ${shortOf(value)}`;
  const known = objects.get(key);
  if (known) return known as T;
  objects.set(key, value);
  for (const oldest of objects.keys()) if (objects.size > MOST_OBJECTS) objects.delete(oldest);
  return value;
}

/** What a preset would make of a set as it stands now. */
export async function forecastOf(database: Database, set: SetRow, preset: Preset): Promise<Forecast> {
  const { ready, arriving } = await whatIsRead(database, set);
  return forecast(preset, ready.map(planMaster), set.title, arriving.length);
}

/** The names that it would give. */
export async function newNamesOf(database: Database, set: SetRow, preset: Preset): Promise<NewName[]> {
  return newNames(preset, (await whatIsRead(database, set)).ready.map(planMaster), set.title);
}

async function whatIsRead(database: Database, set: SetRow): Promise<Record<'ready' | 'arriving', MasterRecord[]>> {
  const masters = (await loadMasters(database, set.id)).filter(({ choice }) => choice !== 'out');
  const of = (wanted: MasterRecord['state']) => masters.filter(({ state }) => state === wanted);
  return { ready: of('ready'), arriving: of('arriving') };
}

function creditedMasters(outputs: readonly PlannedOutput[], masters: ReadonlyMap<string, MasterRecord>, presets: readonly StoredPreset[]) {
  const presetOf = new Map(presets.map(({ id, preset }) => [id, preset]));
  const presetsOf = new Map<string, { id: string; preset: Preset }[]>();
  for (const { status, masterId, presetId } of outputs) {
    const preset = presetOf.get(presetId);
    if (status === 'failed' || status === 'not-for' || !preset) continue;
    const own = presetsOf.get(masterId);
    const made = { id: presetId, preset };
    if (own) own.push(made);
    else presetsOf.set(masterId, [made]);
  }
  return [...presetsOf].flatMap(([masterId, own]) => {
    const master = masters.get(masterId);
    const read = master && vetMaster(master).read;
    return master && read?.ok ? [{ facts: read.facts, decisions: decisionsOf(master), presets: own }] : [];
  });
}

/** Worked out once of the same row, so that what is worked out from it is kept, too. */
const planMasters = new WeakMap<MasterRecord, PlanMaster>();

function planMaster(row: MasterRecord): PlanMaster {
  const known = planMasters.get(row);
  if (known) return known;
  const master = planMasterOf(vetMaster(row));
  // Unreadable pictures are shown in every column, so that they are not overlooked.
  const planned = master.read.ok ? master : { ...master, rating: 5 };
  planMasters.set(row, planned);
  return planned;
}
