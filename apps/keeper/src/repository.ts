import { createHash, randomUUID } from 'node:crypto';
import { createReadStream, createWriteStream, existsSync } from 'node:fs';
import { mkdir, readdir, readFile, rename, rm, stat, writeFile } from 'node:fs/promises';
import { hostname } from 'node:os';
import { dirname, join } from 'node:path';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { BackupRecord, backupName, backupTime, jsonOrNull, thinnedOut } from '@rundle/core';
import { codeOf, flush, sha256Of } from '@rundle/place';
import * as z from 'zod';

/** Something is wrong that a person has to do something about; the message says what. */
export class BackupProblem extends Error {}

/** Says what the folder is; nothing else is ever written to one that has none, unless it is empty. */
const MARK = 'rundle-backups.json';
const RECORD = 'backup.json';
/** SHA-256 of the record, beside it. */
const PROOF = 'backup.sha256';
const DUMP = 'database.dump';
const SEALED = 'secrets.age';
const UNFINISHED = '.unfinished';
const LOCK = 'in-use.json';
const Holder = z.object({ pid: z.number(), host: z.string(), begun: z.number() });
/** A holder on another machine that has not ended after so long is gone, ms. */
const LONGEST = 24 * 3600 * 1000;

/** A backup whose files are all there. */
export interface FoundBackup {
  name: string;
  record: BackupRecord;
  /** Path of the dump of its database. */
  dump: string;
  /** Path of the sealed key; null: it was left out. */
  sealed: string | null;
}

/** A folder of backups: every content once, by its hash, and for each backup a record of which it consists of. */
export class Repository {
  private constructor(readonly folder: string) {}

  /**
   * @param makes whether a folder that is not there, or empty, becomes one
   * @throws BackupProblem when it is no folder of backups
   */
  static async open(folder: string, makes: boolean): Promise<Repository> {
    const mark = join(folder, MARK);
    if (!existsSync(mark)) {
      const there = await readdir(folder).catch((error: unknown) => {
        if (codeOf(error) === 'ENOENT') return [];
        throw new BackupProblem(`${folder} cannot be looked into (${codeOf(error)}). Choose another folder, or allow that.`);
      });
      if (!makes || there.length > 0)
        throw new BackupProblem(
          makes
            ? `${folder} holds something else. Choose an empty folder, or one with backups of Rundle.`
            : `${folder} holds no backups of Rundle. Check the path.`,
        );
      await mkdir(folder, { recursive: true, mode: 0o700 });
      await writeFile(`${mark}.new`, '{"kind":"rundle.backups","version":1}\n', { flush: true });
      await rename(`${mark}.new`, mark);
    }
    return new Repository(folder);
  }

  /**
   * Holds the folder, so that two programs never change it at once.
   * @returns lets go of it
   * @throws BackupProblem when another has it
   */
  async hold(): Promise<() => Promise<void>> {
    const path = join(this.folder, LOCK);
    const own = JSON.stringify({ pid: process.pid, host: hostname(), begun: Date.now() });
    for (let tries = 0; ; tries++) {
      try {
        await writeFile(path, own, { flag: 'wx' });
        return () => rm(path, { force: true });
      } catch (error) {
        if (codeOf(error) !== 'EEXIST' || tries > 0) throw error;
      }
      const holder = Holder.safeParse(jsonOrNull(await readFile(path, 'utf8').catch(() => '')));
      if (holder.success && isThere(holder.data))
        throw new BackupProblem(
          `Another program is using ${this.folder} (process ${holder.data.pid} on ${holder.data.host}). Wait for its end.`,
        );
      await rm(path, { force: true });
    }
  }

  contentPath(sha256: string): string {
    return join(this.folder, 'contents', sha256.slice(0, 2), sha256);
  }

  /** Whether a content is there, as long as it should be. */
  async has(sha256: string, bytes: number): Promise<boolean> {
    return (await stat(this.contentPath(sha256)).catch(() => null))?.size === bytes;
  }

  /** Keeps a content, hashed on its way. @returns its hash and length, and whether it was new */
  async keep(content: Readable): Promise<{ sha256: string; bytes: number; isNew: boolean }> {
    const aside = join(this.folder, UNFINISHED, randomUUID());
    await mkdir(dirname(aside), { recursive: true });
    const hash = createHash('sha256');
    let bytes = 0;
    try {
      await pipeline(
        content,
        async function* (parts: AsyncIterable<Buffer>) {
          for await (const part of parts) {
            hash.update(part);
            bytes += part.length;
            yield part;
          }
        },
        createWriteStream(aside, { flags: 'wx', mode: 0o600, flush: true }),
      );
      const sha256 = hash.digest('hex');
      if (await this.has(sha256, bytes)) return { sha256, bytes, isNew: false };
      await mkdir(dirname(this.contentPath(sha256)), { recursive: true });
      await rename(aside, this.contentPath(sha256));
      return { sha256, bytes, isNew: true };
    } finally {
      await rm(aside, { force: true });
    }
  }

  /** Where the parts of a backup are made until it is whole. */
  async begin(): Promise<{ folder: string; dump: string; sealed: string }> {
    const folder = join(this.folder, UNFINISHED, randomUUID());
    await mkdir(folder, { recursive: true });
    return { folder, dump: join(folder, DUMP), sealed: join(folder, SEALED) };
  }

  /** Ends a backup: it is there whole from now on, or not at all. @returns its name */
  async finish(folder: string, record: BackupRecord): Promise<string> {
    const text = `${JSON.stringify(record)}\n`;
    await writeFile(join(folder, RECORD), text, { flush: true });
    await writeFile(join(folder, PROOF), createHash('sha256').update(text).digest('hex'), { flush: true });
    for (const name of await readdir(folder)) await flush(join(folder, name));
    await mkdir(join(this.folder, 'backups'), { recursive: true });
    for (let at = new Date(record.madeAt).getTime(); ; at += 1000) {
      const name = backupName(new Date(at));
      if (existsSync(join(this.folder, 'backups', name))) continue;
      await rename(folder, join(this.folder, 'backups', name));
      await flush(join(this.folder, 'backups'));
      return name;
    }
  }

  /** The backups by name, the newest last. */
  async names(): Promise<string[]> {
    const found = await readdir(join(this.folder, 'backups')).catch((): string[] => []);
    return found.filter((name) => backupTime(name) !== null).toSorted();
  }

  /**
   * Reads a backup and holds all that it names, or its database alone, against its hashes, before anything is done with it.
   * @throws BackupProblem that says what is missing or has been changed
   */
  async read(name: string, only: 'all' | 'database' = 'all'): Promise<FoundBackup> {
    const record = await this.recordOf(name);
    const folder = join(this.folder, 'backups', name);
    const dump = join(folder, DUMP);
    const sealed = record.secrets ? join(folder, SEALED) : null;
    const wrong: string[] = [];
    const check = async (path: string, what: string, bytes: number, sha256: string) => {
      const size = (await stat(path).catch(() => null))?.size;
      if (size === undefined) wrong.push(`${what} is missing`);
      else if (size !== bytes) wrong.push(`${what} is cut off (${size} of ${bytes} bytes)`);
      else if ((await sha256Of(path)) !== sha256) wrong.push(`${what} has been changed`);
    };
    await check(dump, DUMP, record.database.bytes, record.database.sha256);
    if (record.secrets && sealed) await check(sealed, SEALED, record.secrets.bytes, record.secrets.sha256);
    const checked = new Set<string>();
    for (const { path, bytes, sha256 } of only === 'all' ? record.files : []) {
      if (checked.has(sha256)) continue;
      checked.add(sha256);
      await check(this.contentPath(sha256), path, bytes, sha256);
    }
    if (wrong.length > 0)
      throw new BackupProblem(
        `The backup ${name} is not whole, so that nothing was restored: ${wrong.slice(0, 5).join('; ')}${wrong.length > 5 ? ` and ${wrong.length - 5} more` : ''}. Take another one.`,
      );
    return { name, record, dump, sealed };
  }

  /** @throws BackupProblem */
  async recordOf(name: string): Promise<BackupRecord> {
    const folder = join(this.folder, 'backups', name);
    const text = await readFile(join(folder, RECORD), 'utf8').catch(() => null);
    const proof = await readFile(join(folder, PROOF), 'utf8').catch(() => null);
    const parsed = BackupRecord.safeParse(jsonOrNull(text ?? ''));
    if (text === null || !parsed.success || proof?.trim() !== createHash('sha256').update(text).digest('hex'))
      throw new BackupProblem(`The record of the backup ${name} is missing, cut off or has been changed. Take another one.`);
    return parsed.data;
  }

  /** Removes old backups by the rule, and contents that none names any more. @returns how many backups */
  async thin(now: Date): Promise<number> {
    await rm(join(this.folder, UNFINISHED), { recursive: true, force: true });
    const old = thinnedOut(await this.names(), now);
    for (const name of old) await rm(join(this.folder, 'backups', name), { recursive: true });
    if (old.length === 0) return 0;
    const used = new Set<string>();
    for (const name of await this.names()) {
      // While one cannot be read nobody knows what it names: nothing is removed.
      const record = await this.recordOf(name).catch(() => null);
      if (!record) return old.length;
      for (const { sha256 } of record.files) used.add(sha256);
    }
    const contents = join(this.folder, 'contents');
    for (const part of await readdir(contents).catch((): string[] => []))
      for (const sha256 of await readdir(join(contents, part)).catch((): string[] => []))
        if (/^[0-9a-f]{64}$/.test(sha256) && !used.has(sha256)) await rm(join(contents, part, sha256), { force: true });
    return old.length;
  }

  /** @returns the content, to be read */
  content(sha256: string): Readable {
    return createReadStream(this.contentPath(sha256));
  }
}

function isThere({ pid, host, begun }: z.infer<typeof Holder>): boolean {
  if (host !== hostname()) return Date.now() - begun < LONGEST;
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return codeOf(error) === 'EPERM';
  }
}
