import { lstat, readdir, readFile, rm, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { type BackupDone, type BackupFile, type NotInBackup } from '@rundle/core';
import { markOf, openOnce, sha256Of } from '@rundle/place';
import { BACKUP_LOCK, FILES_STAND_LOCK } from '@rundle/store';
import { Client } from 'pg';
import { callPostgres } from './postgres-tools';
import { BackupProblem, Repository } from './repository';
import { type Seal, sealed } from './seal';

/** Folders of the data folder that belong to a backup. The others hold what can be made anew, what is on its way, or the database itself. */
const FOLDERS = ['masters', 'bin', 'outputs', 'cache/proxies', 'cache/deliveries', 'stand-ins'];
const FILES = ['studio.json'];
/** The key by which passwords of receivers are encrypted in the database. */
const SECRETS = 'secrets.key';
/** Among unfinished outputs: what is on its way from one place to another. */
const TAKEN = /\.taken$/;

/** From this attempt on nothing is put in its place while files are copied. */
const STAND_STILL_FROM = 3;
/** How long programs that put files in their places may have to wait behind a backup that waits itself, ms; and how often it tries. */
const LOCK_PATIENCE = 1000;
const LOCK_TRIES = 60;
/** PostgreSQL manual, appendix A. */
const LOCK_NOT_AVAILABLE = '55P03';
/** How long what is being put in its place may take to be so, ms. */
const DRAIN = 5000;

export interface Studio {
  databaseUrl: string;
  /** The data folder, absolute. */
  data: string;
}

interface Listed {
  path: string;
  mark: string;
  mode: number;
  mtimeMs: number;
}

/**
 * Makes a backup of a studio, also while it runs, and during a run: the database as it is at one moment, and the files as they are then. What
 * earlier backups have is not copied again. While it lasts, the bin is not emptied.
 * @param seal for whom the key to passwords is sealed; null: it is left out
 * @throws BackupProblem
 */
export async function makeBackup({ databaseUrl, data }: Studio, folder: string, seal: Seal | null): Promise<BackupDone> {
  const repository = await Repository.open(folder, true);
  const letGo = await repository.hold();
  const locks = new Client({ connectionString: databaseUrl });
  try {
    await locks.connect();
    await locks.query(`SELECT pg_advisory_lock_shared(${BACKUP_LOCK})`);
    const madeAt = new Date();
    const { folder: parts, dump, sealed: sealedPath } = await repository.begin();
    const known = new Known(repository);
    for (let attempt = 1; ; attempt++) {
      const frozen = await freeze({ databaseUrl, data }, locks, dump, known, attempt >= STAND_STILL_FROM);
      if (!frozen) continue;
      const secrets = seal && (await sealKey(data, sealedPath, seal));
      const database = { bytes: (await stat(dump)).size, sha256: await sha256Of(dump) };
      const { files, schema, notIn } = frozen;
      const name = await repository.finish(parts, {
        kind: 'rundle.backup',
        version: 1,
        madeAt: madeAt.toISOString(),
        schema,
        database,
        secrets,
        notIn,
        files,
      });
      const thinned = await repository.thin(new Date());
      const bytes = files.reduce((sum, file) => sum + file.bytes, database.bytes);
      return { name, files: files.length, bytes, newBytes: known.newBytes + database.bytes, thinned, notIn };
    }
  } finally {
    await locks.end().catch(() => {});
    await letGo();
  }
}

/** What has been copied, by what it is on the disk, so that a second attempt copies only what has changed. */
class Known {
  newBytes = 0;
  private readonly byMark = new Map<string, { sha256: string; bytes: number }>();

  constructor(private readonly repository: Repository) {}

  /** @returns null when it is not what was listed any more */
  async keep(root: string, { path, mark }: Listed): Promise<{ sha256: string; bytes: number } | null> {
    const known = this.byMark.get(mark);
    if (known) return known;
    const found = await openOnce(join(root, path)).catch(() => null);
    if (!found) return null;
    const { file, opened } = found;
    try {
      if (opened.mark !== mark) return null;
      const { isNew, ...kept } = await this.repository.keep(file.createReadStream({ start: 0, autoClose: false }));
      // Written to while it was read.
      if (markOf(await file.stat({ bigint: true })) !== mark) return null;
      if (isNew) this.newBytes += kept.bytes;
      this.byMark.set(mark, kept);
      return kept;
    } finally {
      await file.close();
    }
  }
}

/**
 * Takes the database at one moment and the files as they are then. What puts files in their places waits for that moment, and, where files are replaced
 * faster than they are copied, until they have been.
 * @returns null when a file was replaced before it was copied: then it is to be tried again
 */
async function freeze(
  { databaseUrl, data }: Studio,
  locks: Client,
  dump: string,
  known: Known,
  standsStill: boolean,
): Promise<{ files: BackupFile[]; schema: string; notIn: NotInBackup } | null> {
  const moment = new Client({ connectionString: databaseUrl });
  await moment.connect();
  try {
    await standStill(locks);
    let listed: Listed[];
    let copied: BackupFile[] | null = null;
    try {
      await drained(locks);
      await moment.query('BEGIN ISOLATION LEVEL REPEATABLE READ READ ONLY');
      await moment.query('SELECT count(*) FROM outputs'); // the moment is that of the first question
      listed = await filesOf(data);
      if (standsStill) copied = await copy(data, listed, known);
    } finally {
      await locks.query(`SELECT pg_advisory_unlock(${FILES_STAND_LOCK})`);
    }
    const { rows } = await moment.query<{ id: string }>('SELECT pg_export_snapshot() AS id');
    await rm(dump, { force: true });
    await callPostgres('pg_dump', databaseUrl, ['-Fc', '-Z1', '--no-owner', `--snapshot=${rows[0]!.id}`, '-f', dump]);
    const about = await moment.query<{ schema: string; masters: number; outputs: number }>(
      `SELECT (SELECT max(name) FROM "SequelizeMeta") AS schema,
         (SELECT count(*)::int FROM masters WHERE source_path IS NOT NULL AND removed_at IS NULL) AS masters,
         (SELECT count(*)::int FROM outputs WHERE is_newest AND target LIKE '/%') AS outputs`,
    );
    const files = copied ?? (await copy(data, listed, known));
    if (!files) return null;
    const { schema, ...notIn } = about.rows[0]!;
    return { files, schema, notIn };
  } finally {
    await moment.end().catch(() => {});
  }
}

/**
 * Has what puts files in their places wait. Where one of them stands still itself, those behind it are let go at once, and it is tried again.
 * @throws BackupProblem
 */
async function standStill(locks: Client): Promise<void> {
  await locks.query(`SET lock_timeout = ${LOCK_PATIENCE}`);
  for (let tries = 1; ; tries++) {
    try {
      await locks.query(`SELECT pg_advisory_lock(${FILES_STAND_LOCK})`);
      return;
    } catch (error) {
      if ((error as { code?: unknown }).code !== LOCK_NOT_AVAILABLE) throw error;
      if (tries >= LOCK_TRIES)
        throw new BackupProblem('A worker has been putting a file in its place for minutes. Make the backup when it has ended.');
      await wait(5 * LOCK_PATIENCE);
    }
  }
}

/** Waits until nothing is between being written down and standing in its place; what a crashed program left there is gone on with anyway. */
async function drained(locks: Client): Promise<void> {
  for (const end = Date.now() + DRAIN; Date.now() < end; await wait(50)) {
    const { rows } = await locks.query(
      `SELECT 1 FROM outputs o JOIN runs r ON r.id = o.run_id WHERE r.finished_at IS NULL AND o.state = 'running' AND o.content IS NOT NULL LIMIT 1`,
    );
    if (rows.length === 0) return;
  }
}

async function copy(data: string, listed: readonly Listed[], known: Known): Promise<BackupFile[] | null> {
  const files: BackupFile[] = [];
  for (const one of listed) {
    const kept = await known.keep(data, one);
    if (kept === null) {
      // Gone for good is not replaced: cleared away, or deleted by hand.
      if (await lstat(join(data, one.path)).catch(() => null)) return null;
      continue;
    }
    files.push({ path: one.path, ...kept, mode: one.mode, mtimeMs: one.mtimeMs });
  }
  return files;
}

async function filesOf(data: string): Promise<Listed[]> {
  const found: Listed[] = [];
  const add = async (path: string) => {
    const about = await lstat(join(data, path), { bigint: true }).catch(() => null);
    if (about?.isFile()) found.push({ path, mark: markOf(about), mode: Number(about.mode) & 0o7777, mtimeMs: Number(about.mtimeMs) });
  };
  const walk = async (folder: string): Promise<void> => {
    for (const entry of await readdir(join(data, folder), { withFileTypes: true }).catch(() => [])) {
      const path = `${folder}/${entry.name}`;
      if (entry.isDirectory()) await walk(path);
      else if (entry.isFile() && (!path.startsWith('outputs/.unfinished/') || TAKEN.test(path))) await add(path);
    }
  };
  for (const folder of FOLDERS) await walk(folder);
  for (const path of FILES) await add(path);
  return found;
}

async function sealKey(data: string, to: string, seal: Seal) {
  const key = await readFile(join(data, SECRETS)).catch(() => null);
  if (!key) return null; // no receiver has a password yet
  const bytes = await sealed(key, seal);
  await writeFile(to, bytes, { mode: 0o600, flush: true });
  return { sealedFor: seal.kind, bytes: bytes.length, sha256: await sha256Of(to) };
}
