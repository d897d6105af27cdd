import { lockContents, noBackupUnderWay, studioBegun } from '@rundle/store';
import { QueryTypes } from 'sequelize';
import type { Services } from '../services';

type Swept = Pick<Services, 'database' | 'files'>;

const DAY = 24 * 3600 * 1000;

/** How long deleted sets and pictures can be restored. */
export const BIN_DAYS = 30;

/** A file that no row names is only deleted when it has lain so long, in ms: a file that is being brought in gets its row a moment later. */
const ORPHAN_AFTER = 3600 * 1000;

/** Contents of uploaded masters that a sweep has touched, by what became of them. */
export interface SweptContents {
  /** Only pictures named them that had been in the bin for {@link BIN_DAYS} days: deleted. */
  deleted: string[];
  /** No row names them, though they came after this database: in the bin of files now. */
  discarded: string[];
  /** They lay in the bin of files though a row names them: back in their place. */
  restored: string[];
  /** They had lain in the bin of files for {@link BIN_DAYS} days: deleted. */
  expired: string[];
}

/**
 * Forgets sets and pictures that have been in the bin for some days, then looks after the files of uploaded masters that no row
 * names any more. What is older than this database is never touched: it is another's. While a backup is being made it does nothing.
 * Outputs on disk stay, and files on the machine are never touched.
 * @param before what has come into the bin since then stays there
 * @returns null: it waits for a backup
 */
export async function emptyBin({ database, files }: Swept, before = new Date(Date.now() - BIN_DAYS * DAY)): Promise<SweptContents | null> {
  const { sequelize } = database;
  const { masters } = files;
  const begun = (await studioBegun(database)).getTime();
  const all = await masters.list();
  const nobodys = all.filter(({ ageMs, earliestMs }) => ageMs > ORPHAN_AFTER && earliestMs >= begun);
  const older = new Set(all.flatMap(({ sha256, ageMs }) => (Date.now() - ageMs < begun ? [sha256] : [])));
  const binned = await masters.discarded();
  const moved: string[] = [];
  try {
    const swept = await sequelize.transaction(async (transaction) => {
      if (!(await noBackupUnderWay(sequelize, transaction))) return null;
      // No file is brought in while we decide which ones have no owner.
      await lockContents(sequelize, transaction, 'alone');
      const gone = await sequelize.query<{ sha256: string }>(
        `SELECT DISTINCT sha256 FROM masters WHERE sha256 IS NOT NULL AND source_path IS NULL
           AND (removed_at < :before OR set_id IN (SELECT id FROM sets WHERE deleted_at < :before))`,
        { type: QueryTypes.SELECT, replacements: { before }, transaction },
      );
      await sequelize.query('DELETE FROM masters WHERE removed_at < :before', { replacements: { before }, transaction });
      await sequelize.query('DELETE FROM sets WHERE deleted_at < :before', { replacements: { before }, transaction });
      const known = new Set(gone.map(({ sha256 }) => sha256));
      const hashes = [...known, ...[...nobodys, ...binned].map(({ sha256 }) => sha256)];
      const used = await sequelize.query<{ sha256: string }>(
        `SELECT DISTINCT sha256 FROM masters WHERE sha256 IN (SELECT jsonb_array_elements_text(:hashes::jsonb))`,
        { type: QueryTypes.SELECT, replacements: { hashes: JSON.stringify(hashes) }, transaction },
      );
      const still = new Set(used.map(({ sha256 }) => sha256));
      const restored = binned.flatMap(({ sha256 }) => (still.has(sha256) ? [sha256] : []));
      for (const sha256 of restored) await masters.restore(sha256);
      const deleted = [...known].filter((sha256) => !still.has(sha256) && !older.has(sha256));
      const orphans = nobodys.filter(({ sha256 }) => !still.has(sha256) && !known.has(sha256));
      const discarded = orphans.flatMap(({ sha256, isMaster }) => (isMaster ? [sha256] : []));
      for (const sha256 of [...deleted, ...orphans.map(({ sha256 }) => sha256)]) {
        moved.push(sha256);
        await masters.discard(sha256);
      }
      await sequelize.query('DELETE FROM measured_outputs m WHERE NOT EXISTS (SELECT FROM masters WHERE sha256 = m.content)', {
        transaction,
      });
      const expired = binned.flatMap(({ sha256, ageMs }) => (!still.has(sha256) && Date.now() - ageMs < before.getTime() ? [sha256] : []));
      return { deleted, discarded, restored, expired };
    });
    // Only what the database has forgotten for good.
    for (const sha256 of [...(swept?.deleted ?? []), ...(swept?.expired ?? [])]) await masters.remove(sha256);
    return swept;
  } catch (error) {
    for (const sha256 of moved) await masters.restore(sha256);
    throw error;
  }
}

/** Deletes unfinished files of attempts that have ended. @returns how many files */
export async function sweepUnfinished({ database: { sequelize }, files }: Swept): Promise<number> {
  const elsewhere = await sequelize.query<{ target: string; inUse: boolean }>(
    `SELECT o.target, bool_or(r.finished_at IS NULL) AS "inUse" FROM outputs o JOIN runs r ON r.id = o.run_id
     WHERE o.target LIKE '/%' AND coalesce(r.finished_at, now()) > now() - interval '1 day' GROUP BY o.target`,
    { type: QueryTypes.SELECT },
  );
  const targets = elsewhere.map(({ target }) => target);
  const swept = await files.outputs.sweep(targets, async (ids) => {
    const rows = await sequelize.query<{ id: string; attempt: string }>(
      `SELECT id, attempt FROM outputs WHERE id IN (SELECT jsonb_array_elements_text(:ids::jsonb)::uuid) AND state IN ('planned', 'running')`,
      { type: QueryTypes.SELECT, replacements: { ids: JSON.stringify(ids) } },
    );
    return new Set(rows.map(({ id, attempt }) => `${id}.${attempt}`));
  });
  await files.outputs.tidy(elsewhere.flatMap(({ target, inUse }) => (inUse ? [] : [target])));
  return swept;
}

/** Deletes stored answers to uploads that are too old to be asked for again. */
export async function forgetArrivals({ database: { sequelize } }: Swept): Promise<void> {
  await sequelize.query(`DELETE FROM arrivals WHERE arrived_at < now() - interval '${BIN_DAYS} days'`);
}

/** How long what can be made anew is kept in caches, in ms. */
export const CACHE_KEPT_MS = BIN_DAYS * DAY;
