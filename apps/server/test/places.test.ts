import { existsSync, mkdirSync, mkdtempSync, readdirSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { MachineFolder, ProblemDetails, RunRecord, SetDetail } from '@rundle/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { picture, TestServer } from './server';
import { change, make, out, plan, run, start, voyageOn } from './voyage';

let server: TestServer;
let writable: string;
beforeAll(async () => {
  server = await TestServer.start();
  await voyageOn(server);
  writable = server.config.writeRoots[0]!;
  server.config.roots.push(writable);
});
afterAll(() => server?.stop());

/** A set of pictures that lie in a folder that may be written to. */
async function setIn(name: string): Promise<{ setId: string; folder: string }> {
  const folder = join(writable, name);
  mkdirSync(folder);
  for (const at of [0, 1]) writeFileSync(join(folder, `m${at}.jpg`), Buffer.from(await (await picture('m.jpg', 300, at)).arrayBuffer()));
  const { json } = await server.call<SetDetail>('POST', '/api/sets', { title: name });
  await server.call('POST', `/api/sets/${json.id}/masters/from-machine`, { path: folder, deeper: false });
  await server.until(async () => (await server.detail(json.id)).masters.filter(({ state }) => state === 'ready').length === 2);
  return { setId: json.id, folder };
}
const patch = (setId: string, body: object) => server.call('PATCH', `/api/sets/${setId}`, body);

describe('a preset that says where its files go', () => {
  it('has them beside the masters, while those of another go where the set says; and they follow when it says otherwise', async () => {
    const { setId, folder } = await setIn('beside');
    const [web, mail] = [await make('Web beside', { place: 'masters', folder: 'small' }), await make('Mail', { folder: 'mail' })];
    const done = await run(setId, [web, mail]);
    expect(done.counts).toMatchObject({ done: 4, failed: 0 });
    expect(readdirSync(join(folder, 'small')).sort()).toEqual(['voyage-001.jpg', 'voyage-002.jpg']);
    const path = (await out(setId)).path!;
    expect(readdirSync(path)).toEqual(['mail']);
    expect((await plan(setId, [web, mail])).outputs.map(({ status }) => status)).toEqual(Array(4).fill('skipped'));
    // What stands where is on record, by its whole path where that is not the place of the set.
    const { json: record } = await server.call<RunRecord>('GET', `/api/runs/${done.id}/record.json`);
    expect(record.outputs.map(({ file }) => file)).toContain(join(folder, 'small', 'voyage-001.jpg'));
    expect(record.outputs.map(({ file }) => file)).toContain('mail/voyage-001.jpg');
    await change(web, { place: null });
    await run(setId, [web, mail]);
    await server.until(() => Promise.resolve(!existsSync(join(folder, 'small', 'voyage-001.jpg'))));
    expect(readdirSync(path).sort()).toEqual(['mail', 'small']);
    expect(readdirSync(join(path, 'small'))).toHaveLength(2);
  });

  it('or is asked: until it has been said, nothing begins; then it holds for the set', async () => {
    const { setId } = await setIn('asked');
    const client = await make('Client', { place: 'ask' });
    const refused = await start(setId, [client]);
    expect([refused.status, refused.json.code]).toEqual([409, 'place-asked']);
    expect(refused.json.detail).toContain('“Client”');
    await patch(setId, { once: { [client.id]: { place: { kind: 'folder', path: join(writable, 'for-client') } } } });
    expect((await run(setId, [client])).counts).toMatchObject({ done: 2 });
    expect(readdirSync(join(writable, 'for-client', 'web'))).toHaveLength(2);
    // A place that may not be written to fails this preset, not the others.
    await patch(setId, { once: { [client.id]: { place: { kind: 'folder', path: '/etc' } } } });
    const other = await make('Other', { folder: 'other' });
    const outputs = (await plan(setId, [client, other])).outputs;
    const states = (of: { id: string }) => new Set(outputs.filter(({ presetId }) => presetId === of.id).map(({ status }) => status));
    expect([states(client), states(other)]).toEqual([new Set(['failed']), new Set(['planned'])]);
  });

  it('and asks is no preset for a standing order, which nobody answers', async () => {
    const client = await make('Asks', { place: 'ask' });
    const body = {
      title: 'Quay',
      folder: join(writable, 'asked'),
      deeper: false,
      presetIds: [client.id],
      place: { kind: 'own' },
      takeExisting: false,
    };
    const { status, json } = await server.call<ProblemDetails>('POST', '/api/standing-orders', body);
    expect([status, json.code]).toEqual([409, 'place-asked']);
  });
});

describe('a folder that files go to', () => {
  const list = (path: string) =>
    server.call<MachineFolder & ProblemDetails>('GET', `/api/machine/folders?use=writing&path=${encodeURIComponent(path)}`);
  const folder = (path: string, name: string) =>
    server.call<MachineFolder & ProblemDetails>('POST', '/api/machine/folders', { path, name });

  it('is chosen, or made, below those that may be written to, and nowhere else', async () => {
    const roots = await server.call<MachineFolder>('GET', '/api/machine/folders?use=writing');
    expect(roots.json.folders.map(({ path }) => path)).toEqual([writable]);
    const { status, json } = await folder(writable, 'Spring fair');
    expect([status, json.path, json.up]).toEqual([201, join(writable, 'Spring fair'), writable]);
    // Once more it is the same one.
    expect((await folder(writable, 'Spring fair')).status).toBe(201);
    expect((await list(writable)).json.folders.map(({ name }) => name)).toContain('Spring fair');
    const outside = mkdtempSync(join(tmpdir(), 'rundle-not-written-'));
    expect((await folder(outside, 'x')).status).toBe(403);
    expect((await list(outside)).json.detail).toContain('RUNDLE_WRITE_ROOTS');
    for (const name of ['..', 'a/b', '', '.hidden']) expect((await folder(writable, name)).status).toBe(400);
    writeFileSync(join(writable, 'in the way'), 'somebody’s');
    expect((await folder(writable, 'in the way')).json.code).toBe('no-place');
    expect(readdirSync(outside)).toEqual([]);
  });
});
