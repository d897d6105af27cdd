import type { Problem } from '@rundle/core';
import type { Database, StandingOrderRow } from '@rundle/store';
import { QueryTypes } from 'sequelize';
import { HttpProblem } from '../http/problem';
import type { Services } from '../services';

interface OpenFile {
  id: string;
  masterId: string;
  setId: string;
  /** Whether there is a run for it already. */
  covered: boolean;
}

/**
 * Starts a run of each set of an order whose pictures have all been read, over those for which there was none. What cannot be read waits until
 * it can.
 * @returns why a run could not be started; null: there is no reason that somebody has to do something about
 */
export async function startRuns(
  { database, threads }: Pick<Services, 'database' | 'threads'>,
  order: StandingOrderRow,
): Promise<Problem | null> {
  const open = await openFiles(database, order.id);
  await settle(
    database,
    open.filter(({ covered }) => covered),
    null,
  );
  const wanted = open.filter(({ covered }) => !covered);
  for (const setId of new Set(wanted.map((file) => file.setId))) {
    const files = wanted.filter((file) => file.setId === setId);
    try {
      const masterIds = [...new Set(files.map(({ masterId }) => masterId))];
      await threads.ask({ kind: 'run', setId, wanted: { presetIds: order.presetIds, masterIds, earlier: 'keep' } });
      await settle(database, files, null);
    } catch (error) {
      if (!(error instanceof HttpProblem)) throw error;
      const { code, message } = error;
      if (code === 'run-under-way' || code === 'still-arriving') continue; // another turn
      if (code !== 'nothing-to-do') return { code, message };
      await settle(database, files, { code, message });
    }
  }
  return null;
}

/** An output `o` whose picture was not there when its turn came: it may only have been moved. */
export const MISSING = `o.state = 'failed' AND o.error->>'code' = 'missing'`;

/** Pictures that were taken and have been read, in sets of which nothing is being read or run. */
function openFiles({ sequelize }: Database, orderId: string): Promise<OpenFile[]> {
  return sequelize.query<OpenFile>(
    `SELECT f.id::text, f.master_id AS "masterId", m.set_id AS "setId",
       EXISTS (SELECT 1 FROM runs r WHERE r.set_id = m.set_id AND r.scope->'masterIds' @> to_jsonb(m.id::text)
         AND NOT EXISTS (SELECT 1 FROM outputs o WHERE o.run_id = r.id AND o.master_id = m.id AND ${MISSING})) AS covered
     FROM standing_order_files f JOIN masters m ON m.id = f.master_id JOIN sets s ON s.id = m.set_id
     WHERE f.order_id = :orderId AND f.fate = 'taken' AND f.settled_at IS NULL
       AND m.state = 'ready' AND m.removed_at IS NULL AND s.deleted_at IS NULL
       AND NOT EXISTS (SELECT 1 FROM masters n WHERE n.set_id = s.id AND n.removed_at IS NULL AND n.state = 'arriving')
       AND NOT EXISTS (SELECT 1 FROM runs r WHERE r.set_id = s.id AND r.state IN ('running', 'paused'))
     ORDER BY f.id LIMIT 5000`,
    { type: QueryTypes.SELECT, replacements: { orderId } },
  );
}

async function settle({ standingOrderFiles }: Database, files: readonly OpenFile[], problem: Problem | null): Promise<void> {
  if (files.length) await standingOrderFiles.update({ settledAt: new Date(), problem }, { where: { id: files.map(({ id }) => id) } });
}
