import type { FileTypeName, Pace } from '@rundle/core';
import { type Database, IS_DRAINED } from '@rundle/store';
import { QueryTypes } from 'sequelize';

/** Outputs that tell how quick this machine is: the last ones. */
const LAST = 400;
/** How long what was looked up counts, in ms. */
const KNOWN_FOR = 5000;

/** How quick this machine is, and how many workers there are. */
export interface MachinePace {
  paces: Pace[];
  workers: number;
}

let known: (MachinePace & { at: number }) | null = null;

/** How long the outputs that were made last took, against what was expected of them, and how many workers there are. */
export async function paceOf({ sequelize }: Database): Promise<MachinePace> {
  if (known && Date.now() - known.at < KNOWN_FOR) return known;
  const [paces, [counted]] = await Promise.all([
    sequelize.query<Pace & { type: FileTypeName }>(
      `SELECT v.body->'file'->>'type' AS type, sum(o.expected_ms)::float8 AS "expectedMs", sum(o.ms)::float8 AS ms, count(*)::int AS count
       FROM (SELECT * FROM outputs WHERE ms IS NOT NULL AND expected_ms > 0 ORDER BY finished_at DESC LIMIT ${LAST}) o
       JOIN preset_versions v ON v.preset_id = o.preset_id AND v.version = o.preset_version GROUP BY 1`,
      { type: QueryTypes.SELECT },
    ),
    sequelize.query<{ workers: number }>(`SELECT count(*)::int AS workers FROM workers w WHERE NOT ${IS_DRAINED}`, {
      type: QueryTypes.SELECT,
    }),
  ]);
  known = { at: Date.now(), paces, workers: Math.max(1, counted?.workers ?? 1) };
  return known;
}
