import { setTimeout as wait } from 'node:timers/promises';
import type { RunDetail, StoredPreset, WorkersView } from '@rundle/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { METRICS_TOKEN, TestServer } from './server';

/*
 * The workers as the page tells them: what each is at, what waits, and that a drained one takes nothing new.
 */

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.start();
});
afterAll(() => server.stop());

const view = async () => (await server.call<WorkersView>('GET', '/api/workers')).json;
const metrics = async (token = METRICS_TOKEN) => fetch(`${server.url}/metrics`, { headers: { authorization: `Bearer ${token}` } });
const metric = async (name: string): Promise<number> => {
  const line = (await (await metrics()).text()).split('\n').find((one) => one.startsWith(`${name} `));
  return line === undefined ? NaN : Number(line.slice(name.length + 1));
};

async function run(setId: string, body: object): Promise<RunDetail> {
  const preset = { kind: 'rundle.preset', version: 1, title: 'T', ...body };
  const { json } = await server.call<StoredPreset>('POST', '/api/presets', preset);
  return (await server.call<RunDetail>('POST', `/api/sets/${setId}/runs`, { presetIds: [json.id] })).json;
}
const doneOf = async ({ id }: RunDetail) => (await server.call<RunDetail>('GET', `/api/runs/${id}`)).json.counts.done;

describe('workers', () => {
  it('are told with what they are at and have done; what is drained finishes that and takes nothing new until it is woken', async () => {
    const setId = await server.set('Evening', 6);
    const [worker] = (await view()).workers;
    expect(worker).toMatchObject({ drained: false, silent: false, engine: expect.any(Number) as number });
    const change = (drained: boolean) => server.call('PATCH', `/api/workers/${worker!.id}`, { drained });
    expect((await change(true)).status).toBe(204);
    // With the next beat it hears of it.
    await wait(4500);
    const begun = await run(setId, { size: { px: 300 } });
    await wait(3000);
    const drained = await view();
    expect(drained.workers).toMatchObject([{ drained: true, work: null }]);
    expect(drained.waiting).toMatchObject([{ kind: 'make', pieces: 6, files: 6, paused: 0 }]);
    expect(drained.throughInSeconds).toBeNull();
    expect(await doneOf(begun)).toBe(0);
    expect((await change(false)).status).toBe(204);
    await server.until(async () => (await doneOf(begun)) === 6);
    await server.until(async () => (await view()).workers[0]?.done === 6);
    const after = await view();
    expect(after.waiting).toEqual([]);
    expect(after.workers[0]!.perMinute).toBeGreaterThan(0);

    // One that is drained in the middle of a run finishes what it is at, and no more.
    const long = await run(setId, { size: { px: 880 }, file: { type: 'avif', quality: 60 } });
    await server.until(async () => (await view()).workers[0]?.work?.kind === 'make');
    expect((await view()).workers[0]?.work).toMatchObject({
      file: expect.stringMatching(/^p \d\.jpg$/) as string,
      setId,
      setTitle: 'Evening',
    });
    await change(true);
    await server.until(async () => (await view()).workers[0]?.work === null);
    const stood = await doneOf(long);
    await wait(4000);
    expect(await doneOf(long)).toBe(stood);
    expect(stood).toBeLessThan(6);
    await change(false);
    await server.until(async () => (await doneOf(long)) === 6);
    expect((await server.call('PATCH', '/api/workers/00000000-0000-4000-8000-000000000000', { drained: true })).status).toBe(404);
  });

  it('that take the seat of one that was drained are drained, too, and go on counting where it only gave its memory back', async () => {
    const seat = { RUNDLE_WORKER_SEAT: '7' };
    const atSeat = async () => (await view()).workers.find((worker) => worker.seat === '7');
    const first = await server.startWorker(seat);
    const id = (await atSeat())!.id;
    await server.call('PATCH', `/api/workers/${id}`, { drained: true });
    first.kill();
    await server.until(async () => (await atSeat()) === undefined);
    const earlier = { since: Date.parse('2026-11-01T10:00:00Z'), done: 5, failed: 1, ends: [Date.now()] };
    const next = await server.startWorker({ ...seat, RUNDLE_WORKER_TALLY: JSON.stringify(earlier) });
    await server.until(async () => (await atSeat())?.done === 5);
    const told = await atSeat();
    expect(told).toMatchObject({ drained: true, failed: 1, since: '2026-11-01T10:00:00.000Z', perMinute: 0.2 });
    await server.call('PATCH', `/api/workers/${told!.id}`, { drained: false });
    expect(await atSeat()).toMatchObject({ drained: false });
    next.kill();
    await server.until(async () => (await atSeat()) === undefined);
  });

  it('and what waits for them are told as metrics to whoever knows the token, and what was done outlasts them', async () => {
    expect((await metrics('something else')).status).toBe(401);
    expect((await fetch(`${server.url}/metrics`)).status).toBe(401);
    const answer = await metrics();
    expect(answer.headers.get('content-type')).toContain('text/plain; version=0.0.4');
    await server.until(async () => (await metric('rundle_files_made_total')) === 12);
    expect(await metric('rundle_workers{state="idle"}')).toBe(1);
    expect(await metric('rundle_work_done_total{kind="read"}')).toBe(6);
    expect(await metric('rundle_work_waiting{kind="make"}')).toBe(0);
    expect(await metric('rundle_file_seconds_total{stage="written"}')).toBeGreaterThan(0);
    server.workers[0]!.kill();
    await server.until(async () => (await metric('rundle_workers{state="idle"}')) === 0);
    await server.startWorker();
    const setId = await server.set('Morning', 1);
    const begun = await run(setId, { size: { px: 200 }, title: 'U' });
    await server.until(async () => (await doneOf(begun)) === 1);
    await server.until(async () => (await metric('rundle_files_made_total')) === 13);
  });
});
