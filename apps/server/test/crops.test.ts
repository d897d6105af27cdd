import {
  type DecisionsFile,
  type MasterDetail,
  type MatchedDecisions,
  type PlanView,
  Preset,
  type RunDetail,
  type StoredPreset,
} from '@rundle/core';
import sharp from 'sharp';
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

describe('a file with several pages', () => {
  it('is the page that was chosen, read anew, in what is made of it; back on the first it is as before', async () => {
    const pages = await Promise.all(
      [40, 180].map((grey) =>
        sharp({ create: { width: 900, height: 600, channels: 3, background: { r: grey, g: grey, b: grey } } })
          .png()
          .toBuffer(),
      ),
    );
    const both = await sharp(pages, { join: { animated: true } })
      .tiff()
      .toBuffer();
    const setId = (await server.call<{ id: string }>('POST', '/api/sets', { title: 'Pages' })).json.id;
    await server.upload(setId, [new File([new Uint8Array(both)], 'two.tif')]);
    const master = async () => (await server.detail(setId)).masters[0]!;
    const read = () => server.until(async () => (await master()).state === 'ready');
    await read();
    const { id, content } = await master();
    const web = await make('Page web', { px: 150 });
    const first = (await run(setId, [web])).outputs[0]!;
    const thumbnail = async () => Buffer.from(await (await fetch(`${server.url}/api/masters/${id}/thumbnail`)).arrayBuffer());
    const shadeOf = async (file: Buffer) => (await sharp(file).raw().toBuffer())[0]!;
    expect(Math.abs((await shadeOf(await thumbnail())) - 40)).toBeLessThan(3);

    await decide(setId, id, { page: 2 });
    await read();
    const turned = await master();
    const known = (await server.call<MasterDetail>('GET', `/api/masters/${id}`)).json;
    expect([known.facts?.page, turned.overrides.page, turned.content === content]).toEqual([1, 2, false]);
    expect(Math.abs((await shadeOf(await thumbnail())) - 180)).toBeLessThan(3);
    expect((await plan(setId, [web])).outputs.map(({ status }) => status)).toEqual(['planned']);
    const second = (await run(setId, [web])).outputs[0]!;
    expect([second.state, second.id === first.id]).toEqual(['done', false]);
    const made = Buffer.from(await (await fetch(`${server.url}/api/outputs/${second.id}/file`)).arrayBuffer());
    expect(Math.abs((await shadeOf(made)) - 180)).toBeLessThan(3);

    await decide(setId, id, { page: null });
    await read();
    expect([(await master()).content, (await plan(setId, [web])).outputs[0]!.status]).toEqual([content, 'planned']);
  });
});

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
