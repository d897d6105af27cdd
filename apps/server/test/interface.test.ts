import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import {
  Preset,
  type HandOverView,
  type Health,
  type OfferedFileType,
  type MasterDetail,
  type PlanView,
  type RunDetail,
  type SetSummary,
  type StoredPreset,
  type StoredWatermark,
} from '@rundle/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { picture, TestServer } from './server';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.start();
});
afterAll(() => server.stop());

const preset = (title: string, more: object = {}) =>
  Preset.parse({ kind: 'rundle.preset', version: 1, title, existing: 'replace', ...more });
const make = async (body: Preset) => (await server.call<StoredPreset>('POST', '/api/presets', body)).json;
const runToItsEnd = async (setId: string, presetIds: string[]) => {
  const { json: run, status } = await server.call<RunDetail>('POST', `/api/sets/${setId}/runs`, { presetIds });
  expect(status).toBe(201);
  const detail = async () => (await server.call<RunDetail>('GET', `/api/runs/${run.id}`)).json;
  await server.until(async () => (await detail()).state !== 'running');
  return detail();
};

describe('a set', () => {
  it('takes pictures in, refuses the rest with reasons, and shows them read', async () => {
    const { json: set, status } = await server.call<SetSummary>('POST', '/api/sets', { title: 'Mixed' });
    expect(status).toBe(201);
    const files = [
      await picture('good é.jpg', 600),
      new File(['no picture'], 'notes.jpg'),
      new File([], 'empty.jpg'),
      new File([new Uint8Array(3_100_000).fill(0xff)], '../../heavy.jpg'),
      new File([new Uint8Array([0xff, 0xd8, 0xff, 0xe0, 0, 16, 1, 2, 3, 4, 5, 6, 7])], 'cut <img onerror=x>.jpg'),
    ];
    const { refused } = await server.upload(set.id, files);
    expect(refused.map(({ file, code }) => [file, code])).toEqual([
      ['notes.jpg', 'unreadable'],
      ['empty.jpg', 'empty'],
      ['heavy.jpg', 'too-heavy'],
    ]);
    await server.until(async () => (await server.detail(set.id)).masters.every(({ state }) => state !== 'arriving'));
    const { masters } = await server.detail(set.id);
    expect(masters).toMatchObject([
      { fileName: 'good é.jpg', state: 'ready', facts: { width: 600, height: 400 } },
      { fileName: 'cut <img onerror=x>.jpg', state: 'failed', problem: { code: 'damaged' } },
    ]);
    const thumbnail = await fetch(`${server.url}/api/masters/${masters[0]!.id}/thumbnail`);
    expect(thumbnail.headers.get('content-type')).toBe('image/jpeg');
    const { json: whole } = await server.call<MasterDetail>('GET', `/api/masters/${masters[0]!.id}`);
    expect(whole.facts).toMatchObject({ jpegQuality: 80, likeness: expect.stringMatching(/^[0-9a-f]{16}$/) as string });
    expect(whole.facts?.proxy).toEqual({ width: 512, height: 341, bytes: (await thumbnail.arrayBuffer()).byteLength });
    expect(readdirSync(join(server.config.data, 'incoming'))).toEqual([]);
    await server.call('POST', `/api/sets/${set.id}/masters/remove`, { masterIds: [masters[1]!.id] });
    expect((await server.detail(set.id)).masters).toHaveLength(1);
  });
});

describe('a run', () => {
  it('does what the plan said, tells of it as it goes, and hands over', async () => {
    const setId = await server.set('Evening boats', 3);
    const web = await make(preset('Web', { size: { px: 450 }, folder: 'web' }));
    const small = await make(
      preset('Small', { size: { px: 200 }, folder: 'small', name: { parts: [{ part: 'set' }, { part: 'counter' }] } }),
    );
    const presetIds = [web.id, small.id];
    const { json: plan } = await server.call<PlanView>('POST', `/api/sets/${setId}/plan`, { presetIds });
    const names = plan.outputs.map((output) => (output.status === 'planned' ? output.fileName : output.status));
    expect(names).toEqual([
      'p-1_450.jpg',
      'Evening-boats001.jpg',
      'p-2_450.jpg',
      'Evening-boats002.jpg',
      'p-3_450.jpg',
      'Evening-boats003.jpg',
    ]);

    const told = await server.follow(setId);
    const run = await runToItsEnd(setId, presetIds);
    expect(run.outputs.map(({ state, fileName }) => [state, fileName])).toEqual(names.map((name) => ['done', name]));
    await server.until(() => Promise.resolve(told.some((event) => event.type === 'run' && event.run.state === 'done')));
    expect(told.flatMap((event) => (event.type === 'outputs' ? event.outputs : [])).some(({ state }) => state === 'done')).toBe(true);

    const { json: view } = await server.call<HandOverView>('GET', `/api/sets/${setId}/outputs`);
    expect(view.outputs).toHaveLength(6);
    for (const { folder, fileName, bytes } of view.outputs)
      expect(readFileSync(join(view.path!, folder, fileName))).toHaveLength(bytes ?? 0);
    const zip = await fetch(`${server.url}/api/sets/${setId}/outputs.zip`);
    const body = Buffer.from(await zip.arrayBuffer());
    expect(Number(zip.headers.get('content-length'))).toBe(body.length);
    for (const { folder, fileName } of view.outputs) expect(body.includes(`${folder}/${fileName}`)).toBe(true);

    // Run again after a tweak: replaced, not piled up; and what was delivered keeps the version that made it.
    const changed = await server.call<StoredPreset>('PUT', `/api/presets/${web.id}`, {
      ...web.preset,
      file: { ...web.preset.file, quality: 40 },
    });
    expect(changed.json.version).toBe(2);
    const again = await runToItsEnd(setId, [web.id]);
    expect(again.outputs.every(({ presetVersion, quality }) => presetVersion === 2 && quality === 40)).toBe(true);
    const { json: first } = await server.call<RunDetail>('GET', `/api/runs/${run.id}`);
    expect(first.outputs.filter(({ presetId }) => presetId === web.id).every(({ presetVersion }) => presetVersion === 1)).toBe(true);
    expect(readdirSync(join(view.path!, 'web'))).toHaveLength(3);
  });

  it('allows one at a time for a set, and can be cancelled', async () => {
    const setId = await server.set('Cancelled', 8, 2400);
    const { id } = await make(preset('Slow', { size: { px: 2300 }, folder: 'slow' }));
    const { json: run } = await server.call<RunDetail>('POST', `/api/sets/${setId}/runs`, { presetIds: [id] });
    expect(await server.call('POST', `/api/sets/${setId}/runs`, { presetIds: [id] })).toMatchObject({
      status: 409,
      json: { code: 'run-under-way' },
    });
    const detail = async () => (await server.call<RunDetail>('GET', `/api/runs/${run.id}`)).json;
    await server.until(async () => (await detail()).outputs.some(({ state }) => state === 'running'));
    expect((await server.call('POST', `/api/runs/${run.id}/cancel`, {})).json).toMatchObject({ state: 'running', stopping: true });
    await server.until(async () => (await detail()).state === 'cancelled');
    expect((await detail()).outputs.every(({ state }) => state === 'done' || state === 'cancelled')).toBe(true);
    // A run that has ended stays as it is.
    expect((await server.call('POST', `/api/runs/${run.id}/cancel`, {})).json).toMatchObject({ state: 'cancelled', stopping: false });
    expect((await detail()).outputs.some(({ state }) => state === 'cancelled')).toBe(true);
  });

  it('survives a worker that is killed in the middle of it', async () => {
    const setId = await server.set('Killed', 6, 2400);
    const { id } = await make(preset('Sturdy', { size: { px: 2000 }, folder: 'sturdy' }));
    const { json: run } = await server.call<RunDetail>('POST', `/api/sets/${setId}/runs`, { presetIds: [id] });
    const detail = async () => (await server.call<RunDetail>('GET', `/api/runs/${run.id}`)).json;
    await server.until(async () => (await detail()).outputs.some(({ state }) => state === 'running'));
    server.workers.at(-1)!.kill('SIGKILL');
    await server.startWorker();
    await server.until(async () => (await detail()).state === 'done');
    expect((await detail()).outputs.map(({ state }) => state)).toEqual(Array.from({ length: 6 }, () => 'done'));
  });
});

describe('a file type that takes programs', () => {
  it('is written where every worker has them, and said beforehand to be missing where one has not', async () => {
    const setId = await server.set('Archive', 1);
    const { id } = await make(preset('Archive', { size: { px: 300 }, file: { type: 'jxl' }, folder: 'archive' }));
    const isReady = async () =>
      (await server.call<OfferedFileType[]>('GET', '/api/file-types')).json.find(({ type }) => type === 'jxl')!.ready;
    const plan = async () => (await server.call<PlanView>('POST', `/api/sets/${setId}/plan`, { presetIds: [id] })).json.outputs;
    expect(await isReady()).toBe(true);
    expect((await runToItsEnd(setId, [id])).outputs).toMatchObject([{ state: 'done', fileName: 'p-1_300.jxl', quality: 80 }]);
    const { sequelize } = server.database;
    await sequelize.query(`INSERT INTO workers (id, host, pid) VALUES ('elsewhere', 'another machine', 1)`);
    expect(await isReady()).toBe(false);
    expect(await plan()).toMatchObject([{ status: 'failed', error: { code: 'type-not-writable', field: 'file.type' } }]);
    await sequelize.query(`DELETE FROM workers WHERE id = 'elsewhere'`);
    expect(await plan()).toMatchObject([{ status: 'skipped' }]);
  });
});

describe('every field of a preset', () => {
  it('works through the server too: types, spaces, a match and a watermark; and what is there already is not made again', async () => {
    const setId = await server.set('Whole', 2);
    const settled = async (watermark: object) => {
      const { json, status } = await server.call<StoredWatermark>('POST', '/api/watermarks', watermark);
      expect(status).toBe(201);
      const now = async () => (await server.call<StoredWatermark[]>('GET', '/api/watermarks')).json.find(({ id }) => id === json.id)!;
      await server.until(async () => (await now()).state !== 'checking');
      return now();
    };
    const text = await settled({ kind: 'text', title: 'Name', text: '© Lanternfold', colour: '#ffffff' });
    expect(text.state).toBe('ready');
    const unsafe = Buffer.from('<svg xmlns="http://www.w3.org/2000/svg"><script>1</script></svg>').toString('base64');
    const refused = await settled({ kind: 'svg', title: 'Bad', data: unsafe });
    expect(refused).toMatchObject({ state: 'refused', problem: { code: 'watermark-unsafe' } });

    const mark = { watermark: text.id };
    const marked = await make(preset('Marked', { size: { px: 300 }, file: { type: 'webp', match: 0.97 }, mark, folder: 'marked' }));
    const deep = await make(
      preset('Deep', {
        size: { px: 200, light: 'linear' },
        colour: { space: 'display-p3' },
        file: { type: 'tiff', bits: 16 },
        folder: 'deep',
      }),
    );
    const wrong = await make(preset('Wrong', { mark: { watermark: refused.id }, folder: 'wrong' }));
    const gone = await make(preset('Gone', { mark: { watermark: 'nobody' }, folder: 'gone' }));
    const all = [marked, deep, wrong, gone].map(({ id }) => id);
    const first = await runToItsEnd(setId, all);
    const of = (run: RunDetail, id: string) => run.outputs.filter(({ presetId }) => presetId === id);
    expect(of(first, marked.id)).toMatchObject([{ state: 'done', fileName: 'p-1_300.webp' }, { state: 'done' }]);
    expect(of(first, deep.id)[0]).toMatchObject({ state: 'done', quality: null, measures: { gamut: { share: 0 } } });
    expect(of(first, wrong.id)[0]).toMatchObject({ state: 'failed', error: { code: 'watermark-unsafe', field: 'mark.watermark' } });
    expect(of(first, gone.id)[0]).toMatchObject({ state: 'failed', error: { code: 'watermark-missing' } });

    const again = await runToItsEnd(setId, [marked.id, deep.id]);
    expect(again.outputs.map(({ state, warnings }) => [state, warnings[0]?.code])).toEqual(Array(4).fill(['skipped', 'unchanged']));
    const { json: handOver } = await server.call<HandOverView>('GET', `/api/sets/${setId}/outputs`);
    expect(handOver.outputs).toHaveLength(4);
    // A file that somebody has changed, and a preset that has changed, are made again.
    writeFileSync(join(handOver.path!, 'deep', 'p-1_200.tif'), 'touched');
    await server.call('PUT', `/api/presets/${marked.id}`, { ...marked.preset, sharpen: null });
    const third = await runToItsEnd(setId, [marked.id, deep.id]);
    expect(of(third, marked.id).map(({ state }) => state)).toEqual(['done', 'done']);
    expect(of(third, deep.id).map(({ state }) => state)).toEqual(['done', 'skipped']);
  });
});

describe('the interface', () => {
  it('answers what is wrong as problem details, by field', async () => {
    const wrong = await server.call('POST', '/api/presets', { kind: 'rundle.preset', version: 1, title: 'X', file: { quality: 0 } });
    expect(wrong).toMatchObject({
      status: 400,
      json: { type: 'about:blank', status: 400, code: 'invalid', problems: [{ field: 'file.quality' }] },
    });
    expect(await server.call('GET', '/api/sets/not-an-id')).toMatchObject({ status: 400 });
    expect(await server.call('GET', '/api/sets/7f1f6f3e-0000-4000-8000-000000000000')).toMatchObject({
      status: 404,
      json: { code: 'not-found' },
    });
    expect(await server.call('GET', '/api/nothing')).toMatchObject({ status: 404 });
    const setId = await server.set('Empty run', 1);
    const starred = await make(preset('Stars', { applies: { minRating: 5 } }));
    expect(await server.call('POST', `/api/sets/${setId}/runs`, { presetIds: [starred.id] })).toMatchObject({
      status: 409,
      json: { code: 'nothing-to-do' },
    });
  });

  it('refuses foreign hosts and other sites', async () => {
    const [, , port] = server.url.split(':');
    const { request } = await import('node:http');
    const status = await new Promise<number>((resolve) =>
      request({ host: '127.0.0.1', port, path: '/api/sets', headers: { host: 'rundle.example' } }, (response) =>
        resolve(response.statusCode ?? 0),
      ).end(),
    );
    expect(status).toBe(421);
    for (const headers of [{ 'sec-fetch-site': 'cross-site' }, { 'sec-fetch-site': 'same-site' }, { origin: 'http://other.example' }])
      expect(await server.call('POST', '/api/sets', { title: 'Foreign' }, headers as Record<string, string>)).toMatchObject({
        status: 403,
      });
    const { json } = await server.call<SetSummary[]>('GET', '/api/sets');
    expect(json.map(({ title }) => title)).not.toContain('Foreign');
  });

  it('refuses to save a preset over what somebody else has saved meanwhile, and names both versions', async () => {
    const one = await make(preset('Shared'));
    const save = (title: string, tag: string) =>
      server.call<StoredPreset & { code: string; detail: string }>(
        'PUT',
        `/api/presets/${one.id}`,
        { ...one.preset, title },
        { 'if-match': tag },
      );
    expect((await save('By the first', '"1"')).json).toMatchObject({ version: 2, preset: { title: 'By the first' } });
    const refused = await save('By the second', '"1"');
    expect([refused.status, refused.json.code]).toEqual([412, 'changed-meanwhile']);
    expect(refused.json.detail).toMatch(/“By the first”.*version 2.*version 1/);
    // The first one's answer was lost, and its page asks again.
    expect((await save('By the first', '"1"')).json).toMatchObject({ version: 2 });
    expect((await save('By the second', '"2"')).json).toMatchObject({ version: 3, preset: { title: 'By the second' } });
    expect((await save('Odd', 'W/"3"')).status).toBe(400);
  });

  it('says whether the database, the queue, the workers and the disk are well', async () => {
    const health = async () => (await server.call<Health>('GET', '/api/health')).json;
    await server.until(async () => {
      const { queue } = await health();
      return queue?.underWay === 0 && queue.waiting === 0;
    });
    expect(await health()).toMatchObject({ well: true, database: { well: true }, queue: { waiting: 0 }, disk: { well: true } });
    expect((await health()).workers!.every(({ well, beatSecondsAgo }) => well && beatSecondsAgo < 30)).toBe(true);
    // A worker that lives tells so every few seconds, perhaps just now.
    await server.until(async () => {
      await server.database.sequelize.query(`UPDATE workers SET beat_at = now() - interval '1 hour'`);
      return !(await health()).well;
    });
  });

  it('describes itself from the same schemas, and starts with presets that work', async () => {
    const { json } = await server.call<{ paths: Record<string, object>; components: { schemas: object } }>('GET', '/api/openapi.json');
    expect(Object.keys(json.paths).sort()).toEqual(
      expect.arrayContaining(['/api/presets/{presetId}', '/api/runs/{runId}/cancel', '/api/sets/{setId}/outputs.zip']),
    );
    expect(json.components.schemas).toHaveProperty('ProblemDetails');
    expect((await server.presets()).slice(0, 3).map(({ preset: { title } }) => title)).toEqual([
      'Gallery 2048',
      'Blog column 850',
      'Print copy 4000',
    ]);
    expect(existsSync(join(server.config.data, 'masters'))).toBe(true);
  });
});
