import { createWriteStream } from 'node:fs';
import { chmod, mkdir, readdir, readFile, utimes, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { MIGRATION_NAMES } from '@rundle/store';
import { callPostgres } from './postgres-tools';
import { BackupProblem, type FoundBackup, Repository } from './repository';
import { type Opener, opened } from './seal';

/**
 * Chooses a backup and holds all of it against its hashes, before anything is written anywhere.
 * @param name the newest, unless it is said
 * @param only what of it is wanted
 * @param opener opens the sealed key to passwords; null: they have to be typed in again
 * @returns it, with the key where it was sealed and can be opened
 * @throws BackupProblem
 */
export async function checkedBackup(
  folder: string,
  name: string | null,
  opener: Opener | null,
  only: 'all' | 'database' = 'all',
): Promise<FoundBackup & { repository: Repository; key: Uint8Array | null }> {
  const repository = await Repository.open(folder, false);
  const names = await repository.names();
  const chosen = name ?? names.at(-1);
  if (chosen === undefined) throw new BackupProblem(`There is no backup in ${folder} yet.`);
  if (!names.includes(chosen))
    throw new BackupProblem(`There is no backup ${chosen} in ${folder}. There are: ${names.slice(-10).join(', ')}.`);
  const found = await repository.read(chosen, only);
  const { schema } = found.record;
  if (!MIGRATION_NAMES.includes(schema))
    throw new BackupProblem(`The backup ${chosen} was made by a later version of Rundle (${schema}). Restore it with that one.`);
  const key = found.sealed && opener ? await opened(await readFile(found.sealed), opener) : null;
  return { ...found, repository, key };
}

/**
 * Writes the files of a backup into an empty folder, each held against its hash once more.
 * @param data empty, or not there yet
 * @throws BackupProblem
 */
export async function restoreFiles({ repository, record, key }: Awaited<ReturnType<typeof checkedBackup>>, data: string): Promise<void> {
  const there = await readdir(data).catch((): string[] => []);
  if (there.length > 0) throw new BackupProblem(`${data} is not empty, so that nothing was restored. Choose an empty folder.`);
  for (const { path, sha256, mode, mtimeMs } of record.files) {
    const to = join(data, path);
    await mkdir(dirname(to), { recursive: true, mode: path.startsWith('outputs/') ? 0o777 : 0o700 });
    await pipeline(repository.content(sha256), createWriteStream(to, { flags: 'wx', flush: true }));
    await chmod(to, mode);
    await utimes(to, mtimeMs / 1000, mtimeMs / 1000);
  }
  if (key) await writeFile(join(data, 'secrets.key'), key, { mode: 0o600, flag: 'wx' });
}

/** Fills an empty database from the dump of a backup, whole or not at all. @throws BackupProblem */
export const restoreDatabase = ({ dump }: FoundBackup, databaseUrl: string): Promise<void> =>
  callPostgres('pg_restore', databaseUrl, [
    '--no-owner',
    '--single-transaction',
    '--exit-on-error',
    '-d',
    new URL(databaseUrl).pathname.slice(1),
    dump,
  ]);
