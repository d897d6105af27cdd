import { relative } from 'node:path';
import { localDay, type OrderDay, type OrderFile, type RunCounts, type StandingOrder } from '@rundle/core';
import { type Database, RUN_COUNTS, type StandingOrderRow } from '@rundle/store';
import { QueryTypes } from 'sequelize';

/** Files that are told of an order, the newest first. */
const MOST_FILES = 200;

/** Standing orders as the HTTP interface tells them, with what each did today. */
export async function orderViews(database: Database, rows: readonly StandingOrderRow[]): Promise<StandingOrder[]> {
  return Promise.all(
    rows.map(async (row) => {
      const { id, title, folder, deeper, presetIds, place, isOn, createdAt, problem } = row;
      const about = { id, title, folder, deeper, presetIds, place, on: isOn, createdAt: createdAt.toISOString() };
      return { ...about, problem: isOn ? (problem ?? null) : null, today: await dayOf(database, id) };
    }),
  );
}

async function dayOf({ sequelize }: Database, orderId: string): Promise<OrderDay> {
  const day = localDay(new Date());
  const asked = { type: QueryTypes.SELECT as const, replacements: { orderId, day, since: new Date(`${day}T00:00:00`) } };
  const [came] = await sequelize.query<Pick<OrderDay, 'setId' | 'taken' | 'reading' | 'unreadable' | 'refused'>>(
    `SELECT (SELECT id FROM sets WHERE standing_order_id = :orderId AND standing_day = :day AND deleted_at IS NULL LIMIT 1) AS "setId",
       count(*) FILTER (WHERE f.fate = 'taken' AND m.removed_at IS NULL)::int AS taken,
       count(*) FILTER (WHERE m.state = 'arriving' AND m.removed_at IS NULL)::int AS reading,
       count(*) FILTER (WHERE m.state = 'failed' AND m.removed_at IS NULL)::int AS unreadable,
       count(*) FILTER (WHERE f.fate = 'refused')::int AS refused
     FROM standing_order_files f LEFT JOIN masters m ON m.id = f.master_id WHERE f.order_id = :orderId AND f.seen_at >= :since`,
    asked,
  );
  const [counts] = await sequelize.query<RunCounts>(
    `SELECT ${RUN_COUNTS}
     FROM outputs o JOIN runs r ON r.id = o.run_id JOIN sets s ON s.id = r.set_id JOIN masters m ON m.id = o.master_id
     WHERE s.standing_order_id = :orderId AND s.standing_day = :day AND s.deleted_at IS NULL`,
    asked,
  );
  return { ...came!, counts: counts! };
}

/** The last files of an order, and what became of each. */
export async function orderFiles({ sequelize }: Database, { id, folder }: StandingOrderRow): Promise<OrderFile[]> {
  const rows = await sequelize.query<Omit<OrderFile, 'at'> & { at: Date }>(
    `SELECT f.path, f.seen_at AS at, f.fate, f.fate = 'taken' AND f.settled_at IS NOT NULL AND f.problem IS NULL AS run,
       CASE WHEN f.fate = 'twin' THEN (SELECT o.path FROM standing_order_files o
         WHERE o.order_id = f.order_id AND o.sha256 = f.sha256 AND o.fate IN ('left', 'taken') LIMIT 1) END AS "twinOf", s.id AS "setId", s.title AS "setTitle",
       CASE WHEN m.state = 'failed' THEN m.problem ELSE f.problem END AS problem
     FROM standing_order_files f LEFT JOIN masters m ON m.id = f.master_id LEFT JOIN sets s ON s.id = m.set_id AND s.deleted_at IS NULL
     WHERE f.order_id = :id AND (f.fate <> 'left' OR f.sha256 IS NULL) ORDER BY f.seen_at DESC, f.id DESC LIMIT ${MOST_FILES}`,
    { type: QueryTypes.SELECT, replacements: { id } },
  );
  return rows.map((row) => ({
    ...row,
    path: relative(folder, row.path),
    twinOf: row.twinOf && relative(folder, row.twinOf),
    at: row.at.toISOString(),
  }));
}
