import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { Preset, type ProblemDetails, type RunDetail, SET_FILE_NAME, SetFile, type StoredPreset } from '@rundle/core';
import { BlobReader, configure, TextWriter, Uint8ArrayWriter, ZipReader } from '@zip.js/zip.js';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { TestServer } from './server';

configure({ useWebWorkers: false });

let server: TestServer;
let setId: string;
beforeAll(async () => {
  server = await TestServer.start();
  setId = await server.set('Quay: évening', 3, 500);
});
afterAll(() => server?.stop());

/** The file of the set, read as anybody would. */
async function taken(masters: 'with' | 'without'): Promise<{ length: number; told: number; set: SetFile; files: Map<string, Uint8Array> }> {
  const response = await fetch(`${server.url}/api/sets/${setId}/set.zip?masters=${masters}`);
  expect(response.status).toBe(200);
  const blob = await response.blob();
  const entries = await new ZipReader(new BlobReader(blob)).getEntries();
  const files = new Map<string, Uint8Array>();
  let set: SetFile | null = null;
  for (const entry of entries) {
    if (entry.directory) throw new Error(`${entry.filename} is a folder.`);
    if (entry.filename === SET_FILE_NAME) set = SetFile.parse(JSON.parse(await entry.getData(new TextWriter())));
    else files.set(entry.filename, await entry.getData(new Uint8ArrayWriter()));
  }
  return { length: blob.size, told: Number(response.headers.get('content-length')), set: set!, files };
}

describe('a set as one file', () => {
  it('has its masters byte for byte, its marks, its presets and its record, and tells its length', async () => {
    const body = Preset.parse({ kind: 'rundle.preset', version: 1, title: 'Web', size: { px: 200 } });
    const { json: web } = await server.call<StoredPreset>('POST', '/api/presets', body);
    const { json: run } = await server.call<RunDetail>('POST', `/api/sets/${setId}/runs`, { presetIds: [web.id] });
    await server.until(async () => (await server.call<RunDetail>('GET', `/api/runs/${run.id}`)).json.state === 'done');
    const { masters } = await server.detail(setId);
    await server.call('PUT', `/api/sets/${setId}/marks`, { marks: [{ masterId: masters[1]!.id, stars: 4, tags: ['hero'] }] });
    const { length, told, set, files } = await taken('with');
    expect(told).toBe(length);
    expect(set).toMatchObject({ title: 'Quay: évening', presets: { presets: [{ title: 'Web' }] } });
    expect(set.pictures.map(({ name, stars, tags }) => [name, stars, tags])).toEqual([
      ['p 1.jpg', 0, []],
      ['p 2.jpg', 4, ['hero']],
      ['p 3.jpg', 0, []],
    ]);
    expect(set.record.map(({ sha256, preset, version }) => [sha256, preset, version])).toEqual(
      set.pictures.map(({ sha256 }) => [sha256, 'Web', 1]),
    );
    for (const { sha256, master } of set.pictures) {
      const digest = await crypto.subtle.digest('SHA-256', Uint8Array.from(files.get(master!)!));
      expect(Buffer.from(digest).toString('hex')).toBe(sha256);
    }
    expect((await taken('without')).files.size).toBe(0);
  });

  it('goes without a master that has gone, and describes its picture', async () => {
    const { masters } = await server.detail(setId);
    const gone = (await server.database.masters.findByPk(masters[0]!.id))!.sha256!;
    rmSync(join(server.config.data, 'masters', gone.slice(0, 2), gone));
    const { set, files } = await taken('with');
    expect(set.pictures.map(({ master }) => master === null)).toEqual([true, false, false]);
    expect(files.size).toBe(2);
  });

  it('of a set that is none is refused before the first byte', async () => {
    const { status, json } = await server.call<ProblemDetails>('GET', `/api/sets/${crypto.randomUUID()}/set.zip`);
    expect([status, json.code]).toEqual([404, 'not-found']);
  });
});
