import { type ChildProcess, execFileSync } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { copyFileSync, mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { type HandOverView, type Master, Preset, type RunDetail, type StoredPreset, type StoredWatermark } from '@rundle/core';
import { claim, takeFrom, workKey } from '@rundle/store';
import { pino } from 'pino';
import { QueryTypes } from 'sequelize';
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import { picture, TestServer } from '../../server/test/server';
import type { Context } from '../src/context';
import { AttemptWriter } from '../src/work/attempt-writer';

let server: TestServer;
const presetIds: string[] = [];
beforeAll(async () => {
  server = await TestServer.start(false);
  for (const px of [500, 250]) {
    const preset = Preset.parse({ kind: 'rundle.preset', version: 1, title: `To ${px}`, size: { px }, folder: `to-${px}` });
    presetIds.push((await server.call<StoredPreset>('POST', '/api/presets', preset)).json.id);
  }
});
afterAll(() => server?.stop());
// A test that failed must not leave a worker to the next.
afterEach(async () => {
  for (const worker of server.workers) {
    worker.kill('SIGKILL');
    await ended(worker);
  }
});

const ended = (worker: ChildProcess): Promise<unknown> =>
  worker.exitCode !== null || worker.signalCode !== null ? Promise.resolve() : new Promise((resolve) => worker.once('exit', resolve));

/** Whether it stands still (proc(5), state T). */
const isStopped = (worker: ChildProcess): Promise<boolean> =>
  Promise.resolve(/^State:\s+T/m.test(readFileSync(`/proc/${worker.pid}/status`, 'utf8')));

async function end(worker: ChildProcess): Promise<void> {
  worker.kill('SIGTERM');
  await ended(worker);
}

/** A set of pictures that have been read, while no worker is there any more. */
async function quietSet(title: string, count: number, width = 900): Promise<string> {
  const worker = await server.startWorker();
  const setId = await server.set(title, count, width);
  await end(worker);
  return setId;
}

const start = async (setId: string) => (await server.call<RunDetail>('POST', `/api/sets/${setId}/runs`, { presetIds })).json;
const detail = async (runId: string) => (await server.call<RunDetail>('GET', `/api/runs/${runId}`)).json;

async function contents(setId: string): Promise<Record<string, string>> {
  const { json } = await server.call<HandOverView>('GET', `/api/sets/${setId}/outputs`);
  const files = ['to-500', 'to-250'].flatMap((folder) => readdirSync(join(json.path!, folder)).map((name) => `${folder}/${name}`));
  return Object.fromEntries(files.map((path) => [path, readFileSync(join(json.path!, path)).toString('base64')]));
}

describe('an attempt that is cut off', () => {
  let whole: Record<string, string>;
  let original: string;
  beforeAll(async () => {
    original = await quietSet('Whole', 2);
    const setId = original;
    const run = await start(setId);
    const worker = await server.startWorker();
    await server.until(async () => (await detail(run.id)).state === 'done');
    await end(worker);
    whole = await contents(setId);
    expect(Object.keys(whole)).toHaveLength(4);
  });

  it('or not, its files are those of the command line, byte for byte', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'rundle-by-hand-'));
    const presets = (await server.presets()).filter(({ id }) => presetIds.includes(id));
    const rows = await server.database.masters.findAll({ where: { setId: original }, order: [['position', 'ASC']] });
    const masters = [];
    for (const row of rows) {
      masters.push(join(folder, row.fileName));
      copyFileSync((await server.files.masters.bring(row)).path, masters.at(-1)!);
    }
    const named = presets.flatMap(({ preset }, at) => {
      writeFileSync(join(folder, `${at}.preset.json`), JSON.stringify(preset));
      return ['--preset', join(folder, `${at}.preset.json`)];
    });
    const program = fileURLToPath(new URL('../../../dist/rundle.js', import.meta.url));
    execFileSync(process.execPath, [program, 'render', ...named, '--out', join(folder, 'out'), ...masters], { stdio: 'ignore' });
    const byHand = Object.keys(whole).map((path) => [path, readFileSync(join(folder, 'out', path)).toString('base64')]);
    expect(Object.fromEntries(byHand)).toEqual(whole);
  });

  it.each(['begun', 'decoded', 'written', 'checked', 'hashed', 'recorded', 'moved', 'done'])(
    'at the step "%s" is gone on with: nothing lost, doubled, failed or left over',
    async (step) => {
      const { id: setId } = (await server.call<{ id: string }>('POST', `/api/sets/${original}/duplicate`, {})).json;
      const run = await start(setId);
      const id = randomUUID();
      const worker = await server.startWorker({ RUNDLE_CRASH_AT: step, RUNDLE_WORKER_ID: id });
      await ended(worker);
      expect(worker.signalCode).toBe('SIGKILL');
      const next = await server.startWorker({ RUNDLE_DEATHS: JSON.stringify([{ workerId: id, cause: 'other' }]) });
      await server.until(async () => (await detail(run.id)).state === 'done');
      expect((await detail(run.id)).outputs.map(({ state }) => state)).toEqual(['done', 'done', 'done', 'done']);
      expect(await contents(setId)).toEqual(whole);
      expect(readdirSync(join(server.config.data, 'outputs', '.unfinished'))).toEqual([]);
      await end(next);
    },
  );

  it('by a worker that only stands still is not taken over, and nothing fails', async () => {
    const setId = await quietSet('Standing still', 6, 2400);
    const run = await start(setId);
    const still = await server.startWorker({ RUNDLE_STOP_AT: 'hashed' });
    await server.until(() => isStopped(still));
    const other = await server.startWorker();
    await new Promise((resolve) => setTimeout(resolve, 13_000));
    const before = await detail(run.id);
    expect(before.outputs.filter(({ state }) => state === 'running').length).toBeGreaterThan(0);
    still.kill('SIGCONT');
    await server.until(async () => (await detail(run.id)).state === 'done');
    expect((await detail(run.id)).outputs.every(({ state }) => state === 'done')).toBe(true);
    expect(Object.keys(await contents(setId))).toHaveLength(12);
    await end(still);
    await end(other);
  });
});

describe('a worker that does not answer for minutes', () => {
  it('is told of, its work is taken over, and what it still writes is refused', async () => {
    const setId = await quietSet('Stalled', 6, 2400);
    const run = await start(setId);
    const id = randomUUID();
    const stuck = await server.startWorker({ RUNDLE_WORKER_ID: id, RUNDLE_STOP_AT: 'hashed' });
    await server.until(() => isStopped(stuck));
    const told: unknown[] = [];
    const other = await server.startWorker();
    other.on('message', (message) => told.push(message));
    await server.database.sequelize.query(`UPDATE workers SET beat_at = now() - interval '301 seconds' WHERE id = :id`, {
      replacements: { id },
    });
    await server.until(async () => (await detail(run.id)).state === 'done');
    const after = await detail(run.id);
    expect(told).toContainEqual({ stalled: [id] });
    expect(after.outputs.every(({ state }) => state === 'done')).toBe(true);
    expect(after.outputs.some(({ warnings }) => warnings.some(({ code }) => code === 'worker-replaced'))).toBe(true);
    const files = await contents(setId);
    stuck.kill('SIGCONT');
    await new Promise((resolve) => setTimeout(resolve, 4000));
    expect(await detail(run.id)).toEqual(after);
    expect(await contents(setId)).toEqual(files);
    await end(stuck);
    await end(other);
  });
});

describe('fencing', () => {
  it('an older attempt changes nothing, done stays done, and a run that has ended stays as it is', async () => {
    const { sequelize, outputs, runs } = server.database;
    const setId = await quietSet('Fenced', 1);
    const run = await start(setId);
    const [output] = run.outputs;
    const key = workKey('render-master', { runId: run.id, masterId: output!.masterId });
    const context = { database: server.database, log: pino({ level: 'silent' }), ending: new AbortController().signal } as Context;
    const first = (await claim(sequelize, key, 'one'))!;
    const early = new AttemptWriter(context, setId, first.attempt);
    expect(await early.begun(output!.id)).toBe(true);
    expect(await claim(sequelize, key, 'two')).toBeNull();
    expect(await takeFrom(sequelize, 'one', 'other')).toEqual([key]);
    const second = (await claim(sequelize, key, 'two'))!;
    expect(second.attempt).toBeGreaterThan(first.attempt);
    const late = new AttemptWriter(context, setId, second.attempt);
    const finished = { content: 'a'.repeat(64), width: 1, height: 1, bytes: 1, quality: 80, measures: null, warnings: [], ms: 1 };
    expect(await late.finished(output!.id, finished)).toBe(true);
    const problem = { code: 'internal', message: 'Never.' } as const;
    expect(await early.finished(output!.id, { ...finished, bytes: 2 })).toBe(false);
    expect(await early.failed(output!.id, problem)).toBe(false);
    expect(await late.done(output!.id, null)).toBe(true);
    expect(await late.failed(output!.id, problem)).toBe(false);
    expect(await outputs.findByPk(output!.id)).toMatchObject({ state: 'done', bytes: 1, error: null });
    const other = run.outputs[1]!;
    await runs.update({ state: 'cancelled' }, { where: { id: run.id } });
    expect(await late.done(other.id, null)).toBe(false);
    expect((await outputs.findByPk(other.id))!.state).toBe('planned');
  });
});

describe('work that brings workers down', () => {
  const spend = (key: string, column: 'deaths' | 'interruptions', count: number) =>
    server.database.sequelize.query(`UPDATE work SET ${column} = :count WHERE key = :key`, {
      type: QueryTypes.UPDATE,
      replacements: { key, count },
    });

  it('is given up after three deaths of which it can be the cause, whatever its kind, and others cost nothing', async () => {
    const setId = await quietSet('Deadly', 1);
    const run = await start(setId);
    const { json: mark } = await server.call<StoredWatermark>('POST', '/api/watermarks', {
      kind: 'text',
      title: 'N',
      text: 'N',
      colour: '#ffffff',
    });
    const renderKey = workKey('render-master', { runId: run.id, masterId: run.outputs[0]!.masterId });
    await spend(renderKey, 'deaths', 2);
    await spend(workKey('check-watermark', { watermarkId: mark.id }), 'deaths', 3);
    const id = randomUUID();
    const worker = await server.startWorker({ RUNDLE_CRASH_AT: 'decoded', RUNDLE_WORKER_ID: id });
    await ended(worker);
    const next = await server.startWorker({ RUNDLE_DEATHS: JSON.stringify([{ workerId: id, cause: 'picture' }]) });
    await server.until(async () => (await detail(run.id)).state === 'done');
    const { outputs } = await detail(run.id);
    expect(outputs.map(({ state, error }) => [state, error?.code])).toEqual([
      ['failed', 'renderer-crashed'],
      ['failed', 'renderer-crashed'],
    ]);
    const watermark = async () =>
      (await server.call<StoredWatermark[]>('GET', '/api/watermarks')).json.find(({ id: own }) => own === mark.id);
    await server.until(async () => (await watermark())?.state === 'refused');
    await end(next);
  });

  it('is given up as interrupted after ten other deaths, and read when asked again', async () => {
    const { json } = await server.call<{ id: string }>('POST', '/api/sets', { title: 'Interrupted' });
    const { masters } = await server.upload(json.id, [await picture('often.jpg', 300)]);
    const [master] = masters;
    await server.call('PUT', `/api/sets/${json.id}/marks`, { marks: [{ masterId: master!.id, stars: 4 }] });
    await spend(workKey('read-master', { masterId: master!.id }), 'interruptions', 10);
    const worker = await server.startWorker();
    const now = async (): Promise<Master> => (await server.detail(json.id)).masters[0]!;
    await server.until(async () => (await now()).state === 'failed');
    expect((await now()).problem).toMatchObject({ code: 'interrupted', file: 'often.jpg' });
    await server.call('POST', `/api/sets/${json.id}/masters/read-again`, { masterIds: [master!.id] });
    await server.until(async () => (await now()).state === 'ready');
    // Stars that were given before the picture was read count more than the file's own rating.
    expect((await now()).stars).toBe(4);
    await end(worker);
  });
});

describe('a worker that rests', () => {
  it('and holds more memory than it may ends in order, so that another takes its place', async () => {
    const least = JSON.stringify({ resting: 40, between: 100_000 });
    const worker = await server.startWorker({ RUNDLE_WORKER_MB: least });
    const setId = await server.set('Resting', 1);
    await server.until(() => Promise.resolve(worker.exitCode !== null));
    expect(worker.exitCode).toBe(75);
    // Between two pictures it may hold more; what is left is done by the next.
    const run = await start(setId);
    const small = await server.startWorker({ RUNDLE_WORKER_MB: JSON.stringify({ resting: 100_000, between: 40 }) });
    await server.until(() => Promise.resolve(small.exitCode !== null));
    const large = await server.startWorker({ RUNDLE_WORKER_MB: JSON.stringify({ resting: 100_000, between: 100_000 }) });
    await server.until(async () => (await detail(run.id)).state === 'done');
    expect((await detail(run.id)).outputs.every(({ state }) => state === 'done')).toBe(true);
    expect(large.exitCode).toBeNull();
    await end(large);
  });
});
