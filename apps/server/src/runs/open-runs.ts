import { type Database, notify, offerRun, reorderWork, type RunRow } from '@rundle/store';
import type { Transaction } from 'sequelize';

/** States in which a run can still go on. */
export const OPEN_STATES: RunRow['state'][] = ['running', 'paused'];

/** The open runs, the one that goes first at the beginning. */
export const openRuns = ({ runs }: Database, transaction?: Transaction): Promise<RunRow[]> =>
  runs.findAll({
    where: { state: OPEN_STATES },
    order: [
      ['line', 'ASC'],
      ['startedAt', 'ASC'],
    ],
    ...(transaction ? { transaction, lock: true } : {}),
  });

/** The place behind all open runs. */
export async function endOfLine({ runs }: Database, transaction: Transaction): Promise<number> {
  return ((await runs.max<number | null, RunRow>('line', { where: { state: OPEN_STATES }, transaction })) ?? 0) + 1;
}

/** Pauses a run: what a worker is rendering is finished, all else waits. A run that has ended, or is being cancelled, stays as it is. */
export async function pauseRun({ sequelize, runs }: Database, { id, setId }: RunRow): Promise<void> {
  await sequelize.transaction(async (transaction) => {
    const [paused] = await runs.update({ state: 'paused' }, { where: { id, state: 'running', cancelAskedAt: null }, transaction });
    if (paused) await notify(sequelize, { about: 'run-stopped', setId, ids: [id] }, transaction);
  });
}

/** Goes on with a paused run. */
export async function resumeRun({ sequelize, runs }: Database, { id, setId }: RunRow): Promise<void> {
  await sequelize.transaction(async (transaction) => {
    const [resumed] = await runs.update({ state: 'running' }, { where: { id, state: 'paused' }, transaction });
    if (!resumed) return;
    await offerRun(sequelize, id, transaction);
    await notify(sequelize, { about: 'run', setId, ids: [id] }, transaction);
  });
}

/** Puts an open run before another, or at the end of the line. */
export async function moveRun(database: Database, runId: string, before: string | null): Promise<void> {
  const { sequelize } = database;
  await sequelize.transaction(async (transaction) => {
    const line = await openRuns(database, transaction);
    const moved = line.find(({ id }) => id === runId);
    if (!moved || before === runId) return; // it has ended meanwhile
    const others = line.filter(({ id }) => id !== runId);
    const at = before === null ? others.length : others.findIndex(({ id }) => id === before);
    others.splice(at === -1 ? others.length : at, 0, moved);
    for (const [index, run] of others.entries()) {
      await run.update({ line: index + 1 }, { transaction });
      await notify(sequelize, { about: 'run', setId: run.setId, ids: [run.id] }, transaction);
    }
    await reorderWork(sequelize, transaction);
  });
}
