import { MOST_FAILURES, type Run, type RunCounts } from '@rundle/core';
import { QueryTypes, type Transaction } from 'sequelize';
import type { Database } from './database/connection';
import type { RunRow } from './database/rows';

/** How far outputs `o` of masters `m` are, as columns: {@link RunCounts}. */
export const RUN_COUNTS = `count(o.id)::int AS total,
  count(*) FILTER (WHERE o.state = 'done')::int AS done, count(*) FILTER (WHERE o.state = 'failed')::int AS failed,
  count(*) FILTER (WHERE o.state = 'skipped')::int AS skipped, count(*) FILTER (WHERE o.state = 'cancelled')::int AS cancelled,
  count(*) FILTER (WHERE o.state = 'running')::int AS working,
  coalesce(sum(o.bytes) FILTER (WHERE o.state = 'done'), 0)::float8 AS bytes,
  count(*) FILTER (WHERE o.state = 'done' AND o.warnings @> '[{"code":"over-ceiling"}]')::int AS "overCeiling",
  count(*) FILTER (WHERE o.state = 'failed' AND m.removed_at IS NOT NULL)::int AS "failedRemoved",
  coalesce(to_jsonb((array_agg(jsonb_build_object('masterId', m.id, 'file', m.file_name, 'message', coalesce(o.error->>'message', ''))
    ORDER BY m.removed_at IS NOT NULL, o.position) FILTER (WHERE o.state = 'failed'))[1:${MOST_FAILURES}]), '[]'::jsonb) AS failures`;

/** Runs as the HTTP interface tells them, with how far they are; in the order of the rows. */
export async function runViews({ sequelize }: Database, rows: readonly RunRow[], transaction?: Transaction): Promise<Run[]> {
  if (rows.length === 0) return [];
  const counted = await sequelize.query<RunCounts & { runId: string; setTitle: string }>(
    `SELECT r.id AS "runId", s.title AS "setTitle", ${RUN_COUNTS}
     FROM runs r JOIN sets s ON s.id = r.set_id LEFT JOIN outputs o ON o.run_id = r.id LEFT JOIN masters m ON m.id = o.master_id
     WHERE r.id IN (SELECT jsonb_array_elements_text(:ids::jsonb)::uuid) GROUP BY r.id, s.title`,
    { type: QueryTypes.SELECT, replacements: { ids: JSON.stringify(rows.map(({ id }) => id)) }, transaction: transaction ?? null },
  );
  const byRun = new Map(counted.map(({ runId, setTitle, ...counts }) => [runId, { setTitle, counts }]));
  return rows.flatMap((row) => {
    const about = byRun.get(row.id);
    if (!about) return []; // its set has gone since
    const { id, setId, state, startedAt, finishedAt, presetIds, cancelAskedAt, line, place, once } = row;
    const { setTitle, counts } = about;
    const times = { startedAt: startedAt.toISOString(), finishedAt: finishedAt?.toISOString() ?? null };
    const stopping = (state === 'running' || state === 'paused') && cancelAskedAt !== null;
    return [{ id, setId, setTitle, state, ...times, presetIds, line, place, once, counts, stopping }];
  });
}
