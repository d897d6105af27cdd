import type { Run, RunCounts } from '@rundle/core';
import { QueryTypes, type Transaction } from 'sequelize';
import type { Database } from './database/connection';
import type { RunRow } from './database/rows';

type About = RunCounts & { runId: string; setTitle: string };

/** Runs as the HTTP interface tells them, with how far they are; in the order of the rows. */
export async function runViews({ sequelize }: Database, rows: readonly RunRow[], transaction?: Transaction): Promise<Run[]> {
  if (rows.length === 0) return [];
  const counted = await sequelize.query<About>(
    `SELECT r.id AS "runId", s.title AS "setTitle", count(o.id)::int AS total,
       count(*) FILTER (WHERE o.state = 'done')::int AS done, count(*) FILTER (WHERE o.state = 'failed')::int AS failed,
       count(*) FILTER (WHERE o.state = 'skipped')::int AS skipped, count(*) FILTER (WHERE o.state = 'cancelled')::int AS cancelled,
       coalesce(sum(o.bytes) FILTER (WHERE o.state = 'done'), 0)::float8 AS bytes
     FROM runs r JOIN sets s ON s.id = r.set_id LEFT JOIN outputs o ON o.run_id = r.id
     WHERE r.id IN (SELECT jsonb_array_elements_text(:ids::jsonb)::uuid) GROUP BY r.id, s.title`,
    { type: QueryTypes.SELECT, replacements: { ids: JSON.stringify(rows.map(({ id }) => id)) }, transaction: transaction ?? null },
  );
  const byRun = new Map(counted.map((about) => [about.runId, about]));
  return rows.flatMap((row) => {
    const about = byRun.get(row.id);
    if (!about) return []; // its set has gone since
    const { id, setId, state, startedAt, finishedAt, presetIds, cancelAskedAt, line, place, once } = row;
    const { total, done, failed, skipped, cancelled, bytes, setTitle } = about;
    const times = { startedAt: startedAt.toISOString(), finishedAt: finishedAt?.toISOString() ?? null };
    const counts = { total, done, failed, skipped, cancelled, bytes };
    const stopping = (state === 'running' || state === 'paused') && cancelAskedAt !== null;
    return [{ id, setId, setTitle, state, ...times, presetIds, line, place, once, counts, stopping }];
  });
}
