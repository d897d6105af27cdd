import { type DecisionsFile, type MatchedDecisions, type PlanView, Preset, type RunDetail, type StoredPreset } from '@rundle/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { TestServer } from './server';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.start();
});
afterAll(() => server.stop());

const make = async (title: string, size: object) => {
  const body = Preset.parse({ kind: 'rundle.preset', version: 1, title, folder: title.toLowerCase(), size });
  return (await server.call<StoredPreset>('POST', '/api/presets', body)).json.id;
};
const plan = async (setId: string, presetIds: string[]) =>
  (await server.call<PlanView>('POST', `/api/sets/${setId}/plan`, { presetIds })).json;
async function run(setId: string, presetIds: string[]): Promise<RunDetail> {
  const { json } = await server.call<RunDetail>('POST', `/api/sets/${setId}/runs`, { presetIds });
  const now = async () => (await server.call<RunDetail>('GET', `/api/runs/${json.id}`)).json;
  await server.until(async () => (await now()).state === 'done');
  return now();
}
const decide = (setId: string, masterId: string, overrides: object) =>
  server.call('PUT', `/api/sets/${setId}/marks`, { marks: [{ masterId, overrides }] });
const proposed = ({ outputs }: PlanView) =>
  outputs.filter((output) => output.status === 'planned' && output.warnings.some(({ code }) => code === 'crop-proposed')).length;

describe('a ratio', () => {
  it('is cut where the picture was looked at, also when a run was begun before; then nothing is due, and a kept proposal changes nothing', async () => {
    const setId = await server.set('Feed', 2, 500);
    const feed = await make('Feed', { px: 200, ratio: { w: 4, h: 5, turn: false } });
    const web = await make('Web', { px: 150 });
    // Nobody has looked at these pictures, and no plan has asked for it.
    expect((await server.detail(setId)).masters.map((master) => master.state === 'ready' && master.facts.salience)).toEqual([null, null]);
    const { outputs } = await run(setId, [feed, web]);
    expect(outputs.map(({ state }) => state)).toEqual(Array(4).fill('done'));
    expect(
      outputs.filter(({ presetId }) => presetId === feed).map(({ width, height, warnings }) => [width, height, warnings[0]?.code]),
    ).toEqual([
      [160, 200, 'crop-proposed'],
      [160, 200, 'crop-proposed'],
    ]);
    const after = await plan(setId, [feed, web]);
    expect(after.outputs.map(({ status }) => status)).toEqual(Array(4).fill('skipped'));
    const { masters } = await server.detail(setId);
    expect(masters.every((master) => master.state === 'ready' && master.facts.salience !== null)).toBe(true);

    const [one, other] = masters;
    await decide(setId, one!.id, { ratios: { '4:5': { x: 0, y: 0, w: 0.5 } } });
    const moved = await plan(setId, [feed, web]);
    expect(moved.outputs.map(({ status }) => status)).toEqual(['planned', 'skipped', 'skipped', 'skipped']);
    expect(proposed(moved)).toBe(0);
    // A crop of its own is for every preset.
    await decide(setId, other!.id, { crop: { x: 0.1, y: 0.1, w: 0.5, h: 0.8, angle: 4 } });
    expect((await plan(setId, [feed, web])).outputs.map(({ status }) => status)).toEqual(['planned', 'skipped', 'planned', 'planned']);
    await decide(setId, other!.id, { crop: null });
    await decide(setId, one!.id, { ratios: { '4:5': null } });
    expect((await plan(setId, [feed, web])).outputs.map(({ status }) => status)).toEqual(Array(4).fill('skipped'));
  });

  it('is asked for by a plan, which says how many pictures are still being looked at', async () => {
    const setId = await server.set('Asked', 2, 400);
    const feed = await make('Upright', { px: 200, ratio: { w: 2, h: 3, turn: false } });
    const before = await plan(setId, [feed]);
    expect([proposed(before), before.unseen]).toEqual([2, 2]);
    await server.until(async () => (await plan(setId, [feed])).unseen === 0);
    expect(proposed(await plan(setId, [feed]))).toBe(2);
  });
});

describe('decisions as a file', () => {
  it('hold what was decided, by content, and say what they would change in another set', async () => {
    const setId = await server.set('Decided', 2, 420);
    const web = await make('Small', { px: 100 });
    const [one] = (await server.detail(setId)).masters;
    const crop = { x: 0.2, y: 0.1, w: 0.6, h: 0.5, angle: -3 };
    await decide(setId, one!.id, { crop, focus: { x: 0.5, y: 0.2 }, without: { [web]: true } });
    const { json: file } = await server.call<DecisionsFile>('GET', `/api/sets/${setId}/decisions`);
    expect(file.pictures).toEqual([
      {
        sha256: expect.stringMatching(/^[0-9a-f]{64}$/) as string,
        name: one!.fileName,
        crop,
        focus: { x: 0.5, y: 0.2 },
        without: ['Small'],
      },
    ]);
    const others = { ...file, pictures: [...file.pictures, { sha256: 'f'.repeat(64), name: 'not here' }] };
    const { json } = await server.call<MatchedDecisions>('POST', `/api/sets/${setId}/decisions`, others);
    expect(json).toEqual({
      marks: [{ masterId: one!.id, overrides: { crop, focus: { x: 0.5, y: 0.2 }, without: { [web]: true } } }],
      others: 1,
    });
    const wrong = await server.call('POST', `/api/sets/${setId}/decisions`, { ...file, pictures: [{ sha256: 'no' }] });
    expect(wrong.status).toBe(400);
  });
});
