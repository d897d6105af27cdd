import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, readFileSync, renameSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import type { HandOverView, Health, ProblemDetails, RunDetail } from '@rundle/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Application } from '../src/application';
import { becomesSo } from '../src/patience';
import { makePictures, Studio } from '../src/storm/studio';

/** How long the database is away, in ms; longer ones are tried by RUNDLE_OUTAGE_SECONDS. */
const AWAY = Number(process.env['RUNDLE_OUTAGE_SECONDS'] ?? 20) * 1000;
const PICTURES = 60;

let application: Application;
let studio: Studio;
let setId: string;
let number = 0;

beforeAll(async () => {
  const machine = mkdtempSync(join(tmpdir(), 'rundle-outage-'));
  await makePictures(machine, PICTURES);
  application = await Application.start('', undefined, { RUNDLE_ROOTS: machine, RUNDLE_DURABLE: 'yes' });
  studio = new Studio(application);
  setId = await studio.setOf('Outage', machine, PICTURES);
});
afterAll(() => application?.stop());

async function begin(): Promise<{ runId: string; presetIds: string[] }> {
  const presetIds = await studio.presets(++number);
  const runId = await studio.run(setId, presetIds);
  while (!(await studio.detail(runId)).outputs.some(({ state }) => state === 'done')) await wait(50);
  return { runId, presetIds };
}

async function end(runId: string, within = 120_000): Promise<RunDetail> {
  const isOver = async () => (await studio.detail(runId)).state !== 'running';
  if (!(await becomesSo(isOver, within))) throw new Error('The run did not end in time.');
  return studio.detail(runId);
}

/** Only root may mount a small disk of its own: for others these tests are skipped, and counted so. */
const asRoot = it.skipIf(process.getuid?.() !== 0);

/** The system refuses it in a moment in which a file of it is open for writing: there is another. */
async function readOnly(folder: string): Promise<void> {
  const remount = () => spawnSync('mount', ['-o', 'remount,ro', folder]).status === 0;
  for (let left = 200; !remount(); await wait(20)) if (left-- === 0) throw new Error('The disk was never free of writing.');
}

const states = ({ outputs }: RunDetail) => [...new Set(outputs.map(({ state }) => state))].sort();
const outputsFolder = () => join(application.data, 'outputs');
const unfinished = () => (existsSync(join(outputsFolder(), '.unfinished')) ? readdirSync(join(outputsFolder(), '.unfinished')) : []);

describe('in the middle of a run', () => {
  it(`a database that is away for ${AWAY / 1000} s is told, waited for, and costs nothing`, async () => {
    const { runId } = await begin();
    const note = join(application.data, 'where-the-database-is.txt');
    const cluster = existsSync(note) ? readFileSync(note, 'utf8').trim() : join(application.data, 'postgres');
    const workers = application.children('dist/worker.js');
    const [postmaster] = application.children('bin/postgres');
    renameSync(cluster, `${cluster}-away`);
    process.kill(postmaster!, 'SIGKILL');
    const begun = Date.now();
    await wait(3000);
    const answer = await fetch(`${application.url}/api/sets`);
    expect([answer.status, ((await answer.json()) as ProblemDetails).code]).toEqual([503, 'database-away']);
    const health = (await (await fetch(`${application.url}/api/health`)).json()) as Health;
    expect(health).toMatchObject({ well: false, database: { well: false }, workers: null });
    await wait(AWAY - (Date.now() - begun));
    renameSync(`${cluster}-away`, cluster);
    expect(states(await end(runId, 60_000))).toEqual(['done']);
    // Nobody had to be started again for it.
    expect(application.children('dist/worker.js')).toEqual(workers);
  });

  asRoot('a disk that becomes full, or read-only, fails the rest with that reason, and one press makes it', async () => {
    const folder = outputsFolder();
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=2m', 'tmpfs', folder]);
    try {
      // What is full beforehand is told before anything is written.
      await expect(begin()).rejects.toThrow(/507|the disk has/);
      execFileSync('mount', ['-o', 'remount,size=400m', folder]);
      const full = await begin();
      execFileSync('mount', ['-o', 'remount,size=2m', folder]);
      const first = await end(full.runId);
      expect(states(first)).toEqual(['done', 'failed']);
      for (const { error } of first.outputs.filter(({ state }) => state === 'failed')) expect(error?.message).toContain('the disk is full');
      expect(unfinished()).toEqual([]);
      execFileSync('mount', ['-o', 'remount,size=400m', folder]);
      expect(states(await end(await studio.run(setId, full.presetIds)))).toEqual(['done', 'skipped']);

      const barred = await begin();
      await readOnly(folder);
      const second = await end(barred.runId);
      const reasons = second.outputs.flatMap(({ error }) => error?.message ?? []);
      expect(reasons.length).toBeGreaterThan(0);
      for (const reason of reasons) expect(reason).toContain('read-only');
      execFileSync('mount', ['-o', 'remount,rw', folder]);
      expect(states(await end(await studio.run(setId, barred.presetIds)))).toEqual(['done', 'skipped']);
    } finally {
      // At once for whoever opens it next, whoever has it open still; a test that failed in the middle says why, not that it is busy.
      execFileSync('umount', ['--lazy', folder]);
    }
  });

  it('a folder that vanishes is made again; what was in it comes with the next run', async () => {
    const { runId, presetIds } = await begin();
    renameSync(outputsFolder(), `${outputsFolder()}-gone`);
    const first = await end(runId);
    // What was just being written when its folder went is told; all after it goes into a new one.
    const others = first.outputs.flatMap(({ state, error }) => (state === 'done' ? [] : (error?.message ?? state)));
    expect(others.filter((said) => !said.includes('vanished'))).toEqual([]);
    expect(states(await end(await studio.run(setId, presetIds)))).toEqual(['done', 'skipped']);
    const { outputs, path } = await studio.call<HandOverView>('GET', `/api/sets/${setId}/outputs`);
    const ours = outputs.filter(({ presetId }) => presetIds.includes(presetId));
    expect(ours).toHaveLength(2 * PICTURES);
    for (const { folder, fileName } of ours) expect(existsSync(join(path!, folder, fileName))).toBe(true);
  });
});
