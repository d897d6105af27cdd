import { addLastMoves, type Database, MOVES_OPEN, notify, offerRun, type RunRow } from '@rundle/store';
import { QueryTypes } from 'sequelize';

/**
 * Cancels a run: what has not begun is cancelled at once; what a worker is rendering is finished, and then the run ends. A run
 * that has ended stays as it is.
 */
export async function cancelRun({ sequelize, runs, outputs }: Database, run: RunRow): Promise<void> {
  const about = { setId: run.setId, ids: [run.id] };
  await sequelize.transaction(async (transaction) => {
    // As workers do it, the work before its outputs: in another order each would wait for the other, and PostgreSQL would end one of the two.
    await sequelize.query('SELECT key FROM work WHERE run_id = :runId ORDER BY key FOR UPDATE', {
      transaction,
      replacements: { runId: run.id },
    });
    const [changed] = await runs.update(
      { cancelAskedAt: new Date(), state: 'running' },
      { where: { id: run.id, state: ['running', 'paused'] }, transaction },
    );
    if (!changed) return;
    const [, rows] = await outputs.update(
      { state: 'cancelled' },
      { where: { runId: run.id, state: 'planned' }, transaction, returning: true },
    );
    const within = { transaction, replacements: { runId: run.id } };
    // What was cut off in the middle is left to a worker, which looks whether its file is there already.
    await sequelize.query(
      `DELETE FROM work w WHERE w.run_id = :runId AND w.worker_id IS NULL AND w.name = 'render-master'
         AND NOT EXISTS (SELECT 1 FROM outputs o WHERE o.run_id = w.run_id AND o.master_id = w.master_id AND o.state = 'running')`,
      within,
    );
    await offerRun(sequelize, run.id, transaction);
    await sequelize.query(
      `UPDATE runs r SET state = 'cancelled', finished_at = now()
       WHERE id = :runId AND NOT EXISTS (SELECT 1 FROM outputs WHERE run_id = :runId AND state = 'running') AND NOT ${MOVES_OPEN}`,
      { type: QueryTypes.UPDATE, ...within },
    );
    // Files that are on their way come to their places, and what made room for its newer self goes.
    await addLastMoves(sequelize, 'AND r.id = :runId', { runId: run.id }, transaction);
    await notify(sequelize, { about: 'run-stopped', ...about }, transaction);
    await notify(sequelize, { about: 'outputs', setId: run.setId, ids: rows.map(({ id }) => id) }, transaction);
  });
}
