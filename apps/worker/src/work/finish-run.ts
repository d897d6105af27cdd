import { addLastMoves, MOVES_OPEN, notify } from '@rundle/store';
import { QueryTypes, type Transaction } from 'sequelize';
import type { Context } from '../context';

const ENDED = `UPDATE runs r SET state = CASE WHEN cancel_asked_at IS NULL THEN 'done' ELSE 'cancelled' END, finished_at = now()
  WHERE state IN ('running', 'paused') AND NOT EXISTS (SELECT 1 FROM outputs WHERE run_id = r.id AND state IN ('planned', 'running'))
    AND NOT ${MOVES_OPEN}`;

/** Ends a run when nothing of it is left to do, and says so. */
export function finishRun(context: Context, runId: string, transaction: Transaction): Promise<void> {
  return finish(context, 'AND r.id = :runId', { runId }, transaction);
}

/** The same for all runs: a worker may have died between its last output and the end of its run. */
export async function finishRuns(context: Context): Promise<void> {
  await context.database.sequelize.transaction((transaction) => finish(context, '', {}, transaction));
}

async function finish(context: Context, which: string, replacements: Record<string, string>, transaction: Transaction): Promise<void> {
  const { sequelize } = context.database;
  await addLastMoves(sequelize, which, replacements, transaction);
  const ended = await sequelize.query<{ id: string; setId: string; kind: string }>(
    `${ENDED} ${which} RETURNING id, set_id AS "setId", place ->> 'kind' AS kind`,
    { type: QueryTypes.SELECT as const, replacements, transaction },
  );
  for (const { id, setId, kind } of ended) {
    // Before anybody hears of the end: what lies in the folder then is what was made, and nothing else.
    if (kind !== 'own') await tidyUp(context, id, transaction);
    await notify(sequelize, { about: 'run', setId, ids: [id] }, transaction);
  }
}

/** A run that has ended leaves nothing but its files in folders of the machine, unless another writes there. */
async function tidyUp({ database, files }: Context, runId: string, transaction: Transaction): Promise<void> {
  const rows = await database.sequelize.query<{ target: string }>(
    `SELECT DISTINCT target FROM outputs WHERE run_id = :runId AND target NOT IN (
       SELECT o.target FROM outputs o JOIN runs r ON r.id = o.run_id WHERE r.finished_at IS NULL)`,
    { type: QueryTypes.SELECT, replacements: { runId }, transaction },
  );
  await files.outputs.tidy(rows.map(({ target }) => target));
}
