import { createHash } from 'node:crypto';
import { dirname, join } from 'node:path';
import {
  type CreditLine,
  creditLines,
  type FileTypeName,
  type Finding,
  finding,
  type Forecast,
  forecast,
  fileSafe,
  folderSafe,
  hasDetails,
  type HouseRules,
  joinPath,
  notWritable,
  OnceByPreset,
  Place,
  planMasterOf,
  type PlanMaster,
  type PlannedOutput,
  planRun,
  type Preset,
  presetWithOverrides,
  type Problem,
  recipeTexts,
  runTime,
  type StoredPreset,
  StudioDetails,
  varied,
  withOwn,
} from '@rundle/core';
import {
  type Database,
  loadMasters,
  type MadeOf,
  type MasterRecord,
  overridesOf,
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
import { paceOf } from './pace';
import { madeOf, MadeBefore, shortOf, type Wanted } from './standing';

export interface SetPlan {
  masters: MasterRecord[];
  presets: StoredPreset[];
  outputs: PlannedOutput[];
  /** What is to be said once, of the whole plan. */
  notices: Finding[];
  credits: CreditLine[];
  /** What an output of this plan is made of. */
  wanted: (masterId: string, presetId: string) => { recipe: string; madeOf: MadeOf };
  place: Place;
  once: OnceByPreset;
  /** Room where the files go, bytes. */
  freeBytes: number | null;
  placeProblem: Problem | null;
  timeMs: number;
  /** Rundle's own folder for the set, or the folder of the machine; null: those of the masters. */
  target: string | null;
  /** What fills missing rights: the studio's details under those of the set. */
  details: StudioDetails;
  house: HouseRules | null;
}

/**
 * Where the outputs of a set go in Rundle's own tree. The title at its first run names the folder, for good: links, lists and runs go by it,
 * and a new title moves nothing.
 */
export const ownTarget = ({ id, title, target }: SetRow): string => target ?? `${fileSafe(title)} ${id.slice(0, 8)}`;

/** The target that all outputs of a set share; null: each has that of its master. */
export function sharedTarget(set: SetRow): string | null {
  const place = Place.parse(set.place);
  return place.kind === 'own' ? ownTarget(set) : place.kind === 'folder' ? place.path : null;
}

/** How old a look at the disk may be for a plan that only is shown, in ms; what is run is looked at anew. */
const LOOK_KEPT = 5000;

/**
 * Plans a run over a set as it stands now.
 * @param transaction in which everything is looked up, when the plan is carried out at once
 * @throws HttpProblem 409 while pictures are still arriving, 404 for a preset that is gone
 */
export async function planSet(
  { database, files }: Stores,
  set: SetRow,
  wantedIds: readonly string[],
  transaction?: Transaction,
): Promise<SetPlan> {
  const within = transaction ? { transaction } : {};
  const presetIds = [...new Set(wantedIds)];
  const masters = await loadMasters(database, set.id, within);
  const wanted = masters.filter(({ choice }) => choice !== 'out');
  const arriving = masters.filter(({ state }) => state === 'arriving').length;
  if (arriving) throw requestProblem('still-arriving', `${arriving} pictures are still being read. Plan again in a moment.`);
  const once = OnceByPreset.parse(set.once);
  const stored = await listPresets(database, presetIds, transaction);
  if (stored.length < presetIds.length) throw requestProblem('not-found', 'One of the chosen presets has been deleted. Choose again.');
  const presets = stored.map((one) => ({ ...one, preset: sameObject(`${one.id} ${one.version}`, varied(one.preset, once[one.id])) }));
  const studio = StudioDetails.parse((await database.studio.findByPk(1, within))?.details ?? {});
  const own = StudioDetails.parse(set.rights);
  const details = withOwn(studio, own);
  const found = await houseRulesOf(database, set, transaction);
  const house = found && sameObject(`house ${set.houseRulesId}`, found);
  const writable = await writableTypes(database.sequelize, transaction);
  const marks = new Map<string, WatermarkRow | Problem | null>();
  for (const { id, preset } of presets) marks.set(id, preset.mark && (await watermarkOf(database, preset.mark.watermark, transaction)));

  const place = Place.parse(set.place);
  const target = sharedTarget(set);
  const targetOf = ({ sourcePath, fileName }: MasterRecord): string | Problem => {
    if (place.kind !== 'masters') return target!;
    return sourcePath === null ? noOwnFolder(fileName) : join(dirname(sourcePath), place.folder);
  };
  const targets = [...new Set(wanted.flatMap((master) => (typeof targetOf(master) === 'string' ? [targetOf(master) as string] : [])))];
  const folders = presets.map(({ preset }) => folderSafe(preset.folder));
  const refusals = new Map<string, Problem>();
  for (const one of targets) {
    const refusal = await files.outputs.refusal(one);
    if (refusal) refusals.set(one, refusal);
  }
  // A folder of a preset that is a link to elsewhere: only what would go there is refused.
  const linked = await Promise.all(
    folders.map(async (folder) => {
      const found = await Promise.all(targets.filter((one) => !refusals.has(one)).map((one) => files.outputs.refusal(one, folder)));
      return found.find((problem) => problem !== null) ?? null;
    }),
  );
  const before = await MadeBefore.of(database, files.outputs, targets, folders, transaction ? 0 : LOOK_KEPT, transaction);
  const makers = new Makers(presets, details, marks, once);
  const byId = new Map(masters.map((master) => [master.id, master]));
  const outputs = planRun({
    setTitle: set.title,
    masters: wanted.map(planMaster),
    house,
    fills: hasDetails(details),
    presets: presets.map(({ id, preset }, at) => {
      const mark = marks.get(id);
      const unmarked = mark && 'code' in mark ? mark : null;
      return { id, preset, problem: writable.has(preset.file.type) ? (unmarked ?? linked[at]!) : notWritable(preset.file.type) };
    }),
    targetOf: ({ id }) => {
      const at = targetOf(byId.get(id)!);
      return typeof at === 'string' && place.kind === 'masters' ? (refusals.get(at) ?? at) : at;
    },
    standing: (at, path, masterId, presetId) => before.at(at, path, makers.wanted(byId.get(masterId)!, presetId)),
  });
  const notices = [...engineNotices(outputs, before), ...versionNotices(presets, before)];
  const credits = creditLines(creditedMasters(outputs, byId, presets), studio, own);
  const { paces, workers } = await paceOf(database);
  const typeOf = new Map<string, FileTypeName>(presets.map(({ id, preset }) => [id, preset.file.type]));
  const planned = outputs.filter((output) => output.status === 'planned');
  return {
    masters,
    presets,
    outputs,
    notices,
    credits,
    wanted: (masterId, presetId) => {
      const { recipe, madeOf: of } = makers.wanted(byId.get(masterId)!, presetId);
      return { recipe: recipe(), madeOf: of };
    },
    place,
    once,
    freeBytes: await files.outputs.freeBytes(targets[0]),
    placeProblem: place.kind === 'folder' ? (refusals.get(place.path) ?? null) : null,
    timeMs: runTime(
      planned.map(({ presetId, expectedMs }) => ({ type: typeOf.get(presetId)!, expectedMs })),
      paces,
      workers,
    ),
    target,
    details,
    house,
  };
}

/** What outputs are made of; what many masters share is worked out once. */
class Makers {
  private readonly versions: ReadonlyMap<string, { preset: Preset; version: number }>;
  private readonly texts = new Map<string, (master: string) => string>();
  private readonly shared = new Map<string, MadeOf>();

  constructor(
    presets: readonly StoredPreset[],
    private readonly details: StudioDetails,
    private readonly marks: ReadonlyMap<string, WatermarkRow | Problem | null>,
    private readonly once: OnceByPreset,
  ) {
    this.versions = new Map(presets.map(({ id, preset, version }) => [id, { preset, version }]));
  }

  wanted(master: MasterRecord, presetId: string): Wanted {
    const { preset, version } = this.versions.get(presetId)!;
    const mark = this.marks.get(presetId);
    // Watermarks are never changed, only replaced by others, so that the id stands for the content.
    const watermark = mark && 'kind' in mark ? mark.id : null;
    const sha256 = master.sha256 ?? '';
    let shared = this.shared.get(presetId);
    if (!shared) this.shared.set(presetId, (shared = madeOf('', this.details, watermark, this.once[presetId])));
    return {
      masterId: master.id,
      presetId,
      version,
      madeOf: { ...shared, master: sha256.slice(0, 16) },
      recipe: () => {
        const overrides = overridesOf(master);
        const key = `${presetId} ${JSON.stringify(overrides)}`;
        let text = this.texts.get(key);
        if (!text)
          this.texts.set(key, (text = recipeTexts({ preset: presetWithOverrides(preset, overrides), studio: this.details, watermark })));
        return createHash('sha256').update(text(sha256)).digest('hex');
      },
    };
  }
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

const noOwnFolder = (file: string): Problem => ({
  code: 'no-own-folder',
  field: 'place',
  file,
  message: 'It was uploaded, so that it lies in no folder of its own. Choose another place for the files, or leave it out.',
});

/** That a new engine makes everything anew is said once, not in every cell. */
function engineNotices(outputs: readonly PlannedOutput[], before: MadeBefore): Finding[] {
  const old = outputs.filter(
    (output) => output.status === 'planned' && before.isOfEarlierEngine(output.target, joinPath(output.folder, output.fileName)),
  ).length;
  if (old === 0) return [];
  const files = old === 1 ? '1 file' : `${old.toLocaleString('en-GB')} files`;
  const message = `${files} made by an earlier version of Rundle will be made again: this version makes them slightly differently.`;
  return [finding('earlier-engine', message)];
}

/** That what is out was made by an earlier version of its preset. */
const versionNotices = (presets: readonly StoredPreset[], before: MadeBefore): Finding[] =>
  presets.flatMap(({ id, version, preset }) => {
    const { files, earliest } = before.ofEarlierVersions(id, version);
    if (files === 0) return [];
    const made = files === 1 ? '1 file that is out was' : `${files.toLocaleString('en-GB')} files that are out were`;
    return [finding('earlier-version', `${preset.title}: ${made} made by version ${earliest}; the preset is at version ${version}.`)];
  });

/** What a preset would make of a set as it stands now. */
export async function forecastOf(database: Database, set: SetRow, preset: Preset): Promise<Forecast> {
  const masters = (await loadMasters(database, set.id)).filter(({ choice, state }) => choice !== 'out' && state === 'ready');
  return forecast(preset, masters.map(planMaster), set.title);
}

function creditedMasters(outputs: readonly PlannedOutput[], masters: ReadonlyMap<string, MasterRecord>, presets: readonly StoredPreset[]) {
  const presetOf = new Map(presets.map(({ id, preset }) => [id, preset]));
  const presetsOf = new Map<string, Preset[]>();
  for (const { status, masterId, presetId } of outputs) {
    const preset = presetOf.get(presetId);
    if (status === 'failed' || status === 'not-for' || !preset) continue;
    const own = presetsOf.get(masterId);
    if (own) own.push(preset);
    else presetsOf.set(masterId, [preset]);
  }
  return [...presetsOf].flatMap(([masterId, own]) => {
    const master = masters.get(masterId);
    const read = master && vetMaster(master).read;
    return master && read?.ok ? [{ facts: read.facts, overrides: overridesOf(master), presets: own }] : [];
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
