import { copyFileSync, existsSync, readdirSync, readFileSync, rmSync, statSync, utimesSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Delivery, DeliveryDetail } from '@rundle/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { TestServer } from './server';
import { change, fresh, listed, make, out, pathOf, plan, remove, run, setOf, voyageOn } from './voyage';

/*
 * Files after a change: what lies on the disk is looked at, what was taken out or has another name can be taken away, at receivers, too.
 */

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.start();
  await voyageOn(server);
});
afterAll(() => server?.stop());

describe('a delivery to a folder', () => {
  it('removes what an earlier one left under other names, where that is wanted, but nothing that somebody has changed', async () => {
    const web = await make('Delivered');
    const setId = await setOf('Delivered', [0, 1, 2]);
    const to = join(server.config.writeRoots[0]!, 'in-step');
    const deliver = async (more: object = {}) => {
      const body = { way: { kind: 'folder', path: to, ...more }, content: {} };
      const { json } = await server.call<Delivery>('POST', `/api/sets/${setId}/deliveries`, body);
      const view = async () => (await server.call<DeliveryDetail>('GET', `/api/deliveries/${json.id}`)).json;
      await server.until(async () => (await view()).finishedAt !== null);
      return view();
    };
    await run(setId, [web]);
    await deliver();
    await change(web, { name: { parts: [{ part: 'original' }] } });
    await run(setId, [web]);
    writeFileSync(join(to, 'web', 'voyage-003.jpg'), 'retouched there');
    expect((await deliver()).counts).toMatchObject({ sent: 3, removed: 0 });
    expect(readdirSync(join(to, 'web'))).toHaveLength(6);
    const told = await deliver({ removesOld: true });
    expect(told.counts).toMatchObject({ kept: 3, removed: 2 });
    expect(told.log.some(({ text }) => text.includes('so they stay: web/voyage-003.jpg'))).toBe(true);
    expect(readdirSync(join(to, 'web'))).toEqual(['p0.jpg', 'p1.jpg', 'p2.jpg', 'voyage-003.jpg']);
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
