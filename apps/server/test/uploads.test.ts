import { createHash } from 'node:crypto';
import { statSync } from 'node:fs';
import { join } from 'node:path';
import { type HandOverView, Preset, type ProblemDetails, type RunDetail, type StoredPreset, type UploadResult } from '@rundle/core';
import { QueryTypes } from 'sequelize';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { picture, TestServer } from './server';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.start();
});
afterAll(() => server?.stop());

const TUS = { 'Tus-Resumable': '1.0.0' };
const base64 = (text: string) => Buffer.from(text).toString('base64');

/** Announces a file; tells the address of its upload, or the refusal. */
async function announce(setId: string, name: string, bytes: number, more = ''): Promise<{ status: number; url: string; text: string }> {
  const metadata = `setId ${base64(setId)},filename ${base64(name)}${more}`;
  const headers = { ...TUS, 'Upload-Length': String(bytes), 'Upload-Metadata': metadata };
  const answer = await fetch(`${server.url}/api/uploads`, { method: 'POST', headers });
  const url = new URL(answer.headers.get('location') ?? '/', server.url).href;
  return { status: answer.status, url, text: await answer.text() };
}

const patch = (url: string, data: Buffer, offset = 0) =>
  fetch(url, {
    method: 'PATCH',
    headers: { ...TUS, 'Content-Type': 'application/offset+octet-stream', 'Upload-Offset': String(offset) },
    body: new Uint8Array(data),
  });
const bytesOf = async (name: string, shade = 0) => Buffer.from(await (await picture(name, 800, shade)).arrayBuffer());
const finish = async (url: string) => {
  const answer = await fetch(`${url}/finish`, { method: 'POST' });
  return { status: answer.status, json: (await answer.json()) as UploadResult & ProblemDetails };
};

describe('an upload', () => {
  it('whose last answer is lost comes in once, however often it is asked for', async () => {
    const setId = await server.set('Lost answer', 0);
    const data = await bytesOf('lost.jpg', 1);
    const { url } = await announce(setId, 'lost.jpg', data.length);
    const first = (await (await patch(url, data)).json()) as UploadResult;
    const again = await Promise.all([finish(url), finish(url), finish(url)]);
    for (const { status, json } of again)
      expect([status, json.masters.map(({ id }) => id)]).toEqual([200, first.masters.map(({ id }) => id)]);
    expect((await server.detail(setId)).masters).toHaveLength(1);
    // A sender that asks how much has come is told: all. Otherwise it would send the file again, and be told that it is there already.
    const come = async () => (await fetch(url, { method: 'HEAD', headers: TUS })).headers;
    expect([(await come()).get('upload-offset'), (await come()).get('upload-length')]).toEqual(Array(2).fill(String(data.length)));
    // Once the picture has been taken out it can be brought in anew.
    await server.call('POST', `/api/sets/${setId}/masters/remove`, { masterIds: first.masters.map(({ id }) => id) });
    expect((await come()).get('upload-offset')).toBeNull();
  });

  it('that was whole when the server ended is taken in by the next, whoever asks', async () => {
    const setId = await server.set('Left whole', 0);
    const data = await bytesOf('left.jpg', 2);
    const { url } = await announce(setId, 'left.jpg', data.length);
    // The set is locked while the last byte comes, and the connection breaks: as a server that dies there leaves it.
    const { sequelize } = server.database;
    const transaction = await sequelize.transaction();
    await sequelize.query('SELECT id FROM sets WHERE id = :setId FOR UPDATE', {
      transaction,
      replacements: { setId },
      type: QueryTypes.SELECT,
    });
    const stop = new AbortController();
    const sending = fetch(url, {
      method: 'PATCH',
      body: new Uint8Array(data),
      signal: stop.signal,
      headers: { ...TUS, 'Content-Type': 'application/offset+octet-stream', 'Upload-Offset': '0' },
    }).catch(() => null);
    await server.until(
      async () => Number((await fetch(url, { method: 'HEAD', headers: TUS })).headers.get('upload-offset')) === data.length,
    );
    stop.abort();
    await sending;
    await transaction.rollback();
    await server.lookAfterUploads();
    await server.until(async () => (await server.detail(setId)).masters.length === 1);
    expect((await finish(url)).json.masters).toHaveLength(1);
  });

  it('that the database cannot take just now is kept, told as passing, and taken when asked again', async () => {
    const setId = await server.set('Away', 0);
    const data = await bytesOf('away.jpg', 3);
    const { url } = await announce(setId, 'away.jpg', data.length);
    await server.database.sequelize.query('ALTER TABLE masters RENAME TO masters_away');
    const answer = await patch(url, data);
    await server.database.sequelize.query('ALTER TABLE masters_away RENAME TO masters');
    expect([answer.status, ((await answer.json()) as ProblemDetails).code]).toEqual([503, 'not-stored-yet']);
    expect((await finish(url)).json.masters).toMatchObject([{ fileName: 'away.jpg' }]);
  });

  it('is refused where the room has been given away already, and when more comes than was announced', async () => {
    const setId = await server.set('Room', 0);
    const { masters } = server.files;
    const real = masters.freeBytes.bind(masters);
    masters.freeBytes = () => Promise.resolve(64e6 + 8e6); // what stays free whatever comes, and room for 8 MB
    // Each would fit by itself; together they do not.
    const made = [];
    for (let n = 0; n < 4; n++) made.push(await announce(setId, `${n}.jpg`, 2_500_000));
    expect(made.map(({ status }) => status)).toEqual([201, 201, 201, 507]);
    await fetch(made[0]!.url, { method: 'DELETE', headers: TUS });
    expect((await announce(setId, 'instead.jpg', 2_500_000)).status).toBe(201);
    masters.freeBytes = real;
    const data = await bytesOf('longer.jpg', 4);
    const { url } = await announce(setId, 'longer.jpg', 100);
    const answer = await patch(url, data);
    expect([answer.status, ((await answer.json()) as ProblemDetails).code]).toEqual([413, 'longer-than-announced']);
  });

  it('carries the file’s own time, which outputs get when a preset says so', async () => {
    const setId = await server.set('Time', 0);
    const modified = Date.UTC(2021, 5, 20, 21, 14, 3);
    const data = await bytesOf('old.jpg', 5);
    const { url } = await announce(setId, 'old.jpg', data.length, `,modified ${base64(String(modified))}`);
    await patch(url, data);
    await server.until(async () => (await server.detail(setId)).masters[0]?.state === 'ready');
    const preset = Preset.parse({ kind: 'rundle.preset', version: 1, title: 'Timed', size: { px: 200 }, metadata: { fileTime: 'master' } });
    const { json: stored } = await server.call<StoredPreset>('POST', '/api/presets', preset);
    const { json: run } = await server.call<RunDetail>('POST', `/api/sets/${setId}/runs`, { presetIds: [stored.id, stored.id] });
    await server.until(async () => (await server.call<RunDetail>('GET', `/api/runs/${run.id}`)).json.state === 'done');
    const { json: view } = await server.call<HandOverView>('GET', `/api/sets/${setId}/outputs`);
    expect(view.outputs).toHaveLength(1); // a preset that is chosen twice is planned once
    expect(statSync(join(view.path!, 'web', view.outputs[0]!.fileName)).mtimeMs).toBe(modified);
  });
});

describe('a set that is renamed', () => {
  it('in the middle of a run keeps its outputs in one place, and nothing is made again', async () => {
    const setId = await server.set('First name', 4, 1600);
    const preset = Preset.parse({ kind: 'rundle.preset', version: 1, title: 'Stay', size: { px: 1200 }, existing: 'replace' });
    const { json: stored } = await server.call<StoredPreset>('POST', '/api/presets', preset);
    const start = async () => (await server.call<RunDetail>('POST', `/api/sets/${setId}/runs`, { presetIds: [stored.id] })).json;
    const detail = async (id: string) => (await server.call<RunDetail>('GET', `/api/runs/${id}`)).json;
    const run = await start();
    await server.until(async () => (await detail(run.id)).outputs.some(({ state }) => state === 'done'));
    await server.call('PATCH', `/api/sets/${setId}`, { title: 'Second name', shelf: 'archive' });
    expect((await server.call('PATCH', `/api/sets/${setId}`, { shelf: 'bin' })).status).toBe(409);
    expect((await server.call('PATCH', `/api/sets/${setId}`, { houseRulesId: '7f1f6f3e-0000-4000-8000-000000000000' })).status).toBe(404);
    await server.until(async () => (await detail(run.id)).state === 'done');
    const { json: view } = await server.call<HandOverView>('GET', `/api/sets/${setId}/outputs`);
    expect(view.path).toContain('First name');
    expect(view.outputs).toHaveLength(4);
    for (const { id, bytes } of view.outputs)
      expect((await (await fetch(`${server.url}/api/outputs/${id}/file`)).arrayBuffer()).byteLength).toBe(bytes);
    const zip = await fetch(`${server.url}/api/sets/${setId}/outputs.zip`);
    expect([zip.status, zip.headers.get('content-disposition')]).toEqual([200, 'attachment; filename="Second name.zip"']);
    expect((await start()).outputs.map(({ state }) => state)).toEqual(Array(4).fill('skipped'));
    // The content that was written down is that of the file.
    const rows = await server.database.outputs.findAll({ where: { runId: run.id } });
    for (const row of rows) {
      const file = (await server.files.outputs.open(row))!;
      const hash = createHash('sha256');
      for await (const chunk of file.read()) hash.update(chunk as Buffer);
      expect(row.content).toBe(hash.digest('hex'));
    }
  });
});
