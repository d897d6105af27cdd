import { createHash } from 'node:crypto';
import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { ENGINE, type PlanView, Preset, recipeText, type RunDetail, StudioDetails, type StoredPreset } from '@rundle/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { TestServer } from './server';

/*
 * What is made again after something has changed, and what is not: a new engine, decisions about pictures that come from two pages at once.
 */

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.start();
});
afterAll(() => server.stop());

const make = async (title: string, more: object = {}) => {
  const body = Preset.parse({ kind: 'rundle.preset', version: 1, title, existing: 'replace', folder: title.toLowerCase(), ...more });
  return (await server.call<StoredPreset>('POST', '/api/presets', body)).json;
};
const plan = async (setId: string, presetIds: string[]) =>
  (await server.call<PlanView>('POST', `/api/sets/${setId}/plan`, { presetIds })).json;
async function run(setId: string, presetIds: string[]): Promise<RunDetail> {
  const { json } = await server.call<RunDetail>('POST', `/api/sets/${setId}/runs`, { presetIds });
  const now = async () => (await server.call<RunDetail>('GET', `/api/runs/${json.id}`)).json;
  await server.until(async () => (await now()).state === 'done');
  return now();
}

describe('what an earlier engine made', () => {
  it('stays, is offered once, and is made again when that is asked for; what has changed as well is due as ever', async () => {
    const setId = await server.set('Engines', 3, 500);
    const [web, copy] = [await make('Web', { size: { px: 200 } }), await make('Copy', { file: { type: 'original' } })];
    const ids = [web.id, copy.id];
    await run(setId, ids);
    await ofEngine(6, setId, web.preset);

    const kept = await plan(setId, ids);
    expect(kept.outputs.map(({ status }) => status)).toEqual(Array(6).fill('skipped'));
    // Untouched copies are the same by every engine.
    expect(kept.notices).toMatchObject([
      { code: 'engine-offer', message: expect.stringContaining('3 files were made by an earlier') as string },
    ]);
    expect(kept.notices[0]!.message).toContain('A creator’s own contact details');

    // One picture is decided otherwise: that one is due, and says so.
    const [first] = (await server.detail(setId)).masters;
    await server.call('PUT', `/api/sets/${setId}/marks`, {
      marks: [{ masterId: first!.id, overrides: { fillRights: true, dropPlace: true } }],
    });
    await server.call('PUT', '/api/studio', StudioDetails.parse({ creator: 'Orla Vessby' }));
    const changed = await plan(setId, [web.id]);
    expect(changed.outputs.map((output) => output.status === 'planned' && output.stale)).toEqual(['credit', 'credit', 'credit']);
    // That is why they are due, and not the engine.
    expect(changed.notices).toEqual([]);
    await server.call('PUT', '/api/studio', StudioDetails.parse({}));

    await server.call('PATCH', `/api/sets/${setId}`, { remake: true });
    const again = await plan(setId, [web.id]);
    expect(again.outputs.map((output) => output.status === 'planned' && output.stale)).toEqual(['engine', 'engine', 'engine']);
    expect(again.notices).toMatchObject([{ code: 'earlier-engine' }]);
    const names = (await run(setId, [web.id])).outputs.map(({ fileName }) => fileName);
    expect(names.every((name) => !/-2\.\w+$/.test(name))).toBe(true);
    expect((await plan(setId, ids)).outputs.every(({ status }) => status === 'skipped')).toBe(true);
    expect((await plan(setId, ids)).notices).toEqual([]);
  });

  /** As if an engine before this one had made what a preset made of a set. */
  async function ofEngine(engine: number, setId: string, preset: Preset): Promise<void> {
    const { masters, outputs, studio } = server.database;
    const details = StudioDetails.parse((await studio.findByPk(1))?.details ?? {});
    for (const { id, sha256 } of await masters.findAll({ where: { setId } })) {
      const text = recipeText({ engine, master: sha256!, preset, studio: details, watermark: null });
      const rows = await outputs.findAll({ where: { masterId: id, state: 'done' } });
      for (const row of rows) {
        const now = recipeText({ master: sha256!, preset, studio: details, watermark: null });
        const isOf = row.recipe === createHash('sha256').update(now).digest('hex');
        await row.update({ engine, ...(isOf ? { recipe: createHash('sha256').update(text).digest('hex') } : {}) });
      }
    }
    expect(engine).toBeLessThan(ENGINE);
  }
});

describe('the weight of a picture that was made before', () => {
  it('is told as it was where its file has gone; after changes each guess is put right by the last, not by what was put right itself', async () => {
    const setId = await server.set('Weights', 1, 900);
    const web = await make('Weights', { size: { px: 600 } });
    const told = async () => {
      const [output] = (await plan(setId, [web.id])).outputs;
      return output?.status === 'planned' ? output : null;
    };
    const change = async (file: object) => {
      const { json } = await server.call<StoredPreset>('GET', `/api/presets/${web.id}`);
      await server.call('PUT', `/api/presets/${web.id}`, { ...json.preset, file: { ...json.preset.file, ...file } });
    };
    const { outputs, path } = { ...(await run(setId, [web.id])), path: (await plan(setId, [web.id])).path! };
    const [made] = outputs;
    rmSync(join(path, made!.folder, made!.fileName));
    expect((await told())!.expectedBytes).toBe(made!.bytes);
    for (const quality of [60, 50]) {
      await change({ quality });
      const before = await server.database.outputs.findOne({ where: { presetId: web.id, state: 'done' }, order: [['finishedAt', 'DESC']] });
      const planned = (await told())!;
      const off = Math.min(2, Math.max(0.5, before!.bytes! / before!.guessedBytes!));
      expect(planned.expectedBytes).toBe(Math.round(planned.guessedBytes * off));
      expect(planned.expectedBytes).not.toBe(planned.guessedBytes);
      await run(setId, [web.id]);
    }
    await change({ ceiling: { bytes: 3000, then: 'exceed' } });
    expect((await told())!.expectedBytes).toBe(3000);
  });
});

describe('decisions about a picture', () => {
  it('that come at the same time from several pages are all kept, each for itself', async () => {
    const setId = await server.set('Pages', 2, 300);
    const [one] = (await server.detail(setId)).masters;
    const presets = await Promise.all(['A', 'B', 'C', 'D'].map((title) => make(title)));
    const focus = { x: 0.25, y: 0.75 };
    const crop = { x: 0.1, y: 0, w: 0.5, h: 1, angle: 2 };
    const placed = { x: 0, y: 0.1, w: 0.4 };
    const tone = { exposure: 0.5, shadows: 0, highlights: 0, contrast: 0, saturation: 0, warmth: -10 };
    const ratios = [{ ratios: { '4:5': placed } }, { ratios: { '1:1': placed } }];
    const changes = [
      { assumeSrgb: true },
      { dropPlace: true },
      { focus },
      { crop },
      { tone },
      ...ratios,
      ...presets.map(({ id }) => ({ without: { [id]: true } })),
    ];
    await Promise.all(
      changes.map((overrides) => server.call('PUT', `/api/sets/${setId}/marks`, { marks: [{ masterId: one!.id, stars: 3, overrides }] })),
    );
    const overrides = async () => (await server.detail(setId)).masters[0]!.overrides;
    const { without, ...others } = await overrides();
    expect(others).toEqual({
      assumeSrgb: true,
      fillRights: false,
      dropPlace: true,
      focus,
      crop,
      tone,
      ratios: { '1:1': placed, '4:5': placed },
      page: null,
    });
    expect(without.toSorted()).toEqual(presets.map(({ id }) => id).toSorted());
    await server.call('PUT', `/api/sets/${setId}/marks`, {
      marks: [{ masterId: one!.id, overrides: { focus: null, without: { [presets[0]!.id]: false } } }],
    });
    expect(await overrides()).toMatchObject({ dropPlace: true, focus: null });
    expect((await overrides()).without).toHaveLength(3);
    // What was not decided is not kept.
    const [row] = await server.database.masters.findAll({ where: { id: one!.id } });
    expect(Object.keys(row!.overrides).toSorted()).toEqual(['assumeSrgb', 'crop', 'dropPlace', 'ratios', 'tone', 'without']);
  });
});

describe('of all files that were made of one picture by one preset', () => {
  it('the last is current, and the numbered copies before it stay as older ones', async () => {
    const setId = await server.set('Copies', 1, 300);
    const both = await make('Both', { size: { px: 120 }, existing: 'keep-both' });
    for (const px of [120, 130, 140]) {
      const { json } = await server.call<StoredPreset>('GET', `/api/presets/${both.id}`);
      await server.call('PUT', `/api/presets/${both.id}`, { ...json.preset, size: { ...json.preset.size, px }, name: both.preset.name });
      await run(setId, [both.id]);
    }
    const rows = await server.database.outputs.findAll({ where: { presetId: both.id, state: 'done' }, order: [['finishedAt', 'ASC']] });
    expect(rows.map(({ isNewest, isCurrent, part }) => [isNewest, isCurrent, part])).toEqual([
      [true, false, ''],
      [true, false, ''],
      [true, true, ''],
    ]);
    const view = await server.call<{ outputs: { id: string }[] }>('GET', `/api/sets/${setId}/outputs`);
    expect(view.json.outputs.map(({ id }) => id)).toEqual([rows[2]!.id]);
  });
});
