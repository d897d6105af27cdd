import { type Database, notify } from '@rundle/store';
import { QueryTypes } from 'sequelize';

/** Ends a run when nothing of it is left to do, and says so. */
export async function finishRun({ sequelize }: Database, runId: string): Promise<void> {
  const ended = await sequelize.query<{ id: string; setId: string }>(
    `UPDATE runs SET state = 'done', finished_at = now()
     WHERE id = :runId AND state = 'running'
       AND NOT EXISTS (SELECT 1 FROM outputs WHERE run_id = :runId AND state IN ('planned', 'running'))
     RETURNING id, set_id AS "setId"`,
    { type: QueryTypes.SELECT, replacements: { runId } },
  );
  for (const { id, setId } of ended) await notify(sequelize, { about: 'run', setId, ids: [id] });
}
