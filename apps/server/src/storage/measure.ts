import { statfs } from 'node:fs/promises';
import { join } from 'node:path';
import { CACHES, type Shelf, type StorageKind, type StorageView, type StoredMasters, type StoredOutputs } from '@rundle/core';
import { QueryTypes, type Sequelize } from 'sequelize';
import { removableOutputs, type RemovableOutput, weighed } from '../hand-over/removable-outputs';
import type { Stores } from '../services';
import { boundOf, cacheEntries, filesBelow } from './caches';

/** Folders of the data folder, by what they are for. */
const FOLDERS = {
  masters: 'masters',
  outputs: 'outputs',
  'small-pictures': 'cache/proxies',
  uploads: 'incoming',
  bin: 'bin',
} as const satisfies Partial<Record<StorageKind, string>>;

/** The shelf of the set `s`. */
const SHELF = `CASE WHEN s.deleted_at IS NOT NULL THEN 'bin' WHEN s.archived_at IS NOT NULL THEN 'archive' ELSE 'work' END`;

/** Measures what uses space: all files of the data folder are looked at. To be asked of a thread. */
export async function measureStorage(stores: Stores, data: string): Promise<StorageView> {
  const { database } = stores;
  const { sequelize } = database;
  const measuredAt = new Date().toISOString();
  const caches = await Promise.all(
    CACHES.map(async (cache) => {
      const entries = await cacheEntries(database, data, cache);
      return { cache, files: sum(entries, 'files'), bytes: sum(entries, 'bytes') };
    }),
  );
  const folders = await Promise.all(
    Object.entries(FOLDERS).map(async ([kind, folder]) => {
      const files = await filesBelow(join(data, folder));
      return { kind: kind as StorageKind, files: files.length, bytes: sum(files, 'bytes') };
    }),
  );
  const [size] = await sequelize.query<{ bytes: number }>('SELECT pg_database_size(current_database())::float8 AS bytes', {
    type: QueryTypes.SELECT,
  });
  const [bin] = await sequelize.query<StorageView['bin']>(
    `WITH contents AS (
       SELECT sha256, max(bytes) AS bytes, bool_and(m.removed_at IS NOT NULL OR s.deleted_at IS NOT NULL) AS binned
       FROM masters m JOIN sets s ON s.id = m.set_id WHERE sha256 IS NOT NULL AND source_path IS NULL GROUP BY sha256)
     SELECT (SELECT count(*)::int FROM sets WHERE deleted_at IS NOT NULL) AS sets, (SELECT count(*)::int FROM masters WHERE removed_at IS NOT NULL) AS pictures,
       (SELECT coalesce(sum(bytes), 0)::float8 FROM contents WHERE binned) AS bytes`,
    { type: QueryTypes.SELECT },
  );
  const disk = await statfs(data).catch(() => null);
  return {
    measuredAt,
    freeBytes: disk && disk.bavail * disk.bsize,
    kinds: [
      ...folders,
      { kind: 'caches', files: sum(caches, 'files'), bytes: sum(caches, 'bytes') },
      { kind: 'database', files: 0, bytes: size!.bytes },
    ],
    masters: await mastersBySet(sequelize),
    outputs: await outputsBySet(sequelize, await removableOutputs(stores, {})),
    caches,
    bin: bin!,
    boundMB: await boundOf(database),
  };
}

const sum = <Key extends string>(list: readonly Record<Key, number>[], key: Key): number => list.reduce((all, one) => all + one[key], 0);

/** Uploaded masters by set; a file that several sets have counts in each. */
const mastersBySet = (sequelize: Sequelize): Promise<StoredMasters[]> =>
  sequelize.query<StoredMasters>(
    `SELECT s.id AS "setId", s.title AS "setTitle", ${SHELF} AS shelf,
       count(*) FILTER (WHERE m.source_path IS NULL)::int AS files, coalesce(sum(m.bytes) FILTER (WHERE m.source_path IS NULL), 0)::float8 AS bytes,
       count(*) FILTER (WHERE m.source_path IS NOT NULL)::int AS "onMachine"
     FROM masters m JOIN sets s ON s.id = m.set_id WHERE m.removed_at IS NULL GROUP BY s.id ORDER BY bytes DESC`,
    { type: QueryTypes.SELECT },
  );

async function outputsBySet(sequelize: Sequelize, rows: readonly RemovableOutput[]): Promise<StoredOutputs[]> {
  const sets = new Map(
    (
      await sequelize.query<{ id: string; title: string; shelf: Shelf }>(`SELECT s.id, s.title, ${SHELF} AS shelf FROM sets s`, {
        type: QueryTypes.SELECT,
      })
    ).map(({ id, ...set }) => [id, set]),
  );
  const titles = new Map(
    (
      await sequelize.query<{ id: string; title: string }>(
        `SELECT DISTINCT ON (preset_id) preset_id AS id, body->>'title' AS title FROM preset_versions ORDER BY preset_id, version DESC`,
        { type: QueryTypes.SELECT },
      )
    ).map(({ id, title }) => [id, title]),
  );
  const groups = new Map<string, RemovableOutput[]>();
  for (const row of rows) {
    const key = `${row.setId} ${row.presetId}`;
    const group = groups.get(key);
    if (group) group.push(row);
    else groups.set(key, [row]);
  }
  return [...groups.values()]
    .map((group): StoredOutputs => {
      const [{ setId, presetId }] = group as [RemovableOutput];
      const set = sets.get(setId);
      const elsewhere = group.filter(isElsewhere);
      return {
        setId,
        setTitle: set?.title ?? '',
        shelf: set?.shelf ?? 'work',
        presetId,
        presetTitle: titles.get(presetId) ?? '',
        versions: [...new Set(group.map(({ presetVersion }) => presetVersion))].sort((a, b) => a - b),
        ...weighed(group),
        elsewhere: weighed(elsewhere),
        folders: [...new Set(elsewhere.map(({ target }) => target))].sort(),
      };
    })
    .sort((a, b) => b.bytes - a.bytes);
}

/** Whether a file lies outside Rundle's own folder. */
export const isElsewhere = ({ target }: Pick<RemovableOutput, 'target'>): boolean => target.startsWith('/');
