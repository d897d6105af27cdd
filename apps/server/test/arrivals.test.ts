import { execFileSync } from 'node:child_process';
import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { FromMachineResult, Master, PlanView, UploadResult } from '@rundle/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { bomb } from '../../../packages/render/test/bomb';
import { picture, TestServer } from './server';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.start();
});
afterAll(() => server?.stop());

const names = (masters: readonly Master[]) => masters.map(({ fileName }) => fileName);
const read = (setId: string) => server.until(async () => (await server.detail(setId)).masters.every(({ state }) => state !== 'arriving'));
const told = async (setId: string) =>
  (await server.detail(setId)).masters.map(({ fileName, state, problem }) => [fileName, problem?.code ?? state]);
const bring = (setId: string, path: string, deeper = false) =>
  server.call<FromMachineResult>('POST', `/api/sets/${setId}/masters/from-machine`, { path, deeper });

describe('uploads', () => {
  it('go on where they were cut off, six times over, and cannot be fetched', async () => {
    const setId = await server.set('Cut', 0);
    const data = Buffer.from(await (await picture('long.jpg', 1500, 2)).arrayBuffer());
    const head = { 'Tus-Resumable': '1.0.0' };
    const metadata = `setId ${Buffer.from(setId).toString('base64')},filename ${Buffer.from('é <b>%#&.jpg').toString('base64')}`;
    const made = await fetch(`${server.url}/api/uploads`, {
      method: 'POST',
      headers: { ...head, 'Upload-Length': String(data.length), 'Upload-Metadata': metadata },
    });
    expect(made.status).toBe(201);
    const url = new URL(made.headers.get('location')!, server.url);
    let last: Response | undefined;
    for (let cut = 0; cut < 6; cut++) {
      const offset = Number((await fetch(url, { method: 'HEAD', headers: head })).headers.get('upload-offset'));
      const part = data.subarray(offset, Math.ceil(((cut + 1) * data.length) / 6));
      const type = { 'Content-Type': 'application/offset+octet-stream', 'Upload-Offset': String(offset) };
      last = await fetch(url, { method: 'PATCH', headers: { ...head, ...type }, body: new Uint8Array(part) });
    }
    expect(((await last!.json()) as UploadResult).masters).toMatchObject([{ fileName: 'é <b>%#&.jpg', bytes: data.length }]);
    expect((await fetch(url)).status).toBe(405);
  });

  it('stand in the order in which they were begun, whichever is through first', async () => {
    const setId = await server.set('Overtaken', 1);
    const file = (name: string, shade: number) => picture(name, 700 + shade, shade);
    const lot = await Promise.all([file('c.jpg', 3), file('a.jpg', 1), file('d.jpg', 4), file('b.jpg', 2)]);
    await server.upload(setId, lot, [100.3, 100.1, 100.4, 100.2]);
    await server.upload(setId, [await file('later.jpg', 5)], [200]);
    await server.upload(setId, [await file('e.jpg', 6)], [100.5]);
    expect(names((await server.detail(setId)).masters)).toEqual(['p 1.jpg', 'a.jpg', 'b.jpg', 'c.jpg', 'd.jpg', 'e.jpg', 'later.jpg']);
  });

  it('ask about a picture that is in the set already, and bring it in again when told so', async () => {
    const setId = await server.set('Twins', 0);
    const first = await picture('p 1.jpg', 900);
    await server.upload(setId, [first]);
    const { masters, twins } = await server.upload(setId, [new File([first], 'again.jpg')]);
    expect([masters, twins]).toMatchObject([[], [{ fileName: 'again.jpg', of: 'p 1.jpg' }]]);
    const wanted = twins.map(({ fileName, sha256 }) => ({ fileName, sha256 }));
    await server.call('POST', `/api/sets/${setId}/masters/again`, { twins: wanted });
    expect(names((await server.detail(setId)).masters)).toEqual(['p 1.jpg', 'again.jpg']);
    const stranger = { fileName: 'x.jpg', sha256: 'a'.repeat(64) };
    expect((await server.call<UploadResult>('POST', `/api/sets/${setId}/masters/again`, { twins: [stranger] })).json.masters).toEqual([]);
  });

  it('of a picture too large to be unpacked end with that beside it, and the next goes on', async () => {
    const setId = await server.set('Bomb', 0);
    await server.upload(setId, [new File([new Uint8Array(bomb(60_000, 60_000))], 'bomb.png'), await picture('sound.jpg', 600)]);
    await read(setId);
    expect(await told(setId)).toEqual([
      ['bomb.png', 'too-large'],
      ['sound.jpg', 'ready'],
    ]);
  });

  it('may have any name, and their outputs have one for every file system', async () => {
    const odd = [
      '-dash.jpg',
      'a%20b#c&d;e.jpg',
      'émoji 🏮 “q”.jpg',
      '<img src=x onerror=alert(1)>.jpg',
      `${'long '.repeat(50)}.jpg`,
      '..jpg',
    ];
    const setId = await server.set('Odd', 0);
    await server.upload(setId, await Promise.all(odd.map((name, at) => picture(name, 600 + at, at))));
    await read(setId);
    const { masters } = await server.detail(setId);
    expect(masters.map(({ state }) => state)).toEqual(odd.map(() => 'ready'));
    expect(names(masters).map((name) => name.slice(-60))).toEqual(odd.map((name) => name.slice(-60)));
    const [preset] = await server.presets();
    const { json: plan } = await server.call<PlanView>('POST', `/api/sets/${setId}/plan`, { presetIds: [preset!.id] });
    const planned = plan.outputs.map((output) => ('fileName' in output ? output.fileName : ''));
    for (const name of planned) expect(name).toMatch(/^[A-Za-z0-9_][A-Za-z0-9._-]{0,200}\.jpg$/);
    expect(new Set(planned).size).toBe(odd.length);
  });

  it('are refused with that reason when the disk is full, and nothing is left of them', async () => {
    const setId = await server.set('Full', 0);
    const incoming = join(server.config.data, 'incoming');
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=1m', 'tmpfs', incoming]);
    try {
      const { refused } = await server.upload(setId, [await picture('a.jpg', 900)]);
      expect(refused).toMatchObject([{ file: 'a.jpg', code: 'disk-full', message: expect.stringContaining('Make room') as string }]);
    } finally {
      execFileSync('umount', [incoming]);
    }
    expect((await server.upload(setId, [await picture('a.jpg', 900)])).refused).toEqual([]);
  });
});

describe('folders of the machine', () => {
  const put = async (place: string, shade: number) =>
    writeFileSync(place, Buffer.from(await (await picture('x.jpg', 700 + shade, shade)).arrayBuffer()));

  it('two files of one name from two folders both come in, and come out under two names', async () => {
    const top = join(server.config.roots[0]!, 'two');
    mkdirSync(join(top, 'second'), { recursive: true });
    await put(join(top, 'same.jpg'), 1);
    await put(join(top, 'second', 'same.jpg'), 2);
    const setId = await server.set('Two', 0);
    expect((await bring(setId, top, true)).json.added).toBe(2);
    await read(setId);
    expect(await told(setId)).toEqual([
      ['same.jpg', 'ready'],
      ['same.jpg', 'ready'],
    ]);
    const original = { kind: 'rundle.preset', version: 1, title: 'Original names', name: { parts: [{ part: 'original' }] } };
    const { json: preset } = await server.call<{ id: string }>('POST', '/api/presets', original);
    const { json: plan } = await server.call<PlanView>('POST', `/api/sets/${setId}/plan`, { presetIds: [preset.id] });
    expect(plan.outputs.map((output) => 'fileName' in output && output.fileName)).toEqual(['same.jpg', 'same-2.jpg']);
  });

  it('that vanish half-way leave each picture with that reason, and the set as it is', async () => {
    const folder = join(server.config.roots[0]!, 'vanishing');
    mkdirSync(folder);
    for (let at = 1; at <= 6; at++) await put(join(folder, `p ${at}.jpg`), at);
    const setId = await server.set('Vanishing', 1);
    await bring(setId, folder);
    rmSync(folder, { recursive: true });
    await read(setId);
    const after = await told(setId);
    expect(after).toHaveLength(7);
    expect(after[0]).toEqual(['p 1.jpg', 'ready']);
    expect(after.at(-1)).toEqual(['p 6.jpg', 'missing']);
    expect((await bring(setId, folder)).status).toBe(404);
  });
});
