import { rm } from 'node:fs/promises';
import type { Services } from '../services';
import { QueryTypes } from 'sequelize';

/** How long what was thrown away can be had back. */
export const BIN_DAYS = 30;

/**
 * Forgets sets and pictures that have been in the bin for {@link BIN_DAYS} days, and the uploaded files that only they used.
 * Outputs on disk stay, and files on the machine are never touched. Called before the server listens, so that no upload of
 * the same file comes in between.
 * @returns how many files were deleted
 */
export async function emptyBin({ database: { sequelize }, storage }: Pick<Services, 'database' | 'storage'>): Promise<number> {
  const files = await sequelize.transaction(async (transaction) => {
    const old = `now() - interval '${BIN_DAYS} days'`;
    const gone = await sequelize.query<{ sha256: string | null }>(
      `WITH sets_gone AS (SELECT id FROM sets WHERE deleted_at < ${old})
       SELECT DISTINCT sha256 FROM masters WHERE removed_at < ${old} OR set_id IN (SELECT id FROM sets_gone)`,
      { type: QueryTypes.SELECT, transaction },
    );
    await sequelize.query(`DELETE FROM masters WHERE removed_at < ${old}`, { transaction });
    await sequelize.query(`DELETE FROM sets WHERE deleted_at < ${old}`, { transaction });
    const hashes = gone.flatMap(({ sha256 }) => sha256 ?? []);
    if (hashes.length === 0) return [];
    const used = await sequelize.query<{ sha256: string }>(`SELECT DISTINCT sha256 FROM masters WHERE sha256 IN (:hashes)`, {
      ...{ type: QueryTypes.SELECT as const, replacements: { hashes }, transaction },
    });
    const still = new Set(used.map(({ sha256 }) => sha256));
    return hashes.filter((sha256) => !still.has(sha256));
  });
  for (const sha256 of files) for (const path of [storage.master(sha256), storage.proxy(sha256)]) await rm(path, { force: true });
  return files.length;
}
