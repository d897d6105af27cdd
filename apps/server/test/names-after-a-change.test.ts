import type { ChildProcess } from 'node:child_process';
import { createHash } from 'node:crypto';
import { copyFileSync, existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync, utimesSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import {
  type Delivery,
  type HandOverView,
  type PlanView,
  Preset,
  type ProblemDetails,
  type RunDetail,
  type StoredPreset,
} from '@rundle/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { picture, TestServer } from './server';

/*
 * Names and files after a change: what is ours gives way to its newer self, what is not stays; a run cut off at any point is completed.
 */

let server: TestServer;
let worker: ChildProcess;
const pictures: File[] = [];
beforeAll(async () => {
  server = await TestServer.start(false);
  worker = await server.startWorker();
  for (let n = 0; n < 7; n++) pictures.push(await picture(`p${n}.jpg`, 160 + n, n));
});
afterAll(() => server?.stop());

const voyage = {
  name: {
    parts: [
      { part: 'text', text: 'voyage-' },
      { part: 'counter', digits: 3, start: 1, step: 1 },
    ],
  },
};
async function make(title: string, more: object = {}): Promise<StoredPreset> {
  const body = Preset.parse({ kind: 'rundle.preset', version: 1, title, size: { px: 100 }, folder: 'web', ...voyage, ...more });
  return (await server.call<StoredPreset>('POST', '/api/presets', body)).json;
}
/** The preset keeps what was changed before. */
const change = (preset: StoredPreset, more: object) => server.call('PUT', `/api/presets/${preset.id}`, Object.assign(preset.preset, more));

async function setOf(title: string, numbers: readonly number[]): Promise<string> {
  const { json } = await server.call<{ id: string }>('POST', '/api/sets', { title });
  await bringIn(json.id, numbers);
  return json.id;
}
async function bringIn(setId: string, numbers: readonly number[]): Promise<void> {
  await server.upload(
    setId,
    numbers.map((n) => pictures[n]!),
  );
  await server.until(async () => (await server.detail(setId)).masters.every(({ state }) => state === 'ready'));
}
const remove = async (setId: string, fileName: string) => {
  const { masters } = await server.detail(setId);
  await server.call('POST', `/api/sets/${setId}/masters/remove`, { masterIds: [masters.find((one) => one.fileName === fileName)!.id] });
};
const plan = async (setId: string, presets: readonly StoredPreset[], earlier = 'go') =>
  (await server.call<PlanView>('POST', `/api/sets/${setId}/plan`, { presetIds: presets.map(({ id }) => id), earlier })).json;
const start = (setId: string, presets: readonly StoredPreset[], more: object = { earlier: 'go' }) =>
  server.call<RunDetail & ProblemDetails>('POST', `/api/sets/${setId}/runs`, { presetIds: presets.map(({ id }) => id), ...more });
const now = async (runId: string) => (await server.call<RunDetail>('GET', `/api/runs/${runId}`)).json;
const ended = (runId: string) => server.until(async () => ['done', 'cancelled'].includes((await now(runId)).state));
async function run(setId: string, presets: readonly StoredPreset[], more?: object): Promise<RunDetail> {
  const { json } = await start(setId, presets, more);
  await ended(json.id);
  return now(json.id);
}
const out = async (setId: string) => (await server.call<HandOverView>('GET', `/api/sets/${setId}/outputs`)).json;
const pathOf = async (setId: string) => (await out(setId)).path!;

/** Files below a folder, by their paths: what is in them. */
function listed(folder: string, below = ''): Record<string, string> {
  if (!existsSync(join(folder, below))) return {};
  const found = readdirSync(join(folder, below), { withFileTypes: true }).flatMap((entry) => {
    const path = join(below, entry.name);
    if (entry.isDirectory()) return Object.entries(listed(folder, path));
    return [
      [
        path,
        createHash('sha256')
          .update(readFileSync(join(folder, path)))
          .digest('hex')
          .slice(0, 12),
      ] as const,
    ];
  });
  return Object.fromEntries(found.toSorted(([a], [b]) => (a < b ? -1 : 1)));
}

/** What a run of the same pictures by the same presets makes in a set that is new, beside files of others. */
async function fresh(numbers: readonly number[], presets: readonly StoredPreset[], strangers: Record<string, string> = {}) {
  const setId = await setOf('Fresh', numbers);
  const target = join(server.config.writeRoots[0]!, `fresh-${setId}`);
  for (const [path, text] of Object.entries(strangers)) {
    mkdirSync(dirname(join(target, path)), { recursive: true });
    writeFileSync(join(target, path), text);
  }
  await server.call('PATCH', `/api/sets/${setId}`, { title: 'Voyage', place: { kind: 'folder', path: target } });
  await run(setId, presets);
  return listed(target);
}

describe('names after a change', () => {
  it('follow the set: a cancelled run, a picture that is removed and brought in again, another order', async () => {
    const web = await make('Voyage', { existing: 'keep-both' });
    const setId = await setOf('Voyage', [0, 1, 2, 3, 4, 5]);
    const first = (await start(setId, [web])).json;
    await server.until(async () => (await now(first.id)).counts.done >= 2);
    await server.call('POST', `/api/runs/${first.id}/cancel`);
    await ended(first.id);
    await remove(setId, 'p1.jpg');
    const told = await plan(setId, [web]);
    expect(told.earlier.removed).toBe(1);
    expect(told.earlier.examples.at(-1)).toEqual({ from: 'web/voyage-002.jpg', to: null });
    await run(setId, [web]);
    expect(listed(await pathOf(setId))).toEqual(await fresh([0, 2, 3, 4, 5], [web]));
    expect((await plan(setId, [web])).outputs.every(({ status }) => status === 'skipped')).toBe(true);

    // Removed and brought in again: the same picture, whose file only gets another name.
    const { masters } = await server.detail(setId);
    await server.call('PUT', `/api/sets/${setId}/order`, { masterIds: masters.map(({ id }) => id).toReversed() });
    await remove(setId, 'p4.jpg');
    await bringIn(setId, [4]);
    const again = await plan(setId, [web]);
    expect(again.outputs.map(({ status }) => status)).toEqual(Array(5).fill('skipped'));
    const moved = await run(setId, [web]);
    expect([moved.state, moved.counts.done, moved.counts.skipped]).toEqual(['done', 0, 5]);
    expect(listed(await pathOf(setId))).toEqual(await fresh([5, 3, 2, 0, 4], [web]));
    const names = (await out(setId)).outputs.map(({ masterName, fileName }) => [masterName, fileName]);
    expect(names).toEqual(['p5', 'p3', 'p2', 'p0', 'p4'].map((name, n) => [`${name}.jpg`, `voyage-00${n + 1}.jpg`]));
    // The record of the first run tells what it was called then.
    const { json: record } = await server.call<{ outputs: { file: string; state: string }[] }>('GET', `/api/runs/${first.id}/record.json`);
    expect(record.outputs.filter(({ state }) => state === 'done').map(({ file }) => file)).toContain('web/voyage-001.jpg');
  });

  it('of a preset that got another name, folder or type, and of a set that got another place, leave nothing behind', async () => {
    const web = await make('Renamed');
    const setId = await setOf('Renamed', [0, 1, 2]);
    const elsewhere = join(server.config.writeRoots[0]!, 'elsewhere');
    await run(setId, [web]);
    const own = await pathOf(setId);
    for (const more of [
      { folder: 'other' },
      { name: { parts: [{ part: 'original' }] } },
      { file: { ...web.preset.file, type: 'webp' } },
      { size: { ...web.preset.size, px: 90 }, folder: 'third' },
    ]) {
      await change(web, more);
      expect((await plan(setId, [web])).earlier).toMatchObject('file' in more ? { madeAnew: 3 } : { renamed: 3 });
      await run(setId, [web]);
      expect(listed(own), JSON.stringify(more)).toEqual(await fresh([0, 1, 2], [web]));
    }
    await server.call('PATCH', `/api/sets/${setId}`, { place: { kind: 'folder', path: elsewhere } });
    const moved = await run(setId, [web]);
    expect([moved.counts.skipped, listed(own)]).toEqual([3, {}]);
    expect(listed(elsewhere)).toEqual(await fresh([0, 1, 2], [web]));
    expect((await out(setId)).outputs.map(({ file }) => file)).toEqual(Array(3).fill('stands'));
  });

  it('unattended, nothing is taken away, and numbers that were given stay', async () => {
    const web = await make('Unattended');
    const setId = await setOf('Unattended', [0, 1, 2]);
    await run(setId, [web], {});
    const before = listed(await pathOf(setId));
    await remove(setId, 'p1.jpg');
    await bringIn(setId, [3]);
    expect((await plan(setId, [web], 'keep')).earlier).toMatchObject({ renamed: 0, removed: 1 });
    await run(setId, [web], {});
    const after = listed(await pathOf(setId));
    expect(after).toMatchObject(before);
    expect(Object.keys(after)).toEqual(['web/voyage-001.jpg', 'web/voyage-002.jpg', 'web/voyage-003.jpg', 'web/voyage-004.jpg']);
  });

  it('what a run cut off in the middle of renaming is completed by the next worker, and nothing is lost', async () => {
    const web = await make('Crashes');
    const setId = await setOf('Crashes', [0, 1, 2, 3]);
    await run(setId, [web]);
    const order = [0, 1, 2, 3];
    for (const step of ['taken', 'all-taken', 'put', 'moved-all']) {
      worker.kill('SIGKILL');
      await gone(worker);
      order.push(order.shift()!);
      const { masters } = await server.detail(setId);
      const ids = order.map((n) => masters.find(({ fileName }) => fileName === `p${n}.jpg`)!.id);
      await server.call('PUT', `/api/sets/${setId}/order`, { masterIds: ids });
      const { json } = await start(setId, [web]);
      const crashing = await server.startWorker({ RUNDLE_CRASH_AT: step, RUNDLE_WORKER_ID: step });
      await gone(crashing);
      // Whatever is shown meanwhile, no file is shown under another's name.
      for (const output of (await out(setId)).outputs) {
        const response = await fetch(`${server.url}/api/outputs/${output.id}/file`);
        if (response.ok) expect(sha(Buffer.from(await response.arrayBuffer()))).toBe(await contentOf(output.id));
      }
      worker = await server.startWorker({ RUNDLE_DEATHS: JSON.stringify([{ workerId: step, cause: 'other' }]) });
      await ended(json.id);
      expect((await now(json.id)).state).toBe('done');
      expect(listed(await pathOf(setId)), step).toEqual(await fresh(order, [web]));
    }
  });

  it('stop lets nothing begin where a stranger’s file is in the way', async () => {
    const web = await make('Stops', { existing: 'stop' });
    const setId = await setOf('Stops', [0, 1]);
    const path = join(server.config.writeRoots[0]!, 'stops');
    await server.call('PATCH', `/api/sets/${setId}`, { place: { kind: 'folder', path } });
    mkdirSync(join(path, 'web'), { recursive: true });
    writeFileSync(join(path, 'web', 'voyage-002.jpg'), 'a stranger');
    const { status, json } = await start(setId, [web]);
    expect([status, json.code, json.detail]).toMatchObject([409, 'in-the-way', expect.stringContaining('voyage-002.jpg')]);
    expect(readdirSync(join(path, 'web'))).toEqual(['voyage-002.jpg']);
    rmSync(join(path, 'web', 'voyage-002.jpg'));
    await run(setId, [web]);
    // Of ours it says nothing: they give way.
    await change(web, { size: { ...web.preset.size, px: 80 } });
    await run(setId, [web]);
    expect(Object.keys(listed(path))).toEqual(['web/voyage-001.jpg', 'web/voyage-002.jpg']);
  });
});

describe('pictures that are taken out', () => {
  it('leave their files where they are until somebody takes them away; what was changed stays', async () => {
    const web = await make('Taken out');
    const setId = await setOf('Taken out', [0, 1, 2]);
    await run(setId, [web]);
    const path = await pathOf(setId);
    await remove(setId, 'p0.jpg');
    await remove(setId, 'p1.jpg');
    writeFileSync(join(path, 'web', 'voyage-002.jpg'), 'retouched');
    const { json: told } = await server.call('GET', `/api/sets/${setId}/removed-outputs`);
    expect(told).toMatchObject({ files: 1, pictures: 1, examples: ['web/voyage-001.jpg'] });
    await server.call('POST', `/api/sets/${setId}/removed-outputs/take-away`);
    await server.until(() => Promise.resolve(!existsSync(join(path, 'web', 'voyage-001.jpg'))));
    expect(readdirSync(join(path, 'web'))).toEqual(['voyage-002.jpg', 'voyage-003.jpg']);
    expect((await server.call<{ files: number }>('GET', `/api/sets/${setId}/removed-outputs`)).json.files).toBe(0);
  });
});

describe('what lies on the disk', () => {
  it('is looked at: what is gone is due, what was changed stays and is not handed over, also where its length is the same', async () => {
    const web = await make('Looked');
    const setId = await setOf('Looked', [0, 1, 2]);
    await run(setId, [web]);
    const path = await pathOf(setId);
    rmSync(join(path, 'web', 'voyage-001.jpg'));
    const changed = join(path, 'web', 'voyage-002.jpg');
    const { mtime, atime, size } = statSync(changed);
    writeFileSync(changed, 'x'.repeat(size));
    utimesSync(changed, atime, mtime);
    expect((await out(setId)).outputs.map(({ file }) => file)).toEqual(['missing', 'changed', 'stands']);
    const zip = await fetch(`${server.url}/api/sets/${setId}/outputs.zip`);
    const names = Buffer.from(await zip.arrayBuffer()).toString('latin1');
    expect([names.includes('voyage-003.jpg'), names.includes('voyage-002.jpg')]).toEqual([true, false]);
    const wish = { way: { kind: 'folder', path: join(server.config.writeRoots[0]!, 'sent') }, content: {} };
    const { json: preview } = await server.call<{ files: number; left: string[] }>('POST', `/api/sets/${setId}/deliveries/preview`, wish);
    expect([preview.files, preview.left]).toEqual([1, ['web/voyage-001.jpg', 'web/voyage-002.jpg']]);
    const { json: begun } = await server.call<Delivery>('POST', `/api/sets/${setId}/deliveries`, wish);
    const delivery = async () => (await server.call<Delivery>('GET', `/api/deliveries/${begun.id}`)).json;
    await server.until(async () => (await delivery()).finishedAt !== null);
    expect(await delivery()).toMatchObject({ state: 'failed', counts: { sent: 1, failed: 2 } });
    expect(readdirSync(join(wish.way.path, 'web'))).toEqual(['voyage-003.jpg']);

    expect((await plan(setId, [web])).outputs.map((one) => [one.status, 'fileName' in one && one.fileName])).toEqual([
      ['planned', 'voyage-001.jpg'],
      ['planned', 'voyage-002-2.jpg'],
      ['skipped', 'voyage-003.jpg'],
    ]);
    await run(setId, [web]);
    expect(readFileSync(changed, 'utf8')).toBe('x'.repeat(size));
    expect((await out(setId)).outputs.map(({ fileName, file }) => [fileName, file])).toEqual([
      ['voyage-001.jpg', 'stands'],
      ['voyage-002-2.jpg', 'stands'],
      ['voyage-003.jpg', 'stands'],
    ]);
    // Copied back from elsewhere it is another file on the disk, and the same content: ours.
    const kept = join(path, 'web', 'voyage-003.jpg');
    copyFileSync(kept, `${kept}.aside`);
    rmSync(kept);
    copyFileSync(`${kept}.aside`, kept);
    rmSync(`${kept}.aside`);
    expect((await out(setId)).outputs.map(({ file }) => file)).toEqual(Array(3).fill('stands'));
    // The changed one goes away, and the output of that picture gets its name.
    rmSync(changed);
    await run(setId, [web]);
    expect(listed(path)).toEqual(await fresh([0, 1, 2], [web]));
  });
});

const sha = (file: Buffer) => createHash('sha256').update(file).digest('hex');
const contentOf = async (id: string) => (await server.database.outputs.findByPk(id))!.content;
const gone = (program: ChildProcess): Promise<unknown> =>
  program.exitCode !== null || program.signalCode !== null ? Promise.resolve() : new Promise((resolve) => program.once('exit', resolve));
