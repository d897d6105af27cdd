import { QueryTypes, type Transaction } from 'sequelize';
import type { Database } from './database/connection';
import type { MasterRow } from './database/rows';

type Columns = 'id' | 'setId' | 'fileName' | 'position' | 'bytes' | 'state' | 'sha256' | 'sourcePath' | 'sourceMtimeMs' | 'revision';
type DecisionColumns = 'problem' | 'stars' | 'choice' | 'tags' | 'overrides' | 'facts';

/** A master as lists, plans and vettings take it; a row of the database is one, too. */
export type MasterRecord = Pick<MasterRow, Columns | DecisionColumns>;

interface CachedMaster {
  version: string;
  master: MasterRecord;
}

/** Masters that are kept in memory at most: a few large sets. */
const MOST_KEPT = 20_000;

/**
 * The masters that were looked up last, each with the version of its row. Most do not change from one question to the next; one that
 * has not changed is the same object, so that what was worked out from it need not be worked out again.
 */
const kept = new Map<string, CachedMaster>();

/**
 * What tells one version of a row from all others of it: the transaction that wrote it, and where it lies (PostgreSQL manual, 5.5,
 * System Columns).
 */
const VERSION = `concat_ws(' ', xmin, ctid)`;

/** How often it is asked again what changed while it was being fetched. */
const ROUNDS = 4;

/** The masters of a set that are not in its bin, in set order; only those that are not known as they are now are fetched. */
export async function loadMasters(
  { sequelize }: Database,
  setId: string,
  { from = 0, count = 1_000_000, transaction }: { from?: number; count?: number; transaction?: Transaction } = {},
): Promise<MasterRecord[]> {
  const within = { type: QueryTypes.SELECT as const, transaction: transaction ?? null };
  const fetched = new Map<string, CachedMaster>();
  for (let round = 1; ; round++) {
    const rows = await sequelize.query<{ id: string; version: string }>(
      `SELECT id, ${VERSION} AS version FROM masters WHERE set_id = :setId AND removed_at IS NULL
       ORDER BY position OFFSET :from LIMIT :count`,
      { ...within, replacements: { setId, from, count } },
    );
    const found = rows.map(({ id }) => fetched.get(id) ?? kept.get(id));
    const unknown = rows.filter(({ version }, index) => found[index]?.version !== version).map(({ id }) => id);
    if (unknown.length === 0 || round > ROUNDS) return found.flatMap((one) => (one ? [one.master] : []));
    const changed = await sequelize.query<MasterRecord & { version: string }>(
      `SELECT ${VERSION} AS version, id, set_id AS "setId", file_name AS "fileName", position, bytes::float8 AS bytes, state, sha256,
         source_path AS "sourcePath", source_mtime_ms AS "sourceMtimeMs", problem, stars, choice, tags, overrides, facts, revision
       FROM masters WHERE id IN (SELECT jsonb_array_elements_text(:ids::jsonb)::uuid)`,
      { ...within, replacements: { ids: JSON.stringify(unknown) } },
    );
    for (const { version, ...master } of changed) {
      fetched.set(master.id, { version, master });
      // To the end of the row, whose beginning is given up first.
      kept.delete(master.id);
      kept.set(master.id, { version, master });
    }
    for (const id of kept.keys()) {
      if (kept.size <= MOST_KEPT) break;
      kept.delete(id);
    }
  }
}
