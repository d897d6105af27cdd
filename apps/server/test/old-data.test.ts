import { execFileSync } from 'node:child_process';
import { readdirSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { gunzipSync } from 'node:zlib';
import type {
  HandOverView,
  Master,
  PlanView,
  PresetVersion,
  Run,
  RunDetail,
  SetDetail,
  SetSummary,
  StoredHouseRules,
  StoredPreset,
  StoredWatermark,
  StudioDetails,
} from '@rundle/core';
import { Overrides, StudioDetails as StudioDetailsSchema } from '@rundle/core';
import { STUDIO } from '@rundle/demo';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { seed } from '../src/seed';
import { TestServer } from './server';

/*
 * A data folder as the release before migration 0006 left it: sets, one of them renamed after its run, marks, a preset of two versions, a
 * watermark, house rules, a studio, outputs and history. What that release's interface said of it stands beside it.
 */
const folder = fileURLToPath(new URL('./data-of-migration-5/', import.meta.url));
const unpacked = (name: string) => gunzipSync(readFileSync(`${folder}${name}`)).toString('utf8');

interface OldSet {
  set: SetDetail;
  masters: Master[];
  handOver: HandOverView;
  runs: Run[];
}
interface OldState {
  sets: SetSummary[];
  presets: StoredPreset[];
  watermarks: StoredWatermark[];
  rules: StoredHouseRules[];
  studio: StudioDetails;
  demo: OldSet;
  own: OldSet;
}
const old = JSON.parse(unpacked('state.json.gz')) as OldState;

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.start(true, async (database, data) => {
    await database.query(unpacked('dump.sql.gz'));
    await database.query('RESET ALL');
    // Where decisions were taken back, everything was said to be undecided.
    await database.query(
      `UPDATE masters SET treatment = '{"assumeSrgb": false, "fillRights": false, "dropPlace": false, "focus": null, "without": []}' WHERE treatment = '{}'`,
    );
    // One run was cut off by the end of that release, between its first and its other outputs.
    const [last] = (await database.query<{ id: string }>(`SELECT id FROM runs ORDER BY started_at DESC LIMIT 1`)).rows;
    await database.query(`UPDATE runs SET state = 'running', finished_at = NULL WHERE id = $1`, [last!.id]);
    const open = await database.query<{ folder: string; file_name: string }>(
      `UPDATE outputs SET state = 'planned', bytes = NULL WHERE run_id = $1 AND position > 0 RETURNING folder, file_name`,
      [last!.id],
    );
    execFileSync('tar', ['-xzf', `${folder}files.tgz`, '-C', data]);
    for (const target of readdirSync(join(data, 'outputs')).filter((name) => name.startsWith('Before the rename')))
      for (const row of open.rows) rmSync(join(data, 'outputs', target, row.folder, row.file_name), { force: true });
  });
});
afterAll(() => server?.stop());

const get = async <T>(path: string): Promise<T> => {
  const { status, json } = await server.call<T>('GET', path);
  expect(status).toBe(200);
  return json;
};
/** What was known of a master; releases up to migration 6 called its overrides its treatment. */
const known = ({ id, fileName, position, bytes, stars, choice, tags, content, ...more }: Master & { treatment?: Master['overrides'] }) => ({
  id,
  fileName,
  position,
  bytes,
  stars,
  choice,
  tags,
  overrides: Overrides.parse(more.treatment ?? more.overrides),
  content,
});

describe('a data folder of an earlier release', () => {
  it('loses the invented photographer that it signed with, where nobody has chosen that', async () => {
    const { sequelize, studio, sets } = server.database;
    const mine = (await studio.findByPk(1))!.details;
    await studio.update({ details: StudioDetailsSchema.parse(STUDIO) }, { where: { id: 1 } });
    await seed({ database: server.database } as Parameters<typeof seed>[0]);
    expect((await studio.findByPk(1))!.details).toEqual(StudioDetailsSchema.parse({}));
    expect((await sets.findByPk(old.demo.set.id))!.rights).toEqual(STUDIO);
    await studio.update({ details: mine }, { where: { id: 1 } });
    await seed({ database: server.database } as Parameters<typeof seed>[0]);
    expect((await studio.findByPk(1))!.details).toEqual(mine);
    await sequelize.query(`UPDATE sets SET rights = '{}'`);
  });

  it('opens with its sets, marks, presets, watermarks, house rules and studio', async () => {
    expect((await get<SetSummary[]>('/api/sets')).map(({ id, title, shelf, pictures }) => ({ id, title, shelf, pictures }))).toEqual(
      old.sets.map(({ id, title, shelf, pictures }) => ({ id, title, shelf, pictures })),
    );
    // What came later is neutral: no group, no favourite, no ratio, one file of each picture, no tone, no place of its own, plain letters, no focus, no more contact.
    expect(await get('/api/presets')).toEqual(
      old.presets.map((stored) => {
        const preset = {
          ...stored.preset,
          size: { ...stored.preset.size, ratio: null, sizes: [] },
          panels: null,
          canvas: null,
          tone: null,
          place: null,
        };
        return { ...stored, preset, group: '', favourite: false };
      }),
    );
    expect(await get('/api/watermarks')).toEqual(old.watermarks.map((mark) => ({ ...mark, typeface: 'sans', edge: 'none', adapt: false })));
    expect(await get('/api/bundles')).toEqual([]);
    const changed = old.presets.find(({ version }) => version > 1)!;
    const versions = await get<PresetVersion[]>(`/api/presets/${changed.id}/versions`);
    // Only of the newest it is known when it was saved.
    expect(versions).toHaveLength(changed.version);
    expect(versions[0]).toMatchObject({ version: changed.version, madeAt: changed.updatedAt });
    expect(versions.slice(1).every(({ madeAt }) => madeAt === null)).toBe(true);
    expect(await get('/api/house-rules')).toEqual(old.rules);
    expect(await get('/api/studio')).toEqual(StudioDetailsSchema.parse(old.studio));
    const { masters: rows, outputs } = server.database;
    const said = (await rows.findAll()).map(({ overrides }) => JSON.stringify(overrides));
    expect(said.filter((text) => /false|null|\[\]/.test(text))).toEqual([]);
    // Of each picture and preset one output is current: the last that stands.
    const standing = await outputs.findAll({ where: { isNewest: true } });
    const parts = new Set(standing.map(({ masterId, presetId }) => `${masterId} ${presetId}`));
    expect(standing.filter(({ isCurrent }) => isCurrent)).toHaveLength(parts.size);
    for (const { set, masters } of [old.demo, old.own]) {
      const now = await server.detail(set.id);
      expect(now.masters.map(known)).toEqual(masters.map(known));
      expect([now.filter, now.presetIds, now.houseRulesId]).toEqual([set.filter, set.presetIds, set.houseRulesId]);
      const [ready] = now.masters.filter((master) => master.state === 'ready');
      expect((await fetch(`${server.url}/api/masters/${ready!.id}/thumbnail`)).status).toBe(200);
    }
  });

  it('finds every output again, also those of a set that was renamed after its run, and goes on with the run that was cut off', async () => {
    const { set, handOver, runs } = old.demo;
    const view = await get<HandOverView>(`/api/sets/${set.id}/outputs`);
    expect(view.outputs.map(({ id, bytes }) => [id, bytes])).toEqual(handOver.outputs.map(({ id, bytes }) => [id, bytes]));
    for (const { id, bytes } of view.outputs)
      expect((await (await fetch(`${server.url}/api/outputs/${id}/file`)).arrayBuffer()).byteLength).toBe(bytes);
    expect((await get<Run[]>(`/api/sets/${set.id}/runs`)).map(({ id, state }) => [id, state])).toEqual(
      runs.map(({ id, state }) => [id, state]),
    );

    const renamed = old.own;
    expect(renamed.set.title).toBe('After the rename');
    const [run] = await get<Run[]>(`/api/sets/${renamed.set.id}/runs`);
    await server.until(async () => (await get<RunDetail>(`/api/runs/${run!.id}`)).state === 'done');
    const { outputs } = await get<RunDetail>(`/api/runs/${run!.id}`);
    // The fourth picture lay on the machine that this folder comes from.
    expect(outputs.map(({ state, error }) => error?.code ?? state)).toEqual(['done', 'done', 'done', 'missing']);
    const after = await get<HandOverView>(`/api/sets/${renamed.set.id}/outputs`);
    expect(after.path).toContain('Before the rename');
    expect(after.outputs).toHaveLength(3);
    expect((await fetch(`${server.url}/api/sets/${renamed.set.id}/outputs.zip`)).status).toBe(200);
  });

  it('says once that this release makes files differently, and replaces what it made', async () => {
    const { set, handOver } = old.demo;
    const presetIds = [...new Set(handOver.outputs.map(({ presetId }) => presetId))];
    const { json } = await server.call<PlanView>('POST', `/api/sets/${set.id}/plan`, { presetIds });
    expect(json.notices).toMatchObject([
      { code: 'earlier-engine', message: expect.stringContaining(`${handOver.outputs.length} files`) as string },
      // One of its presets has been saved again since.
      { code: 'earlier-version', message: expect.stringContaining('the preset is at version') as string },
    ]);
    const planned = json.outputs.filter(({ status }) => status === 'planned');
    expect(planned.every((output) => output.status === 'planned' && output.replaces)).toBe(true);
  });
});
