import { existsSync, mkdirSync, mkdtempSync, rmSync, symlinkSync, utimesSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type FromMachineResult, type MachineFolder, type PlanView, READER, type VetView } from '@rundle/core';
import { Op } from 'sequelize';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { picture, TestServer } from './server';

let server: TestServer;
let root: string;
const put = async (place: string, shade = 0) => writeFileSync(place, Buffer.from(await (await picture('x.jpg', 700, shade)).arrayBuffer()));

beforeAll(async () => {
  server = await TestServer.start();
  root = server.config.roots[0]!;
  mkdirSync(join(root, 'evening/deep'), { recursive: true });
  for (const name of ['p 10.jpg', 'p 9.jpg', '-dash %#&é <img onerror=x>.jpg', 'deep/inner.jpg'])
    await put(join(root, 'evening', name), name.length);
  writeFileSync(join(root, 'evening/notes.txt'), 'words');
  writeFileSync(join(root, 'evening/empty.jpg'), '');
});
afterAll(() => server?.stop());

const bring = (setId: string, path: string, deeper = false) =>
  server.call<FromMachineResult & { code?: string }>('POST', `/api/sets/${setId}/masters/from-machine`, { path, deeper });
const read = (setId: string) => server.until(async () => (await server.detail(setId)).masters.every(({ state }) => state !== 'arriving'));

describe('a folder of the machine', () => {
  it('is chosen below the roots, and nowhere else', async () => {
    const list = async (path?: string) =>
      server.call<MachineFolder>('GET', `/api/machine/folders${path ? `?path=${encodeURIComponent(path)}` : ''}`);
    expect((await list()).json).toMatchObject({ path: null, folders: [{ path: root }] });
    expect((await list(root)).json).toMatchObject({ up: null, folders: [{ name: 'evening' }] });
    expect((await list(join(root, 'evening'))).json).toMatchObject({ up: root, files: 5, folders: [{ name: 'deep' }] });
    const outside = mkdtempSync(join(tmpdir(), 'rundle-outside-'));
    await put(join(outside, 'secret.jpg'));
    symlinkSync(outside, join(root, 'way-out'));
    for (const path of [outside, join(root, '..'), join(root, 'way-out'), '/etc']) expect((await list(path)).status).toBe(403);
    expect((await list(join(root, 'nowhere'))).status).toBe(404);
    symlinkSync(join(outside, 'secret.jpg'), join(root, 'evening', 'linked.jpg'));
    const setId = await server.set('Outside', 0);
    const latin = mkdtempSync(join(root, 'latin-'));
    writeFileSync(Buffer.concat([Buffer.from(`${latin}/caf`), Buffer.from([0xe9]), Buffer.from('.jpg')]), 'x');
    expect((await bring(setId, latin)).json.refused).toMatchObject([
      { code: 'odd-name', message: expect.stringContaining('Rename it') as string },
    ]);
    rmSync(latin, { recursive: true });
    expect((await bring(setId, outside)).status).toBe(403);
    expect((await bring(setId, join(root, 'evening'))).json.refused.map(({ file, code }) => [file, code])).toEqual([
      ['empty.jpg', 'empty'],
      ['linked.jpg', 'outside'],
      ['notes.txt', 'unreadable'],
    ]);
    rmSync(join(root, 'evening', 'linked.jpg'));
  });

  it('comes in by natural name, once, with its sub-folders by choice, and its files stay where they are', async () => {
    const setId = await server.set('Machine', 0);
    expect((await bring(setId, join(root, 'evening'))).json).toMatchObject({ added: 3, known: 0 });
    expect((await bring(setId, join(root, 'evening'), true)).json).toMatchObject({ added: 1, known: 3 });
    await read(setId);
    const { masters } = await server.detail(setId);
    expect(masters.map(({ fileName, state }) => [fileName, state])).toEqual([
      ['-dash %#&é <img onerror=x>.jpg', 'ready'],
      ['p 9.jpg', 'ready'],
      ['p 10.jpg', 'ready'],
      ['inner.jpg', 'ready'],
    ]);
    expect((await fetch(`${server.url}/api/masters/${masters[0]!.id}/thumbnail`)).status).toBe(200);
    expect((await fetch(`${server.url}/api/masters/${masters[0]!.id}/picture`)).status).toBe(200);
  });

  it('of many files lets the first few of another set pass', async () => {
    mkdirSync(join(root, 'many'));
    for (let at = 0; at < 60; at++) await put(join(root, 'many', `m ${at}.jpg`), at);
    const [many, few] = [await server.set('Many', 0), await server.set('Few', 0)];
    expect((await bring(many, join(root, 'many'))).json.added).toBe(60);
    expect((await bring(few, join(root, 'evening'))).json.added).toBe(3);
    await read(few);
    expect((await server.detail(many)).masters.filter(({ state }) => state === 'arriving').length).toBeGreaterThan(0);
    await read(many);
  });

  it('is read once, however often its pictures are brought in', async () => {
    mkdirSync(join(root, 'twice'));
    await put(join(root, 'twice', 't.jpg'), 77);
    const facts = async (title: string) => {
      const setId = await server.set(title, 0);
      await bring(setId, join(root, 'twice'));
      await read(setId);
      return (await server.database.masters.findOne({ where: { setId } }))!;
    };
    const first = await facts('First');
    const told = async (reader: number) => first.update({ facts: { ...first.facts!, title: 'found out before', reader } });
    await told(READER);
    expect((await facts('Second')).facts!.title).toBe('found out before');
    // A small picture that has been lost is made again, and what an older way of reading found out is not trusted.
    const small = server.files.masters.smallPicturePath(first.sha256!, null);
    await server.database.masters.destroy({ where: { sha256: first.sha256, id: { [Op.ne]: first.id } } });
    rmSync(small);
    expect((await facts('Third')).facts!.title).toBe(null);
    expect(existsSync(small)).toBe(true);
    await server.database.masters.destroy({ where: { sha256: first.sha256, id: { [Op.ne]: first.id } } });
    await told(READER - 1);
    expect((await facts('Fourth')).facts!.title).toBe(null);
  });

  it('is noticed when its files change, vanish and come back', async () => {
    const folder = join(root, 'changing');
    mkdirSync(folder);
    for (const name of ['a.jpg', 'b.jpg']) await put(join(folder, name));
    const setId = await server.set('Changing', 0);
    await bring(setId, folder);
    await read(setId);
    const [a, b] = (await server.detail(setId)).masters;
    await server.call('PUT', `/api/sets/${setId}/marks`, { marks: [{ masterId: a!.id, stars: 5 }] });
    const preset = (await server.presets())[0]!;
    // Changed between reading and running: told, not rendered from what nobody has seen.
    utimesSync(join(folder, 'a.jpg'), new Date(), new Date(Date.now() + 5000));
    const { json: run } = await server.call<{ id: string }>('POST', `/api/sets/${setId}/runs`, { presetIds: [preset.id] });
    const outputs = async () =>
      (await server.call<{ state: string; outputs: { state: string; error: { code: string } | null }[] }>('GET', `/api/runs/${run.id}`))
        .json;
    await server.until(async () => (await outputs()).state === 'done');
    expect((await outputs()).outputs.map(({ state, error }) => error?.code ?? state)).toEqual(['master-changed', 'done']);
    rmSync(join(folder, 'b.jpg'));
    const look = () => server.call('POST', `/api/sets/${setId}/masters/look-again`, {});
    await look();
    await read(setId);
    expect((await server.detail(setId)).masters.map(({ stars, state, problem }) => [stars, problem?.code ?? state])).toEqual([
      [5, 'ready'],
      [0, 'missing'],
    ]);
    // What has vanished is neither vetted nor planned as if it were there.
    const { json: vetted } = await server.call<VetView>('POST', `/api/sets/${setId}/vet`, { presetIds: [] });
    expect(vetted.groups.find(({ code }) => code === 'unreadable')?.pictures).toMatchObject([{ masterId: b!.id }]);
    const { json: plan } = await server.call<PlanView>('POST', `/api/sets/${setId}/plan`, { presetIds: [preset.id] });
    expect(plan.outputs.map(({ status }) => status)).toEqual(['planned', 'failed']);
    await put(join(folder, 'b.jpg'), 3);
    await look();
    await read(setId);
    const back = (await server.detail(setId)).masters[1]!;
    expect(back.state).toBe('ready');
    // Another file, another address: no browser shows the picture that was there before.
    expect(back.content).not.toBe(b!.content);
    const kept = async (of: string) => (await fetch(`${server.url}/api/masters/${back.id}/thumbnail${of}`)).headers.get('cache-control');
    const addresses = ['', `?content=${b!.content}`, `?content=${back.content}`];
    expect(await Promise.all(addresses.map(kept))).toEqual([
      'private, no-cache',
      'private, no-cache',
      expect.stringContaining('immutable'),
    ]);
  });
});
