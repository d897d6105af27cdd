import { readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { CACHE_BOUND, type CacheEntry, type CacheName, CACHES, overBound } from '@rundle/core';
import type { Database } from '@rundle/store';
import { QueryTypes, type Sequelize } from 'sequelize';

/** Something in a cache, with where it lies. */
export interface StoredEntry extends CacheEntry {
  path: string;
  files: number;
}

/** Files below a folder, with what they weigh; none where there is no such folder. */
export async function filesBelow(folder: string): Promise<{ path: string; bytes: number; usedMs: number }[]> {
  const found = await readdir(folder, { withFileTypes: true, recursive: true }).catch(() => []);
  const files = found.filter((entry) => entry.isFile()).map(({ parentPath, name }) => join(parentPath, name));
  const weighed: { path: string; bytes: number; usedMs: number }[] = [];
  for (let at = 0; at < files.length; at += AT_ONCE) {
    const looked = await Promise.all(
      files.slice(at, at + AT_ONCE).map(async (path) => {
        const file = await stat(path).catch(() => null); // it may just have gone
        return file && { path, bytes: file.size, usedMs: Math.max(file.mtimeMs, file.atimeMs) };
      }),
    );
    weighed.push(...looked.filter((file) => file !== null));
  }
  return weighed;
}

/** Files that are looked at at the same time. */
const AT_ONCE = 64;

/** Caches of which each folder is one thing, which goes as a whole. */
const WHOLE: readonly CacheName[] = ['deliveries', 'feed-trips'];

/** What lies in a cache and may go: of deliveries only what belongs to those that are over. */
export async function cacheEntries({ sequelize }: Pick<Database, 'sequelize'>, data: string, cache: CacheName): Promise<StoredEntry[]> {
  const folder = join(data, 'cache', cache);
  const files = await filesBelow(folder);
  if (!WHOLE.includes(cache)) return files.map((file) => ({ ...file, files: 1 }));
  const entries = new Map<string, StoredEntry>();
  for (const { path, bytes, usedMs } of files) {
    const name = path.slice(folder.length + 1).split('/')[0]!;
    const entry = entries.get(name) ?? { path: join(folder, name), bytes: 0, usedMs: 0, files: 0 };
    entries.set(name, { ...entry, bytes: entry.bytes + bytes, usedMs: Math.max(entry.usedMs, usedMs), files: entry.files + 1 });
  }
  if (cache === 'deliveries') for (const id of await openDeliveries(sequelize)) entries.delete(id);
  return [...entries.values()];
}

async function openDeliveries(sequelize: Sequelize): Promise<string[]> {
  const rows = await sequelize.query<{ id: string }>(`SELECT id FROM deliveries WHERE state IN ('checking', 'held', 'sending')`, {
    type: QueryTypes.SELECT,
  });
  return rows.map(({ id }) => id);
}

export async function removeEntries(entries: readonly StoredEntry[]): Promise<void> {
  for (const { path } of entries) await rm(path, { recursive: true, force: true });
}

/** What caches may take together, MB. */
export async function boundOf({ sequelize }: Pick<Database, 'sequelize'>): Promise<number> {
  const [row] = await sequelize.query<{ megabytes: number }>('SELECT megabytes FROM cache_bound', { type: QueryTypes.SELECT });
  return row?.megabytes ?? CACHE_BOUND.usual;
}

export async function keepBound({ sequelize }: Pick<Database, 'sequelize'>, megabytes: number): Promise<void> {
  await sequelize.query(
    'INSERT INTO cache_bound (id, megabytes) VALUES (1, :megabytes) ON CONFLICT (id) DO UPDATE SET megabytes = excluded.megabytes',
    { replacements: { megabytes } },
  );
}

/**
 * Deletes from the caches what has not been used for long, and what is over their bound, the least used first.
 * @param olderThanMs how long is long
 * @returns how many entries
 */
export async function sweepCaches(database: Pick<Database, 'sequelize'>, data: string, olderThanMs: number): Promise<number> {
  const entries = (await Promise.all(CACHES.map((cache) => cacheEntries(database, data, cache)))).flat();
  const old = entries.filter(({ usedMs }) => Date.now() - usedMs > olderThanMs);
  const rest = entries.filter((entry) => !old.includes(entry));
  const going = [...old, ...overBound(rest, (await boundOf(database)) * 1e6)];
  await removeEntries(going);
  return going.length;
}
