import { appendFileSync, copyFileSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { daySentence, type OrderFile, Preset, type Run, type SetSummary, type StandingOrder, type StoredPreset } from '@rundle/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { picture, TestServer } from './server';

let server: TestServer;
let root: string;
let out: string;
let web: StoredPreset;

beforeAll(async () => {
  server = await TestServer.start();
  root = server.config.roots[0]!;
  out = server.config.writeRoots[0]!;
  server.startOrders();
  web = await preset('Web', { size: { px: 300 } });
});
afterAll(() => server?.stop());

const preset = async (title: string, more: object = {}) => {
  const body = Preset.parse({
    kind: 'rundle.preset',
    version: 1,
    title,
    existing: 'replace',
    folder: '',
    name: { parts: [{ part: 'original' }] },
    ...more,
  });
  return (await server.call<StoredPreset>('POST', '/api/presets', body)).json;
};
const bytesOf = async (shade: number, width = 700) => Buffer.from(await (await picture('x.jpg', width, shade)).arrayBuffer());
const drop = async (path: string, shade: number) => writeFileSync(path, await bytesOf(shade));
const folderOf = (name: string) => {
  const folder = join(root, name);
  mkdirSync(folder, { recursive: true });
  return folder;
};
const order = (folder: string, more: object = {}) =>
  server.call<StandingOrder>('POST', '/api/standing-orders', {
    title: 'Quay gallery',
    folder,
    deeper: false,
    presetIds: [web.id],
    place: { kind: 'own' },
    takeExisting: false,
    ...more,
  });
const viewOf = async (id: string) => (await server.call<StandingOrder[]>('GET', '/api/standing-orders')).json.find((one) => one.id === id)!;
const filesOf = async (id: string) => (await server.call<OrderFile[]>('GET', `/api/standing-orders/${id}/files`)).json;
/** Until so many files have been made by an order, and nothing is under way any more: its last file is done a moment before its run. */
const made = async (id: string, count: number) => {
  await server.until(async () => {
    const { reading, counts } = (await viewOf(id)).today;
    const over = reading === 0 && counts.done + counts.failed + counts.skipped === counts.total && counts.done === count;
    return over && (await server.database.runs.count({ where: { finishedAt: null } })) === 0;
  });
  return (await viewOf(id)).today;
};
const change = (id: string, body: object) => server.call<StandingOrder>('PATCH', `/api/standing-orders/${id}`, body);
/** Longer than it takes until a file has come to rest and is gathered. */
const LONG_ENOUGH = 4500;

describe('a standing order', () => {
  it('gathers what comes to rest, runs it, and leaves what lay there', async () => {
    const folder = folderOf('in');
    await drop(join(folder, 'old.jpg'), 1);
    const { json, status } = await order(folder, { place: { kind: 'folder', path: join(out, 'quay') } });
    expect(status).toBe(201);
    await drop(join(folder, 'p 1.jpg'), 2);
    await drop(join(folder, 'p 2.jpg'), 3);
    writeFileSync(join(folder, 'notes.txt'), 'words');
    writeFileSync(join(folder, 'no picture.jpg'), 'words');
    const today = await made(json.id, 2);
    await server.until(async () => (await viewOf(json.id)).today.refused === 1);
    expect(daySentence({ ...today, refused: 0 })).toBe('2 pictures today; 2 of 2 done, all checked, no errors');
    expect(readdirSync(join(out, 'quay')).sort()).toEqual(['p-1.jpg', 'p-2.jpg']);
    const sets = (await server.call<SetSummary[]>('GET', '/api/sets')).json.filter(({ title }) => title.startsWith('Quay gallery'));
    expect(sets).toMatchObject([{ id: today.setId, pictures: 2 }]);
    expect((await filesOf(json.id)).map(({ path, fate, problem }) => [path, fate, problem?.code ?? null]).sort()).toEqual([
      ['no picture.jpg', 'refused', 'unreadable'],
      ['old.jpg', 'left', null],
      ['p 1.jpg', 'taken', null],
      ['p 2.jpg', 'taken', null],
    ]);
    await change(json.id, { on: false });
  });

  it('knows a picture by its path and content: a new content is a new picture, a touched file is none', async () => {
    const folder = folderOf('again');
    const { json } = await order(folder, { place: { kind: 'folder', path: join(out, 'again') } });
    await drop(join(folder, 'a.jpg'), 1);
    await drop(join(folder, 'b.jpg'), 2);
    await made(json.id, 2);
    const before = readFileSync(join(out, 'again', 'a.jpg'));
    utimesSync(join(folder, 'b.jpg'), new Date(), new Date());
    await drop(join(folder, 'a.jpg'), 7);
    const { setId } = await made(json.id, 3);
    await wait(LONG_ENOUGH);
    expect((await viewOf(json.id)).today).toMatchObject({ taken: 2, counts: { total: 3, done: 3 } });
    // The new one has the place of the one that was, and its name.
    expect((await server.detail(setId!)).masters.map(({ fileName }) => fileName)).toEqual(['a.jpg', 'b.jpg']);
    expect(readdirSync(join(out, 'again')).sort()).toEqual(['a.jpg', 'b.jpg']);
    expect(readFileSync(join(out, 'again', 'a.jpg')).equals(before)).toBe(false);
    await change(json.id, { on: false });
  });

  it('never takes what was made here, wherever it is put, and takes what lay there where that is wanted', async () => {
    // A folder that may be written to, so that outputs go where it is watched.
    const folder = join(out, 'loop');
    mkdirSync(folder);
    server.config.roots.push(folder);
    await drop(join(folder, 'p.jpg'), 1);
    const { json } = await order(folder, { deeper: true, takeExisting: true, place: { kind: 'masters', folder: 'web' } });
    await made(json.id, 1);
    mkdirSync(join(folder, 'back'));
    copyFileSync(join(folder, 'web', 'p.jpg'), join(folder, 'back', 'p small.jpg'));
    await server.until(async () => (await filesOf(json.id)).filter(({ fate }) => fate === 'own').length === 2);
    await wait(LONG_ENOUGH);
    expect((await viewOf(json.id)).today).toMatchObject({ taken: 1, counts: { total: 1 } });
    await change(json.id, { on: false });
  });

  it('takes what came while Rundle was off, once, and nothing while it is off itself', async () => {
    const folder = folderOf('off');
    const { json } = await order(folder);
    await drop(join(folder, 'a.jpg'), 1);
    await made(json.id, 1);
    await server.endOrders();
    await drop(join(folder, 'b.jpg'), 2);
    server.startOrders();
    await made(json.id, 2);
    expect((await change(json.id, { on: false })).json.on).toBe(false);
    await drop(join(folder, 'c.jpg'), 3);
    await wait(LONG_ENOUGH);
    expect((await viewOf(json.id)).today.taken).toBe(2);
    await change(json.id, { on: true });
    expect(await made(json.id, 3)).toMatchObject({ taken: 3, unreadable: 0 });
    await change(json.id, { on: false });
  });

  it('tells one that grows in bursts once, and takes it when it is whole', async () => {
    const folder = folderOf('slow');
    const { json } = await order(folder);
    const whole = await bytesOf(4, 1600);
    const path = join(folder, 'slow.jpg');
    writeFileSync(path, whole.subarray(0, whole.length / 4));
    await server.until(async () => (await viewOf(json.id)).today.refused === 1);
    for (const part of [1, 2]) {
      appendFileSync(path, whole.subarray((part * whole.length) / 4, ((part + 1) * whole.length) / 4));
      await wait(LONG_ENOUGH);
    }
    expect((await viewOf(json.id)).today).toMatchObject({ taken: 0, refused: 1, counts: { total: 0 } });
    expect(await filesOf(json.id)).toMatchObject([{ path: 'slow.jpg', fate: 'refused', problem: { code: 'damaged' } }]);
    appendFileSync(path, whole.subarray((3 * whole.length) / 4));
    expect(await made(json.id, 1)).toMatchObject({ taken: 1, refused: 0, unreadable: 0 });
    expect(await filesOf(json.id)).toMatchObject([{ path: 'slow.jpg', fate: 'taken' }]);
    await change(json.id, { on: false });
  });

  it('knows a picture that was renamed or moved, and tells a copy beside it as a twin', async () => {
    const folder = folderOf('moved');
    mkdirSync(join(folder, 'sub'));
    const { json } = await order(folder, { deeper: true });
    await drop(join(folder, 'a.jpg'), 1);
    const { setId } = await made(json.id, 1);
    renameSync(join(folder, 'a.jpg'), join(folder, 'sub', 'b.jpg'));
    await server.until(async () => (await filesOf(json.id)).some(({ path }) => path === 'sub/b.jpg'));
    // And back, and away again: as often as somebody moves it.
    for (const [from, to] of [
      ['sub/b.jpg', 'a.jpg'],
      ['a.jpg', 'sub/b.jpg'],
    ] as const) {
      renameSync(join(folder, from), join(folder, to));
      await server.until(async () => (await filesOf(json.id)).some(({ path }) => path === to));
    }
    copyFileSync(join(folder, 'sub', 'b.jpg'), join(folder, 'copy.jpg'));
    await server.until(async () => (await filesOf(json.id)).length === 2);
    expect(await filesOf(json.id)).toMatchObject([
      { path: 'copy.jpg', fate: 'twin', twinOf: 'sub/b.jpg', problem: null },
      { path: 'sub/b.jpg', fate: 'taken', run: true },
    ]);
    expect((await viewOf(json.id)).today).toMatchObject({ taken: 1, counts: { total: 1, done: 1 } });
    // It is found where it lies now, and keeps the name that its output has.
    const { masters } = await server.detail(setId!);
    expect(masters).toMatchObject([{ fileName: 'a.jpg', state: 'ready' }]);
    expect((await server.database.masters.findByPk(masters[0]!.id))!.sourcePath).toBe(join(folder, 'sub', 'b.jpg'));
    // One that is renamed as soon as it was taken is read where it lies then.
    await drop(join(folder, 'c.jpg'), 5);
    await server.until(async () => (await filesOf(json.id)).some(({ path, fate }) => path === 'c.jpg' && fate === 'taken'));
    renameSync(join(folder, 'c.jpg'), join(folder, 'd.jpg'));
    expect(await made(json.id, 2)).toMatchObject({ taken: 2, unreadable: 0 });
    await server.until(async () => (await filesOf(json.id)).some(({ path, fate }) => path === 'd.jpg' && fate === 'taken'));
    rmSync(join(folder, 'd.jpg'));
    // The first goes: the copy is the picture now.
    rmSync(join(folder, 'sub', 'b.jpg'));
    await server.until(async () => (await filesOf(json.id)).length === 2);
    expect((await filesOf(json.id)).map(({ path, fate }) => [path, fate])).toContainEqual(['copy.jpg', 'taken']);
    await change(json.id, { on: false });
  });

  it('says that its folder is away, and takes what has come when it is back', async () => {
    const folder = folderOf('disk');
    const { json } = await order(folder);
    renameSync(folder, `${folder} away`);
    await server.until(async () => (await viewOf(json.id)).problem?.code === 'no-folder');
    await drop(join(`${folder} away`, 'p.jpg'), 1);
    renameSync(`${folder} away`, folder);
    await made(json.id, 1);
    expect((await viewOf(json.id)).problem).toBeNull();
    await change(json.id, { on: false });
  });

  it('says why it cannot run, and runs when that is mended', async () => {
    const folder = folderOf('refused');
    const [first, other] = [await preset('Gone'), await preset('Other', { size: { px: 200 } })];
    const { json } = await order(folder, { presetIds: [first.id] });
    await server.call('DELETE', `/api/presets/${first.id}`);
    await drop(join(folder, 'p.jpg'), 1);
    await server.until(async () => (await viewOf(json.id)).problem?.code === 'not-found');
    await change(json.id, { presetIds: [other.id] });
    await made(json.id, 1);
    expect((await viewOf(json.id)).problem).toBeNull();
    const none = await preset('Stars', { applies: { minRating: 5 } });
    await change(json.id, { presetIds: [none.id] });
    await drop(join(folder, 'q.jpg'), 2);
    await server.until(async () => (await filesOf(json.id)).some(({ problem }) => problem?.code === 'nothing-to-do'));
    await change(json.id, { on: false });
  });

  it('is refused where it could do nothing, and ends without taking anything away', async () => {
    const folder = folderOf('wrong');
    expect((await order('/etc')).status).toBe(403);
    expect((await order(join(folder, 'nowhere'))).status).toBe(404);
    expect((await order(folder, { place: { kind: 'folder', path: '/etc' } })).json).toMatchObject({ code: 'no-place' });
    expect((await order(folder, { presetIds: [crypto.randomUUID()] })).status).toBe(404);
    const { json } = await order(folder);
    await drop(join(folder, 'p.jpg'), 1);
    const { setId } = await made(json.id, 1);
    expect((await server.call('DELETE', `/api/standing-orders/${json.id}`)).status).toBe(204);
    expect(await viewOf(json.id)).toBeUndefined();
    expect((await server.detail(setId!)).masters).toHaveLength(1);
    expect((await server.call<Run[]>('GET', `/api/sets/${setId}/runs`)).json).toHaveLength(1);
    expect((await change(json.id, { on: true })).status).toBe(404);
  });
});
