import { rm } from 'node:fs/promises';
import type { Clearing, Freed, OutputsRemoval } from '@rundle/core';
import { notify } from '@rundle/store';
import { QueryTypes } from 'sequelize';
import { outputThumbnailPath } from '../hand-over/output-thumbnails';
import { removableOutputs, removeFiles, weighed } from '../hand-over/removable-outputs';
import type { Stores } from '../services';
import { findSet } from '../sets/find';
import { isElsewhere } from './measure';

/** Removes outputs of a set; what somebody has changed stays. To be asked of a thread. @throws HttpProblem */
export async function removeOutputs(stores: Stores, { setId, presetId, masterIds, elsewhere }: OutputsRemoval): Promise<Freed> {
  await findSet(stores.database, setId);
  const all = await removableOutputs(stores, { setId, ...(presetId ? { presetId } : {}), ...(masterIds ? { masterIds } : {}) });
  const rows = elsewhere ? all : all.filter((row) => !isElsewhere(row));
  await stores.database.sequelize.transaction((transaction) => removeFiles(stores, setId, rows, transaction));
  return weighed(rows);
}

/**
 * Puts a set into the archive and removes what was made of it from Rundle's own folder, with what was measured and what was made small of it. Masters, their small
 * pictures, the record and the versions of its presets stay, so that it can be made again. To be asked of a thread.
 * @throws HttpProblem
 */
export async function finishSet(stores: Stores, data: string, setId: string): Promise<Freed> {
  const { database } = stores;
  const { sequelize } = database;
  const rows = (await removableOutputs(stores, { setId })).filter((row) => !isElsewhere(row));
  await sequelize.transaction(async (transaction) => {
    await removeFiles(stores, setId, rows, transaction);
    const set = await findSet(database, setId, transaction);
    await set.update({ archivedAt: new Date(), deletedAt: null }, { transaction });
    await sequelize.query(
      `DELETE FROM measured_outputs WHERE content IN (SELECT sha256 FROM masters WHERE set_id = :setId) AND content NOT IN (
         SELECT m.sha256 FROM masters m JOIN sets s ON s.id = m.set_id
         WHERE m.sha256 IS NOT NULL AND s.id <> :setId AND s.archived_at IS NULL AND s.deleted_at IS NULL)`,
      { replacements: { setId }, transaction },
    );
    await notify(sequelize, { about: 'set', setId, ids: [setId] }, transaction);
  });
  for (const { content } of rows) if (content) await rm(outputThumbnailPath(data, content), { force: true });
  return weighed(rows);
}

/** What clearing pictures away would do. To be asked of a thread. @throws HttpProblem */
export async function previewClearing(stores: Stores, setId: string, masterIds: readonly string[]): Promise<Clearing> {
  const { sequelize } = stores.database;
  await findSet(stores.database, setId);
  const replacements = { setId, ids: JSON.stringify(masterIds) };
  const own = `SELECT * FROM masters WHERE set_id = :setId AND removed_at IS NULL AND id IN (SELECT jsonb_array_elements_text(:ids::jsonb)::uuid)`;
  const rows = await sequelize.query<{ id: string; bytes: number; sha256: string | null; path: string | null; others: string[] }>(
    `WITH own AS (${own})
     SELECT own.id, own.bytes::float8 AS bytes, own.sha256, own.source_path AS path, ARRAY(
       SELECT DISTINCT s.title FROM masters m JOIN sets s ON s.id = m.set_id
       WHERE m.sha256 = own.sha256 AND m.removed_at IS NULL AND s.deleted_at IS NULL AND m.id NOT IN (SELECT id FROM own)) AS others
     FROM own`,
    { type: QueryTypes.SELECT, replacements },
  );
  const uploaded = rows.filter(({ path }) => path === null);
  const alone = new Map(uploaded.flatMap(({ sha256, bytes, others }) => (others.length ? [] : [[sha256, bytes] as const])));
  const made = await removableOutputs(stores, { setId, masterIds });
  return {
    pictures: rows.length,
    uploaded: weighed(uploaded),
    freed: [...alone.values()].reduce((sum, bytes) => sum + bytes, 0),
    paths: rows.flatMap(({ path }) => path ?? []).sort(),
    otherSets: [...new Set(rows.flatMap(({ others }) => others))].sort(),
    outputs: weighed(made),
  };
}
