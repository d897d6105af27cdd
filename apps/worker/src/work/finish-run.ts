import { type Database, notify } from '@rundle/store';
import { QueryTypes, type Transaction } from 'sequelize';

const ENDED = `UPDATE runs r SET state = CASE WHEN cancel_asked_at IS NULL THEN 'done' ELSE 'cancelled' END, finished_at = now()
  WHERE state IN ('running', 'paused') AND NOT EXISTS (SELECT 1 FROM outputs WHERE run_id = r.id AND state IN ('planned', 'running'))`;

/** Ends a run when nothing of it is left to do, and says so. @returns whether it has ended now */
export async function finishRun({ sequelize }: Database, runId: string, transaction?: Transaction): Promise<boolean> {
  const ended = await sequelize.query<{ id: string; setId: string }>(`${ENDED} AND id = :runId RETURNING id, set_id AS "setId"`, {
    type: QueryTypes.SELECT as const,
    replacements: { runId },
    transaction: transaction ?? null,
  });
  for (const { id, setId } of ended) await notify(sequelize, { about: 'run', setId, ids: [id] }, transaction);
  return ended.length > 0;
}

/** The same for all runs: a worker may have died between its last output and the end of its run. */
export async function finishRuns({ sequelize }: Database): Promise<void> {
  await sequelize.transaction(async (transaction) => {
    const ended = await sequelize.query<{ id: string; setId: string }>(`${ENDED} RETURNING id, set_id AS "setId"`, {
      type: QueryTypes.SELECT as const,
      transaction,
    });
    for (const { id, setId } of ended) await notify(sequelize, { about: 'run', setId, ids: [id] }, transaction);
  });
}
