import { ENGINE, type PlannedOutput } from '@rundle/core';
import { addJobs, notify, type OutputRow, type RunRow, overridesOf } from '@rundle/store';
import type { CreationAttributes } from 'sequelize';
import { UniqueConstraintError } from 'sequelize';
import type { Stores } from '../services';
import { requestProblem } from '../http/problem';
import { findSet } from '../sets/find';
import { planSet, type SetPlan } from './plan-set';

/**
 * Starts a run: plans it, writes its outputs down and queues one job per master, in one transaction.
 * @throws HttpProblem 409 when a run of the set is under way, or there is nothing to do
 */
export async function startRun(
  services: Stores,
  setId: string,
  presetIds: readonly string[],
): Promise<{ run: RunRow; outputs: OutputRow[] }> {
  const { sequelize, runs, outputs } = services.database;
  try {
    return await sequelize.transaction(async (transaction) => {
      // The set's row is the lock against a second run, and against pictures that come, go or change places meanwhile.
      const set = await findSet(services.database, setId, transaction);
      const plan = await planSet(services, set, presetIds, transaction);
      if (plan.outputs.length === 0) throw requestProblem('nothing-to-do', 'The chosen presets apply to none of the pictures.');
      const wanted = new Set(plan.outputs.filter(({ status }) => status === 'planned').map(({ masterId }) => masterId));
      const ended = wanted.size === 0;
      if (set.target === null) await set.update({ target: plan.target }, { transaction });
      const run = await runs.create(
        {
          setId,
          state: ended ? 'done' : 'running',
          presetIds: [...new Set(presetIds)],
          finishedAt: ended ? new Date() : null,
          studio: plan.details,
          house: plan.house,
        },
        { transaction },
      );
      const rows = await outputs.bulkCreate(
        plan.outputs.map((output, position) => outputRow(run.id, position, output, plan)),
        { transaction },
      );
      const jobs = plan.masters.filter(({ id }) => wanted.has(id));
      await addJobs(
        sequelize,
        transaction,
        'render-master',
        jobs.map((master) => ({ runId: run.id, masterId: master.id, overrides: overridesOf(master) })),
      );
      await notify(sequelize, { about: 'run', setId, ids: [run.id] }, transaction);
      return { run, outputs: rows };
    });
  } catch (error) {
    if (error instanceof UniqueConstraintError)
      throw requestProblem('run-under-way', 'A run of this set is under way. Wait for its end or cancel it first.');
    throw error;
  }
}

function outputRow(runId: string, position: number, output: PlannedOutput, plan: SetPlan): CreationAttributes<OutputRow> {
  const { masterId, presetId, status } = output;
  const presetVersion = plan.presets.find(({ id }) => id === presetId)?.version ?? 1;
  const row = {
    runId,
    masterId,
    presetId,
    presetVersion,
    position,
    state: status,
    target: plan.target,
    folder: '',
    fileName: '',
    width: 0,
    height: 0,
    expectedBytes: 0,
    replaces: false,
    bytes: null,
    quality: null,
    warnings: [],
    error: null,
    finishedAt: null,
    recipe: null,
    engine: ENGINE,
    measures: null,
  };
  switch (output.status) {
    case 'planned': {
      const { folder, fileName, width, height, expectedBytes, replaces, warnings } = output;
      return { ...row, folder, fileName, width, height, expectedBytes, replaces, warnings, recipe: plan.recipe(masterId, presetId) };
    }
    case 'skipped':
      return { ...row, folder: output.folder, fileName: output.fileName, warnings: [output.reason], finishedAt: new Date() };
    case 'failed':
      return { ...row, error: output.error, finishedAt: new Date() };
  }
}
