import { asksForPlace, counted, ENGINE, namesAlike, type PlannedOutput, type RunRequest } from '@rundle/core';
import {
  addJobs,
  addLastMoves,
  adoptOutputs,
  notify,
  type OutputRow,
  decisionsOf,
  type RunRow,
  type RunScope,
  writeMoves,
} from '@rundle/store';
import type { CreationAttributes } from 'sequelize';
import { UniqueConstraintError } from 'sequelize';
import type { Stores } from '../services';
import { requestProblem } from '../http/problem';
import { findSet } from '../sets/find';
import { endOfLine } from './open-runs';
import { planSet, type SetPlan } from './plan-set';

type RunnableOutput = Exclude<PlannedOutput, { status: 'not-for' }>;

/** Room that stays free on the disk whatever is written, bytes. */
const SPARE = 50e6;

/**
 * Starts a run: plans it, writes its outputs down and queues one job per master, in one transaction.
 * @throws HttpProblem 409 when a run of the set is under way, or there is nothing to do; 403 and 507 when nothing can be written where the
 *   files are to go
 */
export async function startRun(
  services: Stores,
  setId: string,
  { presetIds, masterIds, pairs, earlier }: RunRequest,
): Promise<{ run: RunRow; outputs: OutputRow[] }> {
  const { sequelize, runs, outputs } = services.database;
  const scope: RunScope = { ...(masterIds ? { masterIds } : {}), ...(pairs ? { pairs } : {}) };
  try {
    return await sequelize.transaction(async (transaction) => {
      // The set's row is the lock against a second run, and against pictures that come, go or change places meanwhile.
      const set = await findSet(services.database, setId, transaction);
      await adoptOutputs(sequelize, setId, transaction);
      const plan = await planSet(services, set, { presetIds, earlier, scope }, transaction);
      const chosen = plan.outputs.filter((output): output is RunnableOutput => output.status !== 'not-for');
      const moves = earlier === 'go' ? plan.moves.filter(({ reason }) => reason !== 'copy' || set.copies === 'go') : [];
      if (chosen.length === 0 && moves.length === 0)
        throw requestProblem('nothing-to-do', 'The chosen presets apply to none of these pictures.');
      refuseWhereNamesAreAlike(plan);
      refuseWherePlacesAreAsked(plan);
      refuseWhereStopped(chosen);
      refuseWhereNothingFits(plan, chosen);
      const wanted = new Set(chosen.filter(({ status }) => status === 'planned').map(({ masterId }) => masterId));
      const ended = wanted.size === 0 && moves.length === 0;
      if (set.target === null && plan.own !== null) await set.update({ target: plan.own }, { transaction });
      const line = await endOfLine(services.database, transaction);
      const run = await runs.create(
        {
          setId,
          state: ended ? 'done' : 'running',
          presetIds: [...new Set(presetIds)],
          finishedAt: ended ? new Date() : null,
          studio: plan.details,
          house: plan.house,
          line,
          place: plan.place,
          once: Object.fromEntries(Object.entries(plan.once).filter(([id]) => presetIds.includes(id))),
          scope,
        },
        { transaction },
      );
      const rows = await outputs.bulkCreate(
        chosen.map((output, position) => outputRow(run.id, position, output, plan)),
        { transaction },
      );
      await writeMoves(sequelize, { journal: run.id, runId: run.id, setId }, moves, transaction);
      const jobs = plan.masters.filter(({ id }) => wanted.has(id));
      await addJobs(
        sequelize,
        transaction,
        'render-master',
        jobs.map((master) => ({ runId: run.id, masterId: master.id, overrides: decisionsOf(master) })),
        { line, waits: moves.some(({ when }) => when === 'first') },
      );
      await addLastMoves(sequelize, 'AND r.id = :runId', { runId: run.id }, transaction);
      await notify(sequelize, { about: 'run', setId, ids: [run.id] }, transaction);
      return { run, outputs: rows };
    });
  } catch (error) {
    if (error instanceof UniqueConstraintError)
      throw requestProblem('run-under-way', 'A run of this set is under way. Wait for its end or cancel it first.');
    throw error;
  }
}

/** The files of one picture would get one name: nothing is made that is hard to tell apart afterwards. */
function refuseWhereNamesAreAlike({ presets }: SetPlan): void {
  const alike = presets.flatMap(({ preset }) => {
    const problem = namesAlike(preset);
    return problem ? [{ ...problem, message: `${preset.title}: ${problem.message}` }] : [];
  });
  if (alike[0]) throw requestProblem('files-alike', `Nothing was begun. ${alike[0].message}`, alike);
}

/** Nobody has said where the files of a preset go that wants to be told. */
function refuseWherePlacesAreAsked({ presets, once }: SetPlan): void {
  const asking = presets.filter(({ id, preset }) => asksForPlace(preset, once[id]?.place)).map(({ preset }) => `“${preset.title}”`);
  if (asking.length) throw requestProblem('place-asked', `Nothing was begun. Say first where the files of ${asking.join(', ')} go.`);
}

/** A preset that stops at files of others lets nothing begin. */
function refuseWhereStopped(outputs: readonly RunnableOutput[]): void {
  const stopped = outputs.flatMap((output) => (output.status === 'failed' && output.error.code === 'exists' ? [output.error] : []));
  const [first] = stopped;
  if (!first) return;
  const more = stopped.length > 1 ? ` And ${counted(stopped.length - 1, 'file like it', 'files like it')}.` : '';
  throw requestProblem('in-the-way', `Nothing was begun. ${first.message}${more}`, stopped);
}

function refuseWhereNothingFits({ placeProblem, freeBytes }: SetPlan, outputs: readonly RunnableOutput[]): void {
  if (placeProblem) throw requestProblem('no-place', placeProblem.message, [placeProblem]);
  const needed = outputs.reduce((sum, output) => sum + (output.status === 'planned' ? output.expectedBytes : 0), 0);
  if (freeBytes === null || needed === 0 || freeBytes - SPARE >= needed) return;
  const megabytes = (bytes: number) => `${Math.max(0, Math.round(bytes / 1e6)).toLocaleString('en-GB')} MB`;
  const message = `The files need about ${megabytes(needed)}, and the disk has ${megabytes(freeBytes)} left. Make room, or choose another place.`;
  throw requestProblem('no-room', message);
}

function outputRow(runId: string, position: number, output: RunnableOutput, plan: SetPlan): CreationAttributes<OutputRow> {
  const { masterId, presetId, part, status } = output;
  const presetVersion = plan.presets.find(({ id }) => id === presetId)?.version ?? 1;
  const row = {
    runId,
    masterId,
    presetId,
    part,
    presetVersion,
    position,
    state: status,
    target: plan.target ?? '',
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
    ms: null,
  };
  switch (output.status) {
    case 'planned': {
      const { target, folder, fileName, width, height, expectedBytes, guessedBytes, expectedMs, replaces, warnings } = output;
      const expected = { width, height, expectedBytes, guessedBytes, expectedMs };
      return { ...row, target, folder, fileName, ...expected, replaces, warnings, ...plan.wanted(output) };
    }
    case 'skipped': {
      const { target, folder, fileName, reason, made } = output;
      const size = made ? { width: made.width, height: made.height } : {};
      return { ...row, target, folder, fileName, ...size, warnings: [reason], finishedAt: new Date() };
    }
    case 'failed':
      return { ...row, error: output.error, finishedAt: new Date() };
  }
}
