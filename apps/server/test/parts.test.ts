import { existsSync } from 'node:fs';
import { join } from 'node:path';
import {
  type HandOverView,
  type PlanView,
  Preset,
  type PresetInput,
  type ProblemDetails,
  type RunDetail,
  type StoredPreset,
} from '@rundle/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { TestServer } from './server';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.start();
});
afterAll(() => server.stop());

type Sizes = NonNullable<PresetInput['size']>['sizes'];
const BY_SIZE = [{ part: 'original' as const }, { part: 'text' as const, text: '-' }, { part: 'size' as const }];
const family = (title: string, sizes: Sizes, parts: NonNullable<PresetInput['name']>['parts'] = BY_SIZE) =>
  Preset.parse({ kind: 'rundle.preset', version: 1, title, folder: title.toLowerCase(), size: { sizes }, name: { parts } });
const make = async (preset: Preset) => (await server.call<StoredPreset>('POST', '/api/presets', preset)).json;
const save = ({ id, version }: StoredPreset, preset: Preset) =>
  server.call<StoredPreset>('PUT', `/api/presets/${id}`, preset, { 'if-match': `"${version}"` }).then(({ json }) => json);
const plan = async (setId: string, id: string, more: object = {}) =>
  (await server.call<PlanView>('POST', `/api/sets/${setId}/plan`, { presetIds: [id], earlier: 'go', ...more })).json;
async function run(setId: string, id: string, more: object = {}): Promise<RunDetail> {
  const { status, json } = await server.call<RunDetail>('POST', `/api/sets/${setId}/runs`, { presetIds: [id], earlier: 'go', ...more });
  expect(status).toBe(201);
  const now = async () => (await server.call<RunDetail>('GET', `/api/runs/${json.id}`)).json;
  await server.until(async () => (await now()).state === 'done');
  return now();
}
/** What lies there, as it is told: names by their parts. */
async function out(setId: string, id: string): Promise<Record<string, string>> {
  const { outputs, path } = (await server.call<HandOverView>('GET', `/api/sets/${setId}/outputs`)).json;
  const own = outputs.filter(({ presetId }) => presetId === id);
  for (const { folder, fileName } of own) expect(existsSync(join(path!, folder, fileName))).toBe(true);
  return Object.fromEntries(own.map(({ part, fileName, width }) => [part, `${fileName} ${width}`]));
}
const states = ({ outputs }: Pick<PlanView, 'outputs'>): Record<string, string> =>
  Object.fromEntries(outputs.map(({ part, status }) => [part, status]));

describe('a family of sizes', () => {
  it('is made once; what is changed of it makes just those files due, and what it no longer makes goes', async () => {
    const setId = await server.set('Family', 1, 900);
    const first = await make(
      family('Sizes', [
        { label: 'small', px: 100 },
        { label: 'large', px: 300 },
      ]),
    );
    const { outputs } = await run(setId, first.id);
    expect(outputs.map(({ part, state, width }) => [part, state, width])).toEqual([
      ['small', 'done', 100],
      ['large', 'done', 300],
    ]);
    expect(await out(setId, first.id)).toEqual({ small: 'p-1-small.jpg 100', large: 'p-1-large.jpg 300' });
    const again = await plan(setId, first.id);
    expect(states(again)).toEqual({ small: 'skipped', large: 'skipped' });

    // One size is another, and is told as the only change.
    const second = await save(
      first,
      family('Sizes', [
        { label: 'small', px: 120 },
        { label: 'large', px: 300 },
      ]),
    );
    const changed = await plan(setId, first.id, { since: again.id });
    expect([changed.since, ...Object.entries(states(changed))]).toEqual([again.id, ['small', 'planned']]);
    await run(setId, first.id);
    expect(await out(setId, first.id)).toEqual({ small: 'p-1-small.jpg 120', large: 'p-1-large.jpg 300' });

    // A size gets another name: another file; the one before is none of it any more.
    const third = await save(
      second,
      family('Sizes', [
        { label: 'phone', px: 120 },
        { label: 'large', px: 300 },
      ]),
    );
    const renamed = await plan(setId, first.id, { since: changed.id });
    expect([states(renamed), renamed.gone, renamed.earlier.notWanted]).toMatchObject([{ phone: 'planned' }, [{ part: 'small' }], 1]);
    await run(setId, first.id);
    expect(await out(setId, first.id)).toEqual({ phone: 'p-1-phone.jpg 120', large: 'p-1-large.jpg 300' });

    // It becomes a preset of one size: all before go, and nothing else is touched.
    await save(third, Preset.parse({ ...third.preset, size: { px: 200 }, name: { parts: [{ part: 'original' }] } }));
    await run(setId, first.id);
    expect(await out(setId, first.id)).toEqual({ '': 'p-1.jpg 200' });
  });

  it('can be run for one of its sizes, and is refused under names that do not tell them apart, until one change mends that', async () => {
    const setId = await server.set('Named', 2, 600);
    const sizes = [
      { label: 's', px: 100 },
      { label: 'l', px: 200 },
    ];
    const unnamed = await make(family('Unnamed', sizes, [{ part: 'original' }]));
    expect(new Set((await plan(setId, unnamed.id)).outputs.map((output) => output.status === 'failed' && output.error.code))).toEqual(
      new Set(['names-alike']),
    );
    const refused = await server.call<ProblemDetails>('POST', `/api/sets/${setId}/runs`, { presetIds: [unnamed.id] });
    expect([refused.status, refused.json.code, refused.json.detail]).toEqual([
      409,
      'files-alike',
      expect.stringContaining('Add the size to the name') as string,
    ]);
    await save(unnamed, family('Unnamed', sizes));
    const [one] = (await server.detail(setId)).masters;
    const only = await run(setId, unnamed.id, { pairs: [{ masterId: one!.id, presetId: unnamed.id, part: 'l' }] });
    expect(only.outputs.map(({ part, state }) => [part, state])).toEqual([['l', 'done']]);
    const rest = await run(setId, unnamed.id);
    expect(rest.outputs.map(({ part, state }) => `${part} ${state}`).sort()).toEqual(['l done', 'l skipped', 's done', 's done']);
  });
});

describe('a sheet of prints', () => {
  const sheet = async (setId: string, body: object) => {
    const answer = await fetch(`${server.url}/api/sets/${setId}/sheet`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', 'sec-fetch-site': 'same-origin' },
      body: JSON.stringify(body),
    });
    return { status: answer.status, type: answer.headers.get('content-type'), bytes: Buffer.from(await answer.arrayBuffer()) };
  };
  /** Pictures in a document, by their own sizes. */
  const picturesIn = (pdf: Buffer) =>
    [...pdf.toString('latin1').matchAll(/\/Subtype \/Image[\s\S]*?\/Width (\d+)/g)].map(([, width]) => Number(width));

  it('comes as a PDF of the pictures, or of what a preset has made of them', async () => {
    const setId = await server.set('Prints', 3, 700);
    const pdf = await sheet(setId, { of: { kind: 'masters' }, look: { columns: 2, rows: 2 } });
    expect([pdf.status, pdf.type]).toEqual([200, 'application/pdf']);
    expect(pdf.bytes.subarray(0, 5).toString()).toBe('%PDF-');
    expect(pdf.bytes.toString('latin1').trimEnd().endsWith('%%EOF')).toBe(true);
    expect(picturesIn(pdf.bytes)).toHaveLength(3);
    const [one] = (await server.detail(setId)).masters;
    const preset = await make(
      family('Printed', [
        { label: 's', px: 90 },
        { label: 'l', px: 260 },
      ]),
    );
    await run(setId, preset.id);
    const of = { kind: 'outputs', presetId: preset.id, part: 'l' };
    // Small enough to be taken as they are, byte for byte.
    expect(picturesIn((await sheet(setId, { of })).bytes)).toEqual([260, 260, 260]);
    expect(picturesIn((await sheet(setId, { of, masterIds: [one!.id] })).bytes)).toEqual([260]);
    expect((await sheet(setId, { of: { ...of, part: 'none' } })).status).toBe(409);
    const narrow = await sheet(setId, { of: { kind: 'masters' }, look: { rows: 12, margin: 60, paper: 'a5' } });
    expect([narrow.status, narrow.bytes.toString()]).toEqual([400, expect.stringContaining('no room for pictures') as string]);
  });
});
