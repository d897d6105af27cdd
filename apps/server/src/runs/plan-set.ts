import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { planRun, type PlanMaster, type PlannedOutput, type StoredPreset } from '@rundle/core';
import type { MasterRow, SetRow } from '@rundle/store';
import type { Services } from '../services';
import { HttpProblem } from '../http/problem';
import { listPresets } from '../presets/calls';

export interface SetPlan {
  masters: MasterRow[];
  presets: StoredPreset[];
  outputs: PlannedOutput[];
}

/**
 * Plans a run over a set as it stands now.
 * @throws HttpProblem 409 while pictures are still arriving, 404 for a preset that is gone
 */
export async function planSet({ database, storage }: Services, set: SetRow, presetIds: readonly string[]): Promise<SetPlan> {
  const masters = await database.masters.findAll({ where: { setId: set.id }, order: [['position', 'ASC']] });
  const arriving = masters.filter(({ state }) => state === 'arriving').length;
  if (arriving) throw new HttpProblem(409, 'still-arriving', `${arriving} pictures are still being read. Plan again in a moment.`);
  const presets = await listPresets(database, presetIds);
  if (presets.length < new Set(presetIds).size)
    throw new HttpProblem(404, 'not-found', 'One of the chosen presets has been deleted. Choose again.');
  const target = storage.outputs(set);
  const outputs = planRun({
    setTitle: set.title,
    masters: masters.map(planMaster),
    presets,
    // Masters lie in the store, never in the output tree, so that only outputs can stand here.
    occupied: (path) => (existsSync(join(target, path)) ? 'file' : 'free'),
  });
  return { masters, presets, outputs };
}

function planMaster({ id, fileName, facts, problem }: MasterRow): PlanMaster {
  const read: PlanMaster['read'] = facts
    ? { ok: true, facts }
    : { ok: false, problem: problem ?? { code: 'unreadable', message: 'The picture cannot be read.', file: fileName } };
  // What cannot be read is shown in every column, so that nobody misses it.
  return { id, fileName, read, rating: facts ? (facts.rating ?? 0) : 5, tags: facts?.keywords ?? [] };
}
