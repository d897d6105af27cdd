import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type MasterFacts, Preset, type Problem } from '@rundle/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { type Database, migrate, openDatabase, type OutputRow } from '../src/index';
import { newDatabase } from './database';

let database: Database;
let about: Pick<OutputRow, 'runId' | 'masterId' | 'presetId' | 'presetVersion'>;
const SHA = 'a'.repeat(64);
const problem: Problem = { code: 'damaged', message: 'Cut off.' };

beforeAll(async () => {
  const url = await newDatabase();
  database = openDatabase(url);
  await migrate(database, url, mkdtempSync(join(tmpdir(), 'rundle-outputs-')));
  const { sets, presets, presetVersions, runs } = database;
  const set = await sets.create({ title: 'Set' });
  const preset = await presets.create({ version: 1, position: 0, deletedAt: null, updatedAt: new Date() });
  const body = Preset.parse({ kind: 'rundle.preset', version: 1, title: 'P' });
  await presetVersions.create({ presetId: preset.id, version: 1, body });
  const run = await runs.create({ setId: set.id, state: 'done', presetIds: [preset.id], finishedAt: new Date() });
  const row = await master({ setId: set.id, state: 'ready', facts: {} as MasterFacts });
  about = { runId: run.id, masterId: row.id, presetId: preset.id, presetVersion: 1 };
});
afterAll(() => database?.close());

const master = (more: object) =>
  database.masters.create({
    setId: '',
    position: 0,
    fileName: 'a.jpg',
    sha256: SHA,
    bytes: 1,
    state: 'arriving',
    facts: null,
    problem: null,
    ...more,
  });
const output = (more: object) =>
  database.outputs.create({
    ...about,
    position: 0,
    state: 'planned',
    target: 'set',
    folder: 'web',
    fileName: 'a.jpg',
    width: 1,
    height: 1,
    expectedBytes: 1,
    replaces: false,
    bytes: null,
    quality: null,
    warnings: [],
    error: null,
    finishedAt: null,
    recipe: null,
    measures: null,
    ...more,
  });
const done = { state: 'done', bytes: 1, finishedAt: new Date() };

describe('the tables', () => {
  it('refuse what a state does not allow', async () => {
    const { setId } = (await database.masters.findByPk(about.masterId))!;
    for (const wrong of [
      () => master({ setId, state: 'ready' }),
      () => master({ setId, state: 'ready', facts: {}, sha256: null }),
      () => master({ setId, state: 'failed' }),
      () => output({ state: 'done', finishedAt: new Date() }),
      () => output({ state: 'failed' }),
      () => output({ ...done, error: problem }),
      () => output({ state: 'running', isNewest: true }),
    ])
      await expect(wrong()).rejects.toThrow(/check constraint/);
    await master({ setId, state: 'failed', problem, facts: {} });
    await output({ state: 'failed', error: problem });
  });

  it('know one newest output at a place', async () => {
    await output({ ...done, isNewest: true });
    await expect(output({ ...done, isNewest: true })).rejects.toMatchObject({ name: 'SequelizeUniqueConstraintError' });
    await output({ ...done, fileName: 'b.jpg', isNewest: true });
    await output(done);
  });
});
