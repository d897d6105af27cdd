import type { ChildProcess } from 'node:child_process';
import { createHash, randomUUID } from 'node:crypto';
import { mkdirSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { TestServer } from './server';
import {
  bringIn,
  change,
  ended,
  fresh,
  listed,
  make,
  now,
  out,
  pathOf,
  plan,
  remove,
  run,
  seeded,
  setOf,
  start,
  voyage,
  voyageOn,
} from './voyage';

/*
 * Names after a change: what is ours gives way to its newer self, what is not stays; a run cut off at any point is completed.
 */

let server: TestServer;
let worker: ChildProcess;
let workerId = 'first';
beforeAll(async () => {
  server = await TestServer.start(false);
  worker = await server.startWorker({ RUNDLE_WORKER_ID: workerId });
  await voyageOn(server);
});
afterAll(() => server?.stop());

describe('names after a change', () => {
  it('follow the set: a cancelled run, a picture that is removed and brought in again, another order', async () => {
    const web = await make('Voyage', { existing: 'keep-both' });
    const setId = await setOf('Voyage', [0, 1, 2, 3, 4, 5]);
    const first = (await start(setId, [web])).json;
    const done = async () =>
      (await now(first.id)).outputs.flatMap(({ state, folder, fileName }) => (state === 'done' ? [`${folder}/${fileName}`] : []));
    // Pictures are taken in their order, and two that are made at a time end in any.
    await server.until(async () => (await done()).includes('web/voyage-002.jpg'));
    await server.call('POST', `/api/runs/${first.id}/cancel`);
    await ended(first.id);
    const made = await done();
    await remove(setId, 'p1.jpg');
    const told = await plan(setId, [web]);
    expect(told.earlier.removed).toBe(1);
    expect(told.earlier.names.at(-1)).toEqual({ from: 'web/voyage-002.jpg', to: null });
    await run(setId, [web]);
    expect(listed(await pathOf(setId))).toEqual(await fresh([0, 2, 3, 4, 5], [web]));
    expect((await plan(setId, [web])).outputs.every(({ status }) => status === 'skipped')).toBe(true);

    // Removed and brought in again: the same picture, whose file only gets another name.
    const { masters } = await server.detail(setId);
    await server.call('PUT', `/api/sets/${setId}/order`, { masterIds: masters.map(({ id }) => id).toReversed() });
    await remove(setId, 'p4.jpg');
    await bringIn(setId, [4]);
    const again = await plan(setId, [web]);
    expect(again.outputs.map(({ status }) => status)).toEqual(Array(5).fill('skipped'));
    const moved = await run(setId, [web]);
    expect([moved.state, moved.counts.done, moved.counts.skipped]).toEqual(['done', 0, 5]);
    expect(listed(await pathOf(setId))).toEqual(await fresh([5, 3, 2, 0, 4], [web]));
    const names = (await out(setId)).outputs.map(({ masterName, fileName }) => [masterName, fileName]);
    expect(names).toEqual(['p5', 'p3', 'p2', 'p0', 'p4'].map((name, n) => [`${name}.jpg`, `voyage-00${n + 1}.jpg`]));
    // The record of the first run tells what they were called then.
    const { json: record } = await server.call<{ outputs: { file: string; state: string }[] }>('GET', `/api/runs/${first.id}/record.json`);
    expect(record.outputs.filter(({ state }) => state === 'done').map(({ file }) => file)).toEqual(made);
  });

  it('of a preset that got another name, folder or type, and of a set that got another place, leave nothing behind', async () => {
    const web = await make('Renamed');
    const setId = await setOf('Renamed', [0, 1, 2]);
    const elsewhere = join(server.config.writeRoots[0]!, 'elsewhere');
    await run(setId, [web]);
    const own = await pathOf(setId);
    for (const more of [
      { folder: 'other' },
      { name: { parts: [{ part: 'original' }] } },
      { file: { ...web.preset.file, type: 'webp' } },
      { size: { ...web.preset.size, px: 90 }, folder: 'third' },
    ]) {
      await change(web, more);
      expect((await plan(setId, [web])).earlier).toMatchObject('file' in more ? { madeAnew: 3 } : { renamed: 3 });
      await run(setId, [web]);
      expect(listed(own), JSON.stringify(more)).toEqual(await fresh([0, 1, 2], [web]));
    }
    await server.call('PATCH', `/api/sets/${setId}`, { place: { kind: 'folder', path: elsewhere } });
    const moved = await run(setId, [web]);
    expect([moved.counts.skipped, listed(own)]).toEqual([3, {}]);
    expect(listed(elsewhere)).toEqual(await fresh([0, 1, 2], [web]));
    expect((await out(setId)).outputs.map(({ file }) => file)).toEqual(Array(3).fill('stands'));
  });

  it('unattended, nothing is taken away, and numbers that were given stay', async () => {
    const web = await make('Unattended');
    const setId = await setOf('Unattended', [0, 1, 2]);
    await run(setId, [web], {});
    const before = listed(await pathOf(setId));
    await remove(setId, 'p1.jpg');
    await bringIn(setId, [3]);
    expect((await plan(setId, [web], 'keep')).earlier).toMatchObject({ renamed: 0, removed: 1 });
    await run(setId, [web], {});
    const after = listed(await pathOf(setId));
    expect(after).toMatchObject(before);
    expect(Object.keys(after)).toEqual(['web/voyage-001.jpg', 'web/voyage-002.jpg', 'web/voyage-003.jpg', 'web/voyage-004.jpg']);
  });

  it('what a run cut off in the middle of renaming is completed by the next worker, and nothing is lost', async () => {
    const web = await make('Crashes');
    const setId = await setOf('Crashes', [0, 1, 2, 3]);
    await run(setId, [web]);
    const order = [0, 1, 2, 3];
    for (const step of ['taken', 'all-taken', 'put', 'moved-all']) {
      worker.kill('SIGKILL');
      await gone(worker);
      order.push(order.shift()!);
      const { masters } = await server.detail(setId);
      const ids = order.map((n) => masters.find(({ fileName }) => fileName === `p${n}.jpg`)!.id);
      await server.call('PUT', `/api/sets/${setId}/order`, { masterIds: ids });
      const { json } = await start(setId, [web]);
      const crashing = await server.startWorker({ RUNDLE_CRASH_AT: step, RUNDLE_WORKER_ID: step });
      await gone(crashing);
      // Whatever is shown meanwhile, no file is shown under another's name.
      for (const output of (await out(setId)).outputs) {
        const response = await fetch(`${server.url}/api/outputs/${output.id}/file`);
        if (response.ok) expect(sha(Buffer.from(await response.arrayBuffer()))).toBe(await contentOf(output.id));
      }
      const RUNDLE_DEATHS = JSON.stringify([{ workerId: step, cause: 'other' }]);
      workerId = `after ${step}`;
      worker = await server.startWorker({ RUNDLE_WORKER_ID: workerId, RUNDLE_DEATHS });
      await ended(json.id);
      expect((await now(json.id)).state).toBe('done');
      expect(listed(await pathOf(setId)), step).toEqual(await fresh(order, [web]));
    }
  });

  it.each([11])('after any sequence of changes (seed %i), a run of all leaves what a fresh studio would make', async (seed) => {
    const random = seeded(seed);
    const web = await make(`Any ${seed}`);
    const setId = await setOf(`Any ${seed}`, [0, 1, 2, 3, 4]);
    const path = join(server.config.writeRoots[0]!, `any-${seed}`);
    await server.call('PATCH', `/api/sets/${setId}`, { place: { kind: 'folder', path } });
    const numbers = async () => (await server.detail(setId)).masters.map(({ fileName }) => Number(fileName.slice(1, -4)));
    const kept: Record<string, string> = {};
    const one = <T>(all: readonly T[]): T | undefined => all[Math.floor(random() * all.length)];
    const steps: Record<string, () => Promise<unknown>> = {
      add: async () => {
        const there = await numbers();
        const missing = one([0, 1, 2, 3, 4, 5, 6].filter((n) => !there.includes(n)));
        if (missing !== undefined) await bringIn(setId, [missing]);
      },
      remove: async () => {
        const there = await numbers();
        if (there.length > 2) await remove(setId, `p${one(there)}.jpg`);
      },
      order: async () => {
        const ids = (await server.detail(setId)).masters.map(({ id }) => ({ id, at: random() }));
        await server.call('PUT', `/api/sets/${setId}/order`, { masterIds: ids.toSorted((a, b) => a.at - b.at).map(({ id }) => id) });
      },
      preset: () =>
        change(
          web,
          one([
            voyage,
            { name: { parts: [{ part: 'original' }] } },
            { folder: 'other' },
            { folder: 'web' },
            { file: { ...web.preset.file, type: 'webp' } },
            { file: { ...web.preset.file, type: 'jpeg' } },
            { size: { ...web.preset.size, px: 60 } },
          ])!,
        ),
      run: () => run(setId, [web]),
      'run, unattended': () => run(setId, [web], {}),
      'run, cancelled': async () => {
        const { json } = await start(setId, [web]);
        await server.call('POST', `/api/runs/${json.id}/cancel`);
        await ended(json.id);
      },
      'run, with a crash': async () => {
        const { json } = await start(setId, [web]);
        await crash();
        await ended(json.id);
      },
      delete: () => {
        const file = one(Object.keys(listed(path)).filter((name) => !(name in kept)));
        if (file) rmSync(join(path, file));
        return Promise.resolve();
      },
      edit: () => {
        const file = one(Object.keys(listed(path)).filter((name) => !(name in kept)));
        if (file) writeFileSync(join(path, file), (kept[file] = `edited ${file}`));
        return Promise.resolve();
      },
    };
    const done: string[] = [];
    for (let n = 0; n < 14; n++) {
      const name = one(Object.keys(steps))!;
      done.push(name);
      await steps[name]!();
    }
    await server.call('PATCH', `/api/sets/${setId}`, { copies: 'go' });
    await run(setId, [web]);
    expect(listed(path), done.join('; ')).toEqual(await fresh(await numbers(), [web], kept));
    expect((await out(setId)).outputs.every(({ file }) => file === 'stands')).toBe(true);
  });

  it('stop lets nothing begin where a stranger’s file is in the way', async () => {
    const web = await make('Stops', { existing: 'stop' });
    const setId = await setOf('Stops', [0, 1]);
    const path = join(server.config.writeRoots[0]!, 'stops');
    await server.call('PATCH', `/api/sets/${setId}`, { place: { kind: 'folder', path } });
    mkdirSync(join(path, 'web'), { recursive: true });
    writeFileSync(join(path, 'web', 'voyage-002.jpg'), 'a stranger');
    const { status, json } = await start(setId, [web]);
    expect([status, json.code, json.detail]).toMatchObject([409, 'in-the-way', expect.stringContaining('voyage-002.jpg')]);
    expect(readdirSync(join(path, 'web'))).toEqual(['voyage-002.jpg']);
    rmSync(join(path, 'web', 'voyage-002.jpg'));
    await run(setId, [web]);
    // Of ours it says nothing: they give way.
    await change(web, { size: { ...web.preset.size, px: 80 } });
    await run(setId, [web]);
    expect(Object.keys(listed(path))).toEqual(['web/voyage-001.jpg', 'web/voyage-002.jpg']);
  });
});

/** The worker dies, and the supervisor starts another, which it tells of that. */
async function crash(): Promise<void> {
  worker.kill('SIGKILL');
  await gone(worker);
  const RUNDLE_DEATHS = JSON.stringify([{ workerId, cause: 'other' }]);
  workerId = randomUUID();
  worker = await server.startWorker({ RUNDLE_WORKER_ID: workerId, RUNDLE_DEATHS });
}

const sha = (file: Buffer) => createHash('sha256').update(file).digest('hex');
const contentOf = async (id: string) => (await server.database.outputs.findByPk(id))!.content;
const gone = (program: ChildProcess): Promise<unknown> =>
  program.exitCode !== null || program.signalCode !== null ? Promise.resolve() : new Promise((resolve) => program.once('exit', resolve));
