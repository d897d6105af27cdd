import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { type PlanView, Preset, type Run, type RunDetail, type RunRecord, type StoredPreset } from '@rundle/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { picture, TestServer } from './server';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.start();
});
afterAll(() => server.stop());

const make = async (title: string, more: object = {}) => {
  const body = Preset.parse({ kind: 'rundle.preset', version: 1, title, existing: 'replace', folder: title.toLowerCase(), ...more });
  return (await server.call<StoredPreset>('POST', '/api/presets', body)).json;
};
const plan = async (setId: string, presetIds: string[], since?: string) =>
  (await server.call<PlanView>('POST', `/api/sets/${setId}/plan`, { presetIds, ...(since ? { since } : {}) })).json;
const start = (setId: string, presetIds: string[], more: object = {}) =>
  server.call<RunDetail>('POST', `/api/sets/${setId}/runs`, { presetIds, ...more });
const detail = async (runId: string) => (await server.call<RunDetail>('GET', `/api/runs/${runId}`)).json;
const runToEnd = async (setId: string, presetIds: string[], more: object = {}) => {
  const { json } = await start(setId, presetIds, more);
  await server.until(async () => !['running', 'paused'].includes((await detail(json.id)).state));
  return detail(json.id);
};
/** What workers have in hand of a run. */
const HELD = 'SELECT key FROM work WHERE run_id = :id AND worker_id IS NOT NULL';
/** Who waits for rows that another holds. */
const WAITING = `SELECT pid FROM pg_stat_activity WHERE wait_event_type = 'Lock'`;
const change = (setId: string, body: object) => server.call('PATCH', `/api/sets/${setId}`, body);
/** Pictures of the machine in a folder that may be written to as well. */
async function machineSet(title: string, folder: string, names: string[]): Promise<string> {
  mkdirSync(folder, { recursive: true });
  for (const name of names) writeFileSync(join(folder, name), Buffer.from(await (await picture(name, 700)).arrayBuffer()));
  const { json: set } = await server.call<{ id: string }>('POST', '/api/sets', { title });
  server.config.roots.push(folder);
  await server.call('POST', `/api/sets/${set.id}/masters/from-machine`, { path: folder, deeper: false });
  await server.until(async () => {
    const { masters } = await server.detail(set.id);
    return masters.length === names.length && masters.every(({ state }) => state === 'ready');
  });
  return set.id;
}

describe('a plan', () => {
  it('tells only what has changed to whoever has the one before', async () => {
    const setId = await server.set('Changes', 3);
    const [web, small] = [await make('Web-1', { size: { px: 300 } }), await make('Small-1', { size: { px: 100 } })];
    await server.until(async () => (await plan(setId, [web.id, small.id])).rough === 0);
    const whole = await plan(setId, [web.id, small.id]);
    expect([whole.since, whole.outputs.length]).toEqual([null, 6]);
    const same = await plan(setId, [web.id, small.id], whole.id);
    expect([same.since, same.outputs, same.gone]).toEqual([whole.id, [], []]);
    await server.call('PUT', `/api/presets/${small.id}`, { ...small.preset, size: { ...small.preset.size, px: 120 } });
    const changed = await plan(setId, [web.id, small.id], whole.id);
    expect(changed.outputs.map(({ presetId }) => presetId)).toEqual([small.id, small.id, small.id]);
    const fewer = await plan(setId, [web.id], changed.id);
    expect([fewer.outputs.length, fewer.gone.length]).toEqual([0, 3]);
    expect((await plan(setId, [web.id], crypto.randomUUID())).since).toBeNull();
  });

  it('says how long it will take, by what was done before, and how many pictures are still being weighed', async () => {
    const setId = await server.set('Time', 2, 1400);
    const web = await make('Web-2', { size: { px: 1000 } });
    const before = await plan(setId, [web.id]);
    expect(before.timeMs).toBeGreaterThan(0);
    expect(before.rough).toBe(2);
    await server.until(async () => (await plan(setId, [web.id])).rough === 0);
    const [row] = await server.database.masters.findAll({ where: { setId } });
    expect(row!.facts!.weighings.map(({ edge }) => edge)).toEqual(expect.arrayContaining([512, 1330]));
    // As AVIF, which takes as long as all else, only once that is planned.
    const weighedAsAvif = async () =>
      (await server.database.masters.findAll({ where: { setId } })).map(({ facts }) => facts!.weighings.some(({ avif }) => avif !== null));
    expect(await weighedAsAvif()).toEqual([false, false]);
    const light = await make('Web-2-AVIF', { size: { px: 1000 }, file: { type: 'avif' } });
    expect((await plan(setId, [web.id, light.id])).rough).toBe(2);
    await server.until(async () => (await plan(setId, [web.id, light.id])).rough === 0);
    expect(await weighedAsAvif()).toEqual([true, true]);
    const run = await runToEnd(setId, [web.id]);
    for (const output of run.outputs) expect(output.ms).toBeGreaterThan(0);
  });
});

describe('what is out', () => {
  it('says at once why it is out of date, and only that is made again', async () => {
    const setId = await server.set('Stale', 2);
    const web = await make('Web-3', { size: { px: 300 } });
    await runToEnd(setId, [web.id]);
    const reasons = async () =>
      (await plan(setId, [web.id])).outputs.map((output) => (output.status === 'planned' ? output.stale : output.status));
    const fresh = await plan(setId, [web.id]);
    expect(fresh.outputs[0]).toMatchObject({ status: 'skipped', made: { width: 300, presetVersion: 1 } });
    await server.call('PUT', `/api/presets/${web.id}`, { ...web.preset, size: { ...web.preset.size, px: 280 }, name: web.preset.name });
    // Another size is another name here, so that nothing of the old stands in its place.
    expect(await reasons()).toEqual([null, null]);
    await server.call('PUT', `/api/presets/${web.id}`, { ...web.preset, sharpen: null });
    expect(await reasons()).toEqual(['preset', 'preset']);
    const { masters } = await server.detail(setId);
    await runToEnd(setId, [web.id], { masterIds: [masters[1]!.id] });
    expect(await reasons()).toEqual(['preset', 'skipped']);
    await runToEnd(setId, [web.id]);
    await change(setId, { rights: { creator: 'Orla Vessby' } });
    expect(await reasons()).toEqual(['credit', 'credit']);
  });

  it('varied this once is up to date until the variation is taken back', async () => {
    const setId = await server.set('Once', 1);
    const web = await make('Web-4', { size: { px: 300 }, name: { parts: [{ part: 'original' }] } });
    await change(setId, { once: { [web.id]: { px: 220, quality: 55, folder: 'tuesday' } } });
    const run = await runToEnd(setId, [web.id]);
    expect(run.outputs[0]).toMatchObject({ state: 'done', folder: 'tuesday', width: 220, quality: 55 });
    expect(run.once).toEqual({ [web.id]: { px: 220, quality: 55, folder: 'tuesday' } });
    expect((await plan(setId, [web.id])).outputs[0]).toMatchObject({ status: 'skipped', folder: 'tuesday' });
    await change(setId, { once: { [web.id]: { folder: 'tuesday' } } });
    expect((await plan(setId, [web.id])).outputs[0]).toMatchObject({ status: 'planned', stale: 'preset', width: 300, replaces: true });
  });
});

describe('a run', () => {
  it('is paused between outputs, goes on where it was, and is never doubled', async () => {
    const setId = await server.set('Pause', 12, 900);
    const web = await make('Web-5', { size: { px: 800 } });
    const { json: run } = await start(setId, [web.id]);
    await server.until(async () => (await detail(run.id)).counts.done > 0);
    const { json: paused } = await server.call<Run>('POST', `/api/runs/${run.id}/pause`);
    expect(paused.state).toBe('paused');
    // A picture that was begun a moment before is finished, and perhaps not told as running yet.
    await server.until(async () => (await server.database.sequelize.query(HELD, { replacements: { id: run.id } }))[0].length === 0);
    const { done } = (await detail(run.id)).counts;
    expect(done).toBeLessThan(12);
    expect((await start(setId, [web.id])).status).toBe(409);
    await new Promise((resolve) => setTimeout(resolve, 2500)); // longer than it takes until forgotten work is offered
    expect((await detail(run.id)).counts.done).toBe(done);
    await server.call('POST', `/api/runs/${run.id}/resume`);
    await server.until(async () => (await detail(run.id)).state === 'done');
    expect((await detail(run.id)).counts).toMatchObject({ total: 12, done: 12, failed: 0 });
    // What has ended is neither paused nor resumed.
    expect((await server.call<Run>('POST', `/api/runs/${run.id}/pause`)).json.state).toBe('done');
  });

  it('that is paused can be cancelled, and stands in a line that can be put into another order', async () => {
    const web = await make('Web-6', { size: { px: 500 } });
    const ids = [await server.set('First', 6, 900), await server.set('Second', 6, 900), await server.set('Third', 2, 900)];
    const runs: RunDetail[] = [];
    for (const id of ids) runs.push((await start(id, [web.id])).json);
    for (const { id } of runs) await server.call('POST', `/api/runs/${id}/pause`);
    const line = async () =>
      (await server.call<Run[]>('GET', '/api/runs')).json.flatMap(({ setId, setTitle }) => (ids.includes(setId) ? [setTitle] : []));
    expect(await line()).toEqual(['First', 'Second', 'Third']);
    await server.call('POST', `/api/runs/${runs[2]!.id}/move`, { before: runs[0]!.id });
    expect(await line()).toEqual(['Third', 'First', 'Second']);
    await server.call('POST', `/api/runs/${runs[0]!.id}/cancel`);
    await server.until(async () => (await detail(runs[0]!.id)).state === 'cancelled');
    for (const { id } of runs.slice(1)) await server.call('POST', `/api/runs/${id}/resume`);
    await server.until(async () => (await detail(runs[1]!.id)).state === 'done');
    const [second, third] = [await detail(runs[1]!.id), await detail(runs[2]!.id)];
    expect(Date.parse(third.finishedAt!)).toBeLessThan(Date.parse(second.finishedAt!));
  });

  it('is cancelled at the moment when a worker takes a picture of it', async () => {
    const setId = await server.set('Taken', 12);
    const web = await make('Web-12', { size: { px: 800 } });
    const { json: run } = await start(setId, [web.id]);
    await server.call('POST', `/api/runs/${run.id}/pause`);
    const { sequelize } = server.database;
    const of = { replacements: { id: run.id } };
    await server.until(async () => (await sequelize.query(HELD, of))[0].length === 0);
    const { asked } = await sequelize.transaction(async (transaction) => {
      // As work is claimed: first the piece itself, then its outputs.
      await sequelize.query('UPDATE work SET attempt = attempt WHERE key = (SELECT max(key) FROM work WHERE run_id = :id)', {
        transaction,
        ...of,
      });
      const cancelling = server.call<Run>('POST', `/api/runs/${run.id}/cancel`);
      await server.until(async () => (await sequelize.query(WAITING))[0].length > 0);
      await sequelize.query('UPDATE outputs SET attempt = attempt WHERE run_id = :id', { transaction, ...of });
      return { asked: cancelling };
    });
    expect((await asked).status).toBe(200);
    expect((await detail(run.id)).state).toBe('cancelled');
  });

  it('paused and taken up again while a worker stands still loses and doubles nothing', async () => {
    const setId = await server.set('Still', 10, 900);
    const web = await make('Web-10', { size: { px: 800 } });
    const other = await server.startWorker();
    const { json: run } = await start(setId, [web.id]);
    await server.until(async () => (await detail(run.id)).counts.done > 0);
    other.kill('SIGSTOP');
    try {
      await server.call('POST', `/api/runs/${run.id}/pause`);
      await new Promise((resolve) => setTimeout(resolve, 3000));
      expect((await detail(run.id)).state).toBe('paused');
      await server.call('POST', `/api/runs/${run.id}/resume`);
      // All that the standing one does not hold is made by the other.
      await server.until(async () => (await detail(run.id)).counts.done >= 9);
    } finally {
      other.kill('SIGCONT');
    }
    await server.until(async () => (await detail(run.id)).state === 'done');
    expect((await detail(run.id)).counts).toMatchObject({ total: 10, done: 10, failed: 0 });
    const files = (await detail(run.id)).outputs.map(({ fileName }) => fileName);
    expect(new Set(files).size).toBe(10);
  });

  it('is on record: what, by which versions and values, what came out; as data and as a table', async () => {
    const setId = await server.set('=Record', 2);
    const web = await make('Web-7', { size: { px: 300 } });
    await change(setId, { once: { [web.id]: { quality: 60 } } });
    const run = await runToEnd(setId, [web.id]);
    const { json } = await server.call<RunRecord>('GET', `/api/runs/${run.id}/record.json`);
    expect(json).toMatchObject({ set: '=Record', state: 'done', presets: [{ title: 'Web-7', version: 1, once: { quality: 60 } }] });
    expect(json.outputs).toMatchObject([{ file: 'web-7/p-1_300.jpg', quality: 60, state: 'done' }, { file: 'web-7/p-2_300.jpg' }]);
    const table = await fetch(`${server.url}/api/runs/${run.id}/record.csv`);
    expect(table.headers.get('content-type')).toBe('text/csv; charset=utf-8');
    expect((await table.text()).split('\r\n')).toHaveLength(4);
  });
});

describe('the place of the files', () => {
  it('is a folder of the machine, where nothing is touched that is not ours', async () => {
    const setId = await server.set('Place', 2);
    const [root] = server.config.writeRoots;
    const path = join(root!, 'delivery');
    const web = await make('Web-8', { size: { px: 300 }, name: { parts: [{ part: 'original' }] } });
    expect((await change(setId, { place: { kind: 'folder', path: 'relative' } })).status).toBe(400);
    await change(setId, { place: { kind: 'folder', path: '/etc' } });
    expect((await plan(setId, [web.id])).placeProblem).toMatchObject({ code: 'not-written' });
    expect((await start(setId, [web.id])).status).toBe(403);
    await change(setId, { place: { kind: 'folder', path } });
    mkdirSync(join(path, 'web-8'), { recursive: true });
    writeFileSync(join(path, 'web-8', 'p-1.jpg'), 'a stranger');
    const run = await runToEnd(setId, [web.id]);
    expect(run.outputs.map(({ state, fileName, target }) => [state, fileName, target])).toEqual([
      ['done', 'p-1-2.jpg', path],
      ['done', 'p-2.jpg', path],
    ]);
    expect(run.outputs[0]!.warnings.map(({ code }) => code)).toContain('is-stranger');
    expect(readFileSync(join(path, 'web-8', 'p-1.jpg'), 'utf8')).toBe('a stranger');
    // Ours is replaced; ours that somebody has retouched since is a stranger.
    writeFileSync(join(path, 'web-8', 'p-1-2.jpg'), 'retouched');
    await server.call('PUT', `/api/presets/${web.id}`, { ...web.preset, sharpen: null });
    const again = await runToEnd(setId, [web.id]);
    expect(again.outputs.map(({ state, fileName }) => [state, fileName])).toEqual([
      ['done', 'p-1-3.jpg'],
      ['done', 'p-2.jpg'],
    ]);
    expect(readFileSync(join(path, 'web-8', 'p-1-2.jpg'), 'utf8')).toBe('retouched');
    for (const existing of ['keep-both', 'leave', 'stop', 'replace'] as const) {
      await server.call('PUT', `/api/presets/${web.id}`, { ...web.preset, existing, file: { ...web.preset.file, quality: 50 } });
      await runToEnd(setId, [web.id]);
      expect(readFileSync(join(path, 'web-8', 'p-1.jpg'), 'utf8'), existing).toBe('a stranger');
      expect(readFileSync(join(path, 'web-8', 'p-1-2.jpg'), 'utf8'), existing).toBe('retouched');
    }
  });

  it('is beside the masters, which stay as they are, and not for pictures that were uploaded', async () => {
    const [root] = server.config.writeRoots;
    const folder = join(root!, 'masters');
    const setId = await machineSet('Beside', folder, ['one.jpg', 'two.jpg']);
    await server.upload(setId, [await picture('uploaded.jpg', 600)]);
    await server.until(async () => (await server.detail(setId)).masters.every(({ state }) => state === 'ready'));
    const masters = ['one.jpg', 'two.jpg'].map((name) => readFileSync(join(folder, name)));
    // A preset without a folder and with the master's own name would hit the masters themselves.
    const bare = await make('Bare', { size: { px: 300 }, folder: '', name: { parts: [{ part: 'original' }] } });
    await change(setId, { place: { kind: 'masters', folder: '' } });
    const run = await runToEnd(setId, [bare.id]);
    expect(run.outputs.map(({ state, fileName, error }) => [state, fileName, error?.code])).toEqual([
      ['done', 'one-2.jpg', undefined],
      ['done', 'two-2.jpg', undefined],
      ['failed', '', 'no-own-folder'],
    ]);
    await change(setId, { place: { kind: 'masters', folder: 'small' } });
    await runToEnd(setId, [bare.id]);
    expect(readdirSync(join(folder, 'small')).sort()).toEqual(['one.jpg', 'two.jpg']);
    expect(['one.jpg', 'two.jpg'].map((name) => readFileSync(join(folder, name)))).toEqual(masters);
    expect(existsSync(join(folder, 'small', 'uploaded.jpg'))).toBe(false);
  });

  it('without room refuses the run before anything is written', async () => {
    const setId = await server.set('No room', 1);
    const { facts } = (await server.database.masters.findOne({ where: { setId } }))!;
    // As a copy it would be as heavy as its master, which is said to be heavier than any disk here.
    await server.database.masters.update({ facts: { ...facts!, bytes: 9e14 } }, { where: { setId } });
    const copy = await make('Copy', { file: { type: 'original' } });
    expect((await plan(setId, [copy.id])).freeBytes).toBeGreaterThan(0);
    const { status, json } = await start(setId, [copy.id]);
    expect([status, (json as unknown as { code: string }).code]).toEqual([507, 'no-room']);
  });
});
