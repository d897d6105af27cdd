import { readdir } from 'node:fs/promises';
import { join, relative } from 'node:path';
import {
  planMasterOf,
  type PlanMaster,
  type PlannedOutput,
  planRun,
  type Preset,
  type Problem,
  type StoredPreset,
  StudioDetails,
  treatedPreset,
} from '@rundle/core';
import { type Database, type MasterRow, type SetRow, treatmentOf, vetMaster, type WatermarkRow } from '@rundle/store';
import type { Stores } from '../services';
import { HttpProblem } from '../http/problem';
import { inSet } from '../masters/marks';
import { listPresets } from '../presets/stored';
import { houseRulesOf } from '../vet/vet-set';
import { watermarkOf } from '../watermarks/named';
import { MadeBefore, recipeOf } from './recipes';

export interface SetPlan {
  masters: MasterRow[];
  presets: StoredPreset[];
  outputs: PlannedOutput[];
  /** The recipe of an output of this plan. */
  recipe: (masterId: string, presetId: string) => string;
}

/**
 * Plans a run over a set as it stands now.
 * @throws HttpProblem 409 while pictures are still arriving, 404 for a preset that is gone
 */
export async function planSet({ database, storage }: Stores, set: SetRow, presetIds: readonly string[]): Promise<SetPlan> {
  const masters = await database.masters.findAll({ where: inSet(set.id), order: [['position', 'ASC']] });
  const wanted = masters.filter(({ choice }) => choice !== 'out');
  const arriving = masters.filter(({ state }) => state === 'arriving').length;
  if (arriving) throw new HttpProblem(409, 'still-arriving', `${arriving} pictures are still being read. Plan again in a moment.`);
  const presets = await listPresets(database, presetIds);
  if (presets.length < new Set(presetIds).size)
    throw new HttpProblem(404, 'not-found', 'One of the chosen presets has been deleted. Choose again.');
  const target = storage.outputs(set);
  const studio = StudioDetails.parse((await database.studio.findByPk(1))?.details ?? {});
  const marks = new Map(await Promise.all(presets.map(async ({ id, preset }) => [id, await markOf(database, preset)] as const)));
  const standing = await filesBelow(target);
  const before = await MadeBefore.of(database, set.id, target);
  const byId = new Map(masters.map((master) => [master.id, master]));
  const recipe = (masterId: string, presetId: string): string => {
    const mark = marks.get(presetId);
    const master = byId.get(masterId);
    const { preset } = presets.find(({ id }) => id === presetId)!;
    const own = master ? treatedPreset(preset, treatmentOf(master)) : preset;
    return recipeOf(master?.sha256 ?? '', own, studio, mark && 'kind' in mark ? mark : null);
  };
  const outputs = planRun({
    setTitle: set.title,
    masters: wanted.map(planMaster),
    house: await houseRulesOf(database, set),
    presets: presets.map(({ id, preset }) => {
      const mark = marks.get(id);
      return { id, preset, problem: mark && 'code' in mark ? mark : null };
    }),
    unchanged: (path, masterId, presetId) => before.holds(path, recipe(masterId, presetId)),
    // Masters lie in the store, never in the output tree, so that only outputs can stand here.
    occupied: (path) => (standing.has(path) ? 'file' : 'free'),
  });
  return { masters, presets, outputs, recipe };
}

/** Paths of all that stands in a folder and below it; looked up once, since a plan of 2,000 masters asks thousands of times. */
async function filesBelow(folder: string): Promise<Set<string>> {
  const entries = await readdir(folder, { recursive: true, withFileTypes: true }).catch(() => []); // none has been made yet
  return new Set(entries.map(({ parentPath, name }) => relative(folder, join(parentPath, name))));
}

const markOf = async (database: Database, { mark }: Preset): Promise<WatermarkRow | Problem | null> =>
  mark && (await watermarkOf(database, mark.watermark));

function planMaster(row: MasterRow): PlanMaster {
  const master = planMasterOf(vetMaster(row));
  // What cannot be read is shown in every column, so that nobody misses it.
  return master.read.ok ? master : { ...master, rating: 5 };
}
