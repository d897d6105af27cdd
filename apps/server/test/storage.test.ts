import { existsSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import {
  type Clearing,
  type Freed,
  type HandOverView,
  Preset,
  type ProblemDetails,
  type RunDetail,
  type SetDetail,
  type StorageView,
  type StoredPreset,
} from '@rundle/core';
import { BACKUP_LOCK } from '@rundle/store';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { TestServer } from './server';

let server: TestServer;
let here: StoredPreset;
let elsewhere: StoredPreset;
beforeAll(async () => {
  server = await TestServer.start();
  here = await make('Here');
  elsewhere = await make('Elsewhere');
});
afterAll(() => server?.stop());

async function make(title: string): Promise<StoredPreset> {
  const body = Preset.parse({ kind: 'rundle.preset', version: 1, title, size: { px: 200 }, folder: title.toLowerCase() });
  return (await server.call<StoredPreset>('POST', '/api/presets', body)).json;
}
const storage = async () => (await server.call<StorageView>('GET', '/api/storage')).json;
const begin = async (setId: string) =>
  (await server.call<RunDetail>('POST', `/api/sets/${setId}/runs`, { presetIds: [here.id, elsewhere.id], earlier: 'go' })).json;
const isDone = async (id: string) => (await server.call<RunDetail>('GET', `/api/runs/${id}`)).json.state === 'done';
/** A set whose outputs lie in Rundle's own folder and outside it. */
async function madeSet(title: string, count: number): Promise<{ setId: string; ids: string[] }> {
  const setId = await server.set(title, count, 400);
  const place = { kind: 'folder', path: join(server.config.writeRoots[0]!, title) };
  await server.call('PATCH', `/api/sets/${setId}`, { once: { [elsewhere.id]: { place } } });
  const { id } = await begin(setId);
  await server.until(() => isDone(id));
  return { setId, ids: (await server.detail(setId)).masters.map((master) => master.id) };
}
const remove = (body: object) => server.call<Freed & ProblemDetails>('POST', '/api/storage/remove-outputs', body);
/** What lies there, by preset and picture. */
async function standing(setId: string): Promise<string[]> {
  const { json } = await server.call<HandOverView>('GET', `/api/sets/${setId}/outputs`);
  return json.outputs.map(({ presetId, fileName }) => `${presetId === here.id ? 'here' : 'elsewhere'} ${fileName}`).sort();
}
const filesBelow = (folder: string) => readdirSync(folder, { recursive: true, withFileTypes: true }).filter((one) => one.isFile());
const outputsOf = async (setId: string) => (await storage()).outputs.filter((row) => row.setId === setId);

describe('outputs', () => {
  it('are removed from Rundle’s own folder only, unless the others are wished, and only of the pictures that are named', async () => {
    const { setId, ids } = await madeSet('By picture', 3);
    const before = await outputsOf(setId);
    expect(before.map(({ presetTitle, files, elsewhere: { files: outside } }) => [presetTitle, files, outside]).sort()).toEqual([
      ['Elsewhere', 3, 3],
      ['Here', 3, 0],
    ]);
    expect((await remove({ setId, masterIds: [ids[0]] })).json.files).toBe(1);
    await server.until(async () => (await standing(setId)).length === 5);
    expect(await standing(setId)).not.toContain('here p 1.jpg');
    expect((await remove({ setId, presetId: elsewhere.id })).json).toEqual({ files: 0, bytes: 0 });
    expect((await remove({ setId, presetId: elsewhere.id, elsewhere: true })).json.files).toBe(3);
    await server.until(async () => (await standing(setId)).length === 2);
    expect(filesBelow(join(server.config.writeRoots[0]!, 'By picture'))).toEqual([]);
  });

  it('that somebody has changed stay, and are no longer counted as what can be made again', async () => {
    const { setId } = await madeSet('Changed', 2);
    const { json } = await server.call<HandOverView>('GET', `/api/sets/${setId}/outputs`);
    const own = json.outputs.find(({ presetId }) => presetId === here.id)!;
    const path = join(json.path!, own.folder, own.fileName);
    writeFileSync(path, 'retouched by hand');
    expect((await outputsOf(setId)).find(({ presetId }) => presetId === here.id)).toMatchObject({ files: 1 });
    expect((await remove({ setId, elsewhere: true })).json.files).toBe(3);
    await server.until(async () => (await outputsOf(setId)).length === 0);
    expect(existsSync(path)).toBe(true);
  });

  it('are not removed under a run, and what is asked of no set is refused', async () => {
    const setId = await server.set('Under way', 1, 400);
    const [worker] = server.workers;
    worker!.kill('SIGSTOP');
    try {
      const { id } = await begin(setId);
      for (const [path, body] of [
        ['/api/storage/remove-outputs', { setId }],
        [`/api/sets/${setId}/finish`, undefined],
      ] as const)
        expect(await server.call('POST', path, body)).toMatchObject({ status: 409, json: { code: 'run-under-way' } });
      expect((await server.call<SetDetail>('GET', `/api/sets/${setId}`)).json.shelf).toBe('work');
      worker!.kill('SIGCONT');
      await server.until(() => isDone(id));
    } finally {
      worker!.kill('SIGCONT');
    }
    expect((await remove({ setId: crypto.randomUUID() })).status).toBe(404);
  });

  it('of a set that is finished go from Rundle’s own folder, and a run makes them again by the same versions', async () => {
    const { setId, ids } = await madeSet('Finished', 2);
    const contents = async () =>
      (await server.database.outputs.findAll({ where: { presetId: here.id, isNewest: true, state: 'done' } }))
        .flatMap(({ masterId, content }) => (ids.includes(masterId) ? [content] : []))
        .sort();
    const before = await contents();
    const small = join(server.config.data, 'cache/output-thumbnails');
    const { json } = await server.call<HandOverView>('GET', `/api/sets/${setId}/outputs`);
    for (const { id } of json.outputs) expect((await fetch(`${server.url}/api/outputs/${id}/thumbnail`)).status).toBe(200);
    const cached = () => filesBelow(small).length;
    const withSmall = cached();
    const { json: finished } = await server.call<SetDetail>('POST', `/api/sets/${setId}/finish`);
    expect(finished).toMatchObject({ shelf: 'archive', pictures: 2 });
    await server.until(async () => (await standing(setId)).length === 2);
    expect((await standing(setId)).every((name) => name.startsWith('elsewhere'))).toBe(true);
    expect(cached()).toBe(withSmall - 2);
    await server.call('PATCH', `/api/sets/${setId}`, { shelf: 'work' });
    const { id } = await begin(setId);
    await server.until(() => isDone(id));
    expect(await contents()).toEqual(before);
  });
});

describe('clearing pictures away', () => {
  it('frees only what no other set has, and says which do', async () => {
    const { setId, ids } = await madeSet('Shared', 2);
    const { json: alone } = await server.call<Clearing>('POST', `/api/sets/${setId}/clearing`, { masterIds: ids });
    expect(alone).toMatchObject({
      pictures: 2,
      uploaded: { files: 2, bytes: alone.freed },
      otherSets: [],
      paths: [],
      outputs: { files: 4 },
    });
    const { json: copy } = await server.call<SetDetail>('POST', `/api/sets/${setId}/duplicate`, {});
    const { json: shared } = await server.call<Clearing>('POST', `/api/sets/${setId}/clearing`, { masterIds: ids });
    expect(shared).toMatchObject({ freed: 0, otherSets: [copy.title] });
    await server.call('PATCH', `/api/sets/${copy.id}`, { shelf: 'bin' });
    expect((await server.call<Clearing>('POST', `/api/sets/${setId}/clearing`, { masterIds: ids })).json).toEqual(alone);
  });
});

describe('the bin', () => {
  const empty = (measuredAt: string) => server.call<Freed & ProblemDetails>('POST', '/api/storage/empty-bin', { measuredAt });
  const away = (setId: string) => server.call('PATCH', `/api/sets/${setId}`, { shelf: 'bin' });
  const isThere = async (setId: string) => (await server.call('GET', `/api/sets/${setId}`)).status === 200;

  it('is emptied of what was told, and of nothing that came into it since', async () => {
    const [told, later] = [await server.set('Told', 1, 700), await server.set('Later', 1, 710)];
    await away(told);
    const { measuredAt, bin } = await storage();
    expect(bin.sets).toBeGreaterThan(0);
    await away(later);
    const { json: freed } = await empty(measuredAt);
    expect(freed.bytes).toBeGreaterThan(0);
    expect([await isThere(told), await isThere(later)]).toEqual([false, true]);
    expect((await empty('yesterday')).json).toMatchObject({ code: 'invalid' });
  });

  it('waits for a backup that is being made, and says so', async () => {
    const setId = await server.set('Backed up', 1, 720);
    await away(setId);
    const { measuredAt } = await storage();
    const { sequelize } = server.database;
    await sequelize.transaction(async (transaction) => {
      await sequelize.query(`SELECT pg_advisory_xact_lock_shared(${BACKUP_LOCK})`, { transaction });
      expect(await empty(measuredAt)).toMatchObject({ status: 409, json: { code: 'backup-under-way' } });
    });
    expect(await isThere(setId)).toBe(true);
    expect((await empty(measuredAt)).status).toBe(200);
    expect(await isThere(setId)).toBe(false);
  });
});

describe('caches', () => {
  it('are emptied, but for deliveries that are under way, and kept within their bound', async () => {
    const deliveries = join(server.config.data, 'cache/deliveries');
    const { setId } = await madeSet('Mailed', 1);
    const { json } = await server.call<{ id: string }>('POST', `/api/sets/${setId}/deliveries`, {
      way: { kind: 'zip' },
      content: {},
      gallery: { layout: 'grid', title: 'Quay' },
    });
    const state = async () => (await server.call<{ state: string }>('GET', `/api/deliveries/${json.id}`)).json.state;
    await server.until(async () => (await state()) === 'done');
    expect(existsSync(join(deliveries, json.id))).toBe(true);
    const emptied = () => server.call<Freed>('POST', '/api/storage/empty-caches', { caches: ['deliveries'] });
    await server.database.deliveries.update({ state: 'sending', finishedAt: null }, { where: { id: json.id } });
    expect((await emptied()).json.files).toBe(0);
    await server.database.deliveries.update({ state: 'done', finishedAt: new Date() }, { where: { id: json.id } });
    expect((await emptied()).json.files).toBeGreaterThan(0);
    expect(existsSync(join(deliveries, json.id))).toBe(false);
    expect((await server.call('PUT', '/api/storage/bound', { boundMB: 1 })).json).toMatchObject({ code: 'invalid' });
    expect((await server.call('PUT', '/api/storage/bound', { boundMB: 60 })).status).toBe(200);
    expect((await storage()).boundMB).toBe(60);
  });
});
