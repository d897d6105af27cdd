import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  symlinkSync,
  truncateSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type BackupDone, BackupRecord, type BackupsView, Preset, type RunDetail, type StoredPreset } from '@rundle/core';
import { generateIdentity, identityToRecipient } from 'age-encryption';
import { Client } from 'pg';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { newDatabase } from '../../../packages/store/test/database';
import { KEEPER, picture, TestServer } from './server';

/*
 * A backup that comes back: row by row, file by file, made while the studio runs.
 */

let server: TestServer;
let setId: string;
let web: StoredPreset;
const folder = join(mkdtempSync(join(tmpdir(), 'rundle-backups-')), 'here');
beforeAll(async () => {
  server = await TestServer.start();
  const body = Preset.parse({ kind: 'rundle.preset', version: 1, title: 'Web', size: { px: 200 }, existing: 'replace' });
  web = (await server.call<StoredPreset>('POST', '/api/presets', body)).json;
  setId = await server.set('Kept', 4, 400);
  await run(setId);
  await server.call('POST', '/api/receivers', {
    receiver: { kind: 'webdav', title: 'Site', address: 'https://site.example/dav', user: 'studio' },
    secret: 'a password',
  });
});
afterAll(() => server?.stop());

async function run(id: string): Promise<void> {
  const { json } = await server.call<RunDetail>('POST', `/api/sets/${id}/runs`, { presetIds: [web.id], earlier: 'go' });
  await server.until(async () => (await server.call<RunDetail>('GET', `/api/runs/${json.id}`)).json.state === 'done');
}

/** Calls the program as the server and the scripts do. */
function keeper<T = BackupDone>(
  args: readonly string[],
  more: NodeJS.ProcessEnv = {},
): { told: T & { problem?: string }; status: number | null } {
  const env = { ...process.env, RUNDLE_DATABASE_URL: server.config.databaseUrl, ...more };
  const { stdout, status, stderr } = spawnSync(process.execPath, [KEEPER, ...args], { env, encoding: 'utf8' });
  if (!stdout) throw new Error(stderr);
  return { told: JSON.parse(stdout) as T & { problem?: string }, status };
}
const backup = (more: readonly string[] = [], env: NodeJS.ProcessEnv = {}) =>
  keeper(['backup', '--data', server.config.data, '--folder', folder, ...more], env);

/** Every row of every table, in an order of its own. */
async function rowsOf(url: string): Promise<Record<string, string[]>> {
  const client = new Client({ connectionString: url });
  await client.connect();
  const tables = await client.query<{ name: string }>(
    `SELECT quote_ident(schemaname) || '.' || quote_ident(tablename) AS name FROM pg_tables WHERE schemaname IN ('public', 'graphile_worker') ORDER BY 1`,
  );
  const found: Record<string, string[]> = {};
  for (const { name } of tables.rows) {
    const { rows } = await client.query<{ row: string }>(`SELECT to_jsonb(t)::text AS row FROM ${name} t`);
    found[name] = rows.map(({ row }) => row).toSorted();
  }
  await client.end();
  return found;
}

/** Files below a folder that a backup is about, with their contents and modes. */
function filesOf(data: string, below = ''): Record<string, string> {
  const entries = readdirSync(join(data, below), { withFileTypes: true }).flatMap((entry): [string, string][] => {
    const path = below ? `${below}/${entry.name}` : entry.name;
    if (LEFT_OUT.test(path)) return [];
    if (entry.isDirectory()) return Object.entries(filesOf(data, path));
    const hash = createHash('sha256')
      .update(readFileSync(join(data, path)))
      .digest('hex');
    return [[path, `${hash} ${(statSync(join(data, path)).mode & 0o777).toString(8)}`]];
  });
  return Object.fromEntries(entries.toSorted(([a], [b]) => (a < b ? -1 : 1)));
}
const LEFT_OUT = /^(incoming|samples|secrets\.key|cache\/(feed-trips|output-thumbnails)|outputs\/\.unfinished)/;

/** Restores the files of one into an empty folder. */
function restoredFiles(name: string, env: NodeJS.ProcessEnv = {}) {
  const data = join(mkdtempSync(join(tmpdir(), 'rundle-restored-')), 'data');
  return { data, ...keeper<{ secrets: string }>(['restore-files', '--data', data, '--folder', folder, '--backup', name], env) };
}

/** Restores into an empty folder and a new database. */
async function restored(name: string) {
  const url = await newDatabase();
  keeper(['restore-database', '--folder', folder, '--backup', name], { RUNDLE_DATABASE_URL: url });
  return { url, ...restoredFiles(name) };
}

describe('a backup', () => {
  it('comes back on another machine with every row and every file, and is small when little has changed', async () => {
    // Nothing beats while the rows are compared.
    for (const worker of server.workers) worker.kill('SIGTERM');
    await server.until(() => Promise.resolve(server.workers.every(({ exitCode, signalCode }) => exitCode !== null || signalCode !== null)));
    const { told } = backup();
    expect(told).toMatchObject({ notIn: { masters: 0, outputs: 0 } });
    expect(told.files).toBe(Object.keys(filesOf(server.config.data)).length);
    const back = await restored(told.name);
    const { data, url } = back;
    expect(await rowsOf(url)).toEqual(await rowsOf(server.config.databaseUrl));
    expect(filesOf(data)).toEqual(filesOf(server.config.data));
    // Nobody asked for secrets: they are not in it, and their rows tell nothing without their key.
    expect([back.told.secrets, existsSync(join(data, 'secrets.key'))]).toEqual(['none', false]);
    const dump = readFileSync(join(folder, 'backups', told.name, 'database.dump'));
    expect(dump.includes('a password')).toBe(false);

    const again = backup();
    expect(again.told.newBytes).toBeLessThan(told.bytes / 2);
    expect(again.told.name > told.name).toBe(true);
    await server.startWorker();
  });

  it('is made by itself on a schedule, tells what came of it, and goes nowhere but where it may', async () => {
    const [root] = server.config.writeRoots;
    const plan = (more: object) => server.call<BackupsView>('PUT', '/api/backups/plan', { isOn: true, folder: null, ...more });
    expect((await plan({})).status).toBe(403);
    expect((await plan({ folder: '/etc' })).status).toBe(403);
    expect((await plan({ folder: join(server.config.data, 'backups') })).status).toBe(403);
    symlinkSync('/', join(root!, 'elsewhere'));
    expect((await plan({ folder: join(root!, 'elsewhere', 'tmp', 'backups') })).status).toBe(403);
    const there = join(root!, 'backups');
    mkdirSync(there);
    writeFileSync(join(there, 'somebody.txt'), 'something else');
    expect((await plan({ folder: there })).status).toBe(200);
    const view = async () => (await server.call<BackupsView>('GET', '/api/backups')).json;
    await server.until(async () => (await view()).last.length === 1);
    expect((await view()).last[0]).toMatchObject({ done: null, problem: expect.stringContaining('holds something else') as string });
    rmSync(join(there, 'somebody.txt'));
    await server.call('POST', '/api/backups');
    await server.until(async () => (await view()).last.length === 2);
    const [made] = (await view()).last;
    expect(made).toMatchObject({ problem: null, done: { notIn: { masters: 0, outputs: 0 } } });
    expect(existsSync(join(there, 'backups', made!.done!.name, 'backup.json'))).toBe(true);
    // Today's has been made.
    await plan({ folder: there });
    expect((await view()).running).toBe(false);
  });

  it('seals the key to passwords by a passphrase or for a key, and opens it for nobody else', async () => {
    const key = readFileSync(join(server.config.data, 'secrets.key'));
    const own = { RUNDLE_BACKUP_PASSPHRASE: 'seven lanterns' };
    const byPhrase = backup([], own).told.name;
    const opened = restoredFiles(byPhrase, own);
    expect(readFileSync(join(opened.data, 'secrets.key'))).toEqual(key);
    const wrong = keeper(['restore-files', '--data', join(folder, '../wrong'), '--folder', folder, '--backup', byPhrase], {
      RUNDLE_BACKUP_PASSPHRASE: 'eight lanterns',
    });
    expect([wrong.status, wrong.told.problem, existsSync(join(folder, '../wrong'))]).toEqual([
      3,
      expect.stringContaining('passphrase'),
      false,
    ]);
    expect(restoredFiles(byPhrase).told.secrets).toBe('sealed');

    const identity = await generateIdentity();
    const forKey = backup(['--seal-key', await identityToRecipient(identity)]).told.name;
    const { data } = restoredFiles(forKey, { RUNDLE_BACKUP_IDENTITY: identity });
    expect(readFileSync(join(data, 'secrets.key'))).toEqual(key);
    // In the open format of that name, which other programs open, too.
    const sealed = join(folder, 'backups', forKey, 'secrets.age');
    expect(readFileSync(sealed).subarray(0, 21).toString()).toBe('age-encryption.org/v1');
    expect(backup(['--seal-key', 'age1nobody']).told.problem).toContain('public key');
  });

  it('that was cut off or changed is told by what is wrong, and nothing of it is restored', () => {
    const { name } = backup().told;
    const record = BackupRecord.parse(JSON.parse(readFileSync(join(folder, 'backups', name, 'backup.json'), 'utf8')));
    const output = record.files.find(({ path }) => path.startsWith('outputs/'))!;
    const content = join(folder, 'contents', output.sha256.slice(0, 2), output.sha256);
    const whole = readFileSync(content);
    const data = join(folder, '../nothing');
    const tried = (change: () => void, back: () => void) => {
      change();
      const { told, status } = keeper(['restore-files', '--data', data, '--folder', folder, '--backup', name]);
      back();
      expect([status, existsSync(data)]).toEqual([3, false]);
      return told.problem;
    };
    expect(
      tried(
        () => truncateSync(content, 100),
        () => writeFileSync(content, whole),
      ),
    ).toContain(`${output.path} is cut off (100 of`);
    expect(
      tried(
        () => writeFileSync(content, Buffer.alloc(whole.length)),
        () => writeFileSync(content, whole),
      ),
    ).toContain('has been changed');
    expect(
      tried(
        () => rmSync(content),
        () => writeFileSync(content, whole),
      ),
    ).toContain(`${output.path} is missing`);
    const text = readFileSync(join(folder, 'backups', name, 'backup.json'), 'utf8');
    const path = join(folder, 'backups', name, 'backup.json');
    expect(
      tried(
        () => writeFileSync(path, text.replace('outputs/', 'outputx/')),
        () => writeFileSync(path, text),
      ),
    ).toContain('record');
    const dump = join(folder, 'backups', name, 'database.dump');
    const rows = readFileSync(dump);
    expect(
      tried(
        () => truncateSync(dump, rows.length - 1),
        () => writeFileSync(dump, rows),
      ),
    ).toContain('database.dump is cut off');
    mkdirSync(data);
    writeFileSync(join(data, 'somebody.txt'), 'here already');
    expect(keeper(['restore-files', '--data', data, '--folder', folder, '--backup', name]).told.problem).toContain('not empty');
    expect(readdirSync(data)).toEqual(['somebody.txt']);
    expect(keeper(['backup', '--data', server.config.data, '--folder', data]).told.problem).toContain('holds something else');
  });

  it('made in the middle of a run is of one moment: restored, every file on record is as its row says, and the run goes on', async () => {
    const files = await Promise.all(Array.from({ length: 24 }, (_, n) => picture(`run ${n}.jpg`, 700 + n, n)));
    const { json } = await server.call<{ id: string }>('POST', '/api/sets', { title: 'Running' });
    await server.upload(json.id, files);
    await server.until(async () => (await server.detail(json.id)).masters.every(({ state }) => state === 'ready'));
    await run(json.id);
    // Everything is replaced while the backup is made.
    await server.call('PUT', `/api/presets/${web.id}`, {
      ...web.preset,
      size: { ...web.preset.size, px: 200 },
      file: { ...web.preset.file, quality: 70 },
    });
    const { json: going } = await server.call<RunDetail>('POST', `/api/sets/${json.id}/runs`, { presetIds: [web.id], earlier: 'go' });
    await server.until(async () => (await server.call<RunDetail>('GET', `/api/runs/${going.id}`)).json.counts.done > 1);
    const { told } = backup();
    const { data, url } = await restored(told.name);
    const client = new Client({ connectionString: url });
    await client.connect();
    const { rows } = await client.query<{ path: string; content: string }>(
      `SELECT concat_ws('/', 'outputs', target, nullif(folder, ''), file_name) AS path, content FROM outputs WHERE is_newest`,
    );
    const open = await client.query(`SELECT 1 FROM outputs WHERE state IN ('planned', 'running')`);
    await client.end();
    expect(rows.length).toBeGreaterThan(24);
    const held = rows.map(({ path }) =>
      createHash('sha256')
        .update(readFileSync(join(data, path)))
        .digest('hex'),
    );
    expect(held).toEqual(rows.map(({ content }) => content));
    // It was in the middle of it, so that this could fail.
    expect(open.rows.length).toBeGreaterThan(0);
    await server.until(async () => (await server.call<RunDetail>('GET', `/api/runs/${going.id}`)).json.state === 'done');
  });
});
