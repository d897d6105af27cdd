import type { MasterFacts } from '@rundle/core';
import { QueryTypes, type Transaction } from 'sequelize';
import type { Database } from './database/connection';
import type { MasterRow } from './database/models';

type Columns = 'id' | 'setId' | 'fileName' | 'position' | 'bytes' | 'state' | 'sha256' | 'sourcePath' | 'sourceMtimeMs';
type Decided = 'problem' | 'stars' | 'choice' | 'tags' | 'treatment' | 'facts';

/** A master as lists, plans and vettings take it; a row of the database is one, too. */
export type MasterRecord = Pick<MasterRow, Columns | Decided>;

/** Facts that are kept in memory, of so many masters: a few large sets. */
const MOST_KEPT = 20_000;

/**
 * The facts of masters that were looked up last. They are most of a row and hardly ever change; what is kept for one is the same
 * object each time, so that what was worked out from it need not be worked out again.
 */
const kept = new Map<string, MasterFacts | null>();

/** The masters of a set that are not in its bin, in set order; only facts that are not known yet are fetched. */
export async function loadMasters(
  { sequelize }: Database,
  setId: string,
  { from = 0, count = 1_000_000, transaction }: { from?: number; count?: number; transaction?: Transaction } = {},
): Promise<MasterRecord[]> {
  const within = { type: QueryTypes.SELECT as const, transaction: transaction ?? null };
  const rows = await sequelize.query<Omit<MasterRecord, 'facts'> & { factsAt: Date | null }>(
    `SELECT id, set_id AS "setId", file_name AS "fileName", position, bytes::float8 AS bytes, state, sha256, source_path AS "sourcePath",
       source_mtime_ms AS "sourceMtimeMs", problem, stars, choice, tags, treatment, facts_at AS "factsAt"
     FROM masters WHERE set_id = :setId AND removed_at IS NULL ORDER BY position OFFSET :from LIMIT :count`,
    { ...within, replacements: { setId, from, count } },
  );
  const keyOf = ({ id, factsAt }: { id: string; factsAt: Date | null }) => `${id} ${factsAt?.getTime() ?? 0}`;
  const unknown = rows.filter((row) => !kept.has(keyOf(row))).map(({ id }) => id);
  if (unknown.length) {
    const found = await sequelize.query<{ id: string; factsAt: Date | null; facts: MasterFacts | null }>(
      `SELECT id, facts_at AS "factsAt", facts FROM masters WHERE id IN (SELECT jsonb_array_elements_text(:ids::jsonb)::uuid)`,
      { ...within, replacements: { ids: JSON.stringify(unknown) } },
    );
    for (const row of found) kept.set(keyOf(row), row.facts);
  }
  const masters = rows.map(({ factsAt, ...row }) => ({ ...row, facts: kept.get(keyOf({ id: row.id, factsAt })) ?? null }));
  for (const key of kept.keys()) {
    if (kept.size <= MOST_KEPT) break;
    kept.delete(key);
  }
  return masters;
}
