import {
  type CreditLine,
  creditLines,
  type Finding,
  finding,
  type Forecast,
  forecast,
  fileSafe,
  type HouseRules,
  joinPath,
  notWritable,
  planMasterOf,
  type PlanMaster,
  type PlannedOutput,
  planRun,
  type Preset,
  type Problem,
  type StoredPreset,
  StudioDetails,
  presetWithOverrides,
  withOwn,
} from '@rundle/core';
import {
  type Database,
  loadMasters,
  type MasterRecord,
  type SetRow,
  overridesOf,
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
import { MadeBefore, recipeOf } from './recipes';

export interface SetPlan {
  masters: MasterRecord[];
  presets: StoredPreset[];
  outputs: PlannedOutput[];
  /** What is to be said once, of the whole plan. */
  notices: Finding[];
  credits: CreditLine[];
  /** The recipe of an output of this plan. */
  recipe: (masterId: string, presetId: string) => string;
  /** Where the outputs go. */
  target: string;
  /** What fills missing rights: the studio's details under those of the set. */
  details: StudioDetails;
  house: HouseRules | null;
}

/**
 * Where the outputs of a set go. The title at its first run names the folder, for good: links, lists and runs go by it, and a new
 * title moves nothing.
 */
export const targetOf = ({ id, title, target }: SetRow): string => target ?? `${fileSafe(title)} ${id.slice(0, 8)}`;

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
  const presets = await listPresets(database, presetIds, transaction);
  if (presets.length < presetIds.length) throw requestProblem('not-found', 'One of the chosen presets has been deleted. Choose again.');
  const target = targetOf(set);
  const studio = StudioDetails.parse((await database.studio.findByPk(1, within))?.details ?? {});
  const own = StudioDetails.parse(set.rights);
  const details = withOwn(studio, own);
  const house = await houseRulesOf(database, set, transaction);
  const writable = await writableTypes(database.sequelize, transaction);
  const marks = new Map<string, WatermarkRow | Problem | null>();
  for (const { id, preset } of presets) marks.set(id, preset.mark && (await watermarkOf(database, preset.mark.watermark, transaction)));
  const standing = await files.outputs.list(target);
  const before = await MadeBefore.of(database, target, standing);
  const byId = new Map(masters.map((master) => [master.id, master]));
  const recipe = (masterId: string, presetId: string): string => {
    const mark = marks.get(presetId);
    const master = byId.get(masterId);
    const { preset } = presets.find(({ id }) => id === presetId)!;
    const applied = master ? presetWithOverrides(preset, overridesOf(master)) : preset;
    return recipeOf(master?.sha256 ?? '', applied, details, mark && 'kind' in mark ? mark : null);
  };
  const outputs = planRun({
    setTitle: set.title,
    masters: wanted.map(planMaster),
    house,
    presets: presets.map(({ id, preset }) => {
      const mark = marks.get(id);
      const unmarked = mark && 'code' in mark ? mark : null;
      return { id, preset, problem: writable.has(preset.file.type) ? unmarked : notWritable(preset.file.type) };
    }),
    unchanged: (path, masterId, presetId) => before.holds(path, recipe(masterId, presetId)),
    // Masters lie in the store, never in the output tree, so that only outputs can stand here.
    occupied: (path) => (standing.has(path) ? 'file' : 'free'),
  });
  const notices = [...noticesOf(outputs, before), ...versionNotices(presets, before)];
  const credits = creditLines(creditedMasters(outputs, byId, presets), studio, own);
  return { masters, presets, outputs, notices, credits, recipe, target, details, house };
}

/** That a new engine makes everything anew is said once, not in every cell. */
function noticesOf(outputs: readonly PlannedOutput[], before: MadeBefore): Finding[] {
  const old = outputs.filter((output) => output.status === 'planned' && before.isOfEarlierEngine(joinPath(output.folder, output.fileName)));
  if (old.length === 0) return [];
  const files = old.length === 1 ? '1 file' : `${old.length.toLocaleString('en-GB')} files`;
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
  const presetsOf = new Map<string, Preset[]>();
  for (const { status, masterId, presetId } of outputs) {
    const preset = presets.find(({ id }) => id === presetId)?.preset;
    if (status !== 'failed' && preset) presetsOf.set(masterId, [...(presetsOf.get(masterId) ?? []), preset]);
  }
  return [...presetsOf].flatMap(([masterId, own]) => {
    const master = masters.get(masterId);
    const read = master && vetMaster(master).read;
    return master && read?.ok ? [{ facts: read.facts, overrides: overridesOf(master), presets: own }] : [];
  });
}

function planMaster(row: MasterRecord): PlanMaster {
  const master = planMasterOf(vetMaster(row));
  // Unreadable pictures are shown in every column, so that they are not overlooked.
  return master.read.ok ? master : { ...master, rating: 5 };
}
