import { createHash } from 'node:crypto';
import { readdirSync } from 'node:fs';
import { tmpdir } from 'node:os';
import {
  type Bundle,
  type FileFields,
  type Forecast,
  type PlanView,
  Preset,
  type PresetGuess,
  type PresetVersion,
  type ProblemDetails,
  type StoredBundle,
  type StoredPreset,
  type StoredWatermark,
} from '@rundle/core';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { TestServer } from './server';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.start();
});
afterAll(() => server.stop());

const call = async <T>(method: string, path: string, body?: object) => (await server.call<T>(method, path, body)).json;
const list = () => call<StoredPreset[]>('GET', '/api/presets');
const titles = async () => (await list()).map(({ preset }) => preset.title);
const preset = (title: string, more: object = {}) =>
  Preset.parse({ kind: 'rundle.preset', version: 1, title, existing: 'replace', ...more });
const make = (title: string, more: object = {}) => call<StoredPreset>('POST', '/api/presets', preset(title, more));

describe('the library', () => {
  it('starts with the starter set in its groups, and adds what is missing of it once', async () => {
    const before = await list();
    expect(before.length).toBeGreaterThanOrEqual(15);
    expect(before.every(({ group }) => group !== '')).toBe(true);
    await server.call('DELETE', `/api/presets/${before[3]!.id}`);
    const added = await call<StoredPreset[]>('POST', '/api/presets/starters');
    expect(added.map(({ preset: { title } }) => title)).toEqual([before[3]!.preset.title]);
    expect(await call<StoredPreset[]>('POST', '/api/presets/starters')).toEqual([]);
  });

  it('keeps order, groups and favourites, which make no version', async () => {
    const [a, b, c] = [await make('A'), await make('B'), await make('C')];
    const put = (id: string, body: object) => call<StoredPreset>('PATCH', `/api/presets/${id}`, body);
    expect(await put(c.id, { before: a.id, group: 'Mine', favourite: true })).toMatchObject({ group: 'Mine', favourite: true, version: 1 });
    expect((await titles()).slice(-3)).toEqual(['C', 'A', 'B']);
    await put(a.id, { before: null });
    expect((await titles()).slice(-3)).toEqual(['C', 'B', 'A']);
    expect((await server.call('PATCH', `/api/presets/${a.id}`, { before: crypto.randomUUID() })).status).toBe(404);
    expect(new Set((await list()).map(({ id }) => id)).size).toBe((await list()).length);
    await server.call('DELETE', `/api/presets/${b.id}`);
    expect(await titles()).not.toContain('B');
    expect((await call<StoredPreset[]>('GET', '/api/presets/bin'))[0]).toMatchObject({ id: b.id, preset: { title: 'B' } });
    await call('POST', `/api/presets/${b.id}/restore`);
    expect((await titles()).slice(-2)).toEqual(['B', 'A']);
  });

  it('keeps every version with its date, and any of them can be the next', async () => {
    const first = await make('Versions', { file: { quality: 70 } });
    const save = (body: Preset) => call<StoredPreset>('PUT', `/api/presets/${first.id}`, body);
    await save(preset('Versions', { file: { quality: 80 } }));
    const versions = await call<PresetVersion[]>('GET', `/api/presets/${first.id}/versions`);
    expect(versions.map(({ version, preset: { file } }) => [version, file.quality])).toEqual([
      [2, 80],
      [1, 70],
    ]);
    expect(versions.every(({ madeAt }) => Math.abs(Date.parse(madeAt!) - Date.now()) < 600_000)).toBe(true);
    expect(await save(versions[1]!.preset)).toMatchObject({ version: 3, preset: { file: { quality: 70 } } });
  });

  it('puts presets together under a name, and takes them apart', async () => {
    const [a, b] = [await make('Web'), await make('Print')];
    const bundle = await call<StoredBundle>('POST', '/api/bundles', { title: 'Web and print', presetIds: [a.id, b.id, a.id] });
    expect(bundle.presetIds).toEqual([a.id, b.id]);
    await call('PUT', `/api/bundles/${bundle.id}`, { title: 'Both', presetIds: [b.id] });
    expect(await call('GET', '/api/bundles')).toContainEqual({ id: bundle.id, title: 'Both', presetIds: [b.id] });
    expect((await server.call('POST', '/api/bundles', { title: 'X', presetIds: [crypto.randomUUID()] })).status).toBe(404);
    await server.call('DELETE', `/api/bundles/${bundle.id}`);
    expect(await call('GET', '/api/bundles')).toEqual([]);
    expect(await titles()).toContain('Print');
  });
});

describe('presets that travel', () => {
  it('take their watermarks along, which get new ids where they are others, and the same where they are the same', async () => {
    const logo = await sharp({ create: { width: 20, height: 10, channels: 4, background: '#ff8000' } })
      .png()
      .toBuffer();
    const data = logo.toString('base64');
    const mark = await call<{ id: string }>('POST', '/api/watermarks', { kind: 'png', title: 'Logo', data, dark: data });
    const plain = await make('Plain');
    const marked = await make('Marked', { mark: { watermark: mark.id } });
    const bundle = await call<Bundle>('GET', `/api/presets/export?ids=${plain.id},${marked.id}`);
    expect(bundle.presets.map(({ title }) => title)).toEqual(['Plain', 'Marked']);
    expect(bundle.watermarks).toEqual([{ id: mark.id, title: 'Logo', mark: { kind: 'png', data, dark: data } }]);

    const here = await call<StoredPreset[]>('POST', '/api/presets/import', bundle);
    expect(here.map((made) => made.preset)).toEqual(bundle.presets);
    const elsewhere = {
      ...bundle,
      watermarks: [{ ...bundle.watermarks[0]!, mark: { kind: 'rundle.watermark', version: 1, text: '© Other' } }],
    };
    const [, other] = await call<StoredPreset[]>('POST', '/api/presets/import', elsewhere);
    expect(other!.preset.mark!.watermark).not.toBe(mark.id);
    const marks = () => call<{ id: string; text: string; state: string }[]>('GET', '/api/watermarks');
    expect((await marks()).find(({ id }) => id === other!.preset.mark!.watermark)).toMatchObject({ text: '© Other' });
    await server.until(async () => (await marks()).every(({ state }) => state === 'ready'));
    // Several that came together stay together.
    expect((await call<StoredBundle[]>('GET', '/api/bundles')).length).toBe(2);
  });

  it('are refused as a whole when a watermark did not come along, by its label', async () => {
    const before = await titles();
    const bundle = {
      kind: 'rundle.bundle',
      version: 1,
      title: 'X',
      presets: [preset('Fine'), preset('Lost', { mark: { watermark: 'gone.png' } })],
    };
    const { status, json } = await server.call<{ problems: { message: string }[] }>('POST', '/api/presets/import', bundle);
    expect(status).toBe(400);
    expect(json.problems[0]!.message).toMatch(/^“Lost”: Watermark: it is not in the file/);
    expect(await titles()).toEqual(before);
  });

  it('show a watermark on three pictures, stored or not, and say why not', async () => {
    const text = { kind: 'text', title: 'T', text: '© Me', typeface: 'serif', edge: 'outline', adapt: true };
    const tryMark = (mark: object) =>
      fetch(`${server.url}/api/watermarks/preview`, {
        method: 'POST',
        body: JSON.stringify(mark),
        headers: { 'content-type': 'application/json' },
      });
    const shown = await tryMark(text);
    const { width, height } = await sharp(Buffer.from(await shown.arrayBuffer())).metadata();
    expect([shown.status, shown.headers.get('content-type'), width > 3 * height]).toEqual([200, 'image/png', true]);
    expect((await server.call('POST', '/api/watermarks/preview', { ...text, text: '漢' })).status).toBe(422);
    // A logo of few bytes that takes long to be drawn is refused within seconds, here and once it is stored, and holds nobody up.
    const blur =
      '<filter id="f" x="-9" y="-9" width="19" height="19">' + '<feTurbulence baseFrequency=".9" numOctaves="9"/>'.repeat(30) + '</filter>';
    const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="900" height="900">${blur}<rect width="900" height="900" filter="url(#f)"/></svg>`;
    const dear = { kind: 'svg', title: 'Dear', data: Buffer.from(svg).toString('base64') };
    let isTold = false;
    const tried = server.call<ProblemDetails>('POST', '/api/watermarks/preview', dear).finally(() => (isTold = true));
    expect((await tryMark(text)).status).toBe(200);
    expect(isTold).toBe(false);
    expect(await tried).toMatchObject({ status: 422, json: { problems: [{ code: 'watermark-large' }] } });
    const stored = (await server.call<StoredWatermark>('POST', '/api/watermarks', dear)).json;
    const now = async () => (await server.call<StoredWatermark[]>('GET', '/api/watermarks')).json.find(({ id }) => id === stored.id)!;
    await server.until(async () => (await now()).state === 'refused');
    expect((await now()).problem?.code).toBe('watermark-large');
  });
});

describe('a set and its presets', () => {
  it('is forecast, cut around a focus, and told which version made what is out', async () => {
    const setId = await server.set('Forecast', 3, 900);
    const { masters } = await server.detail(setId);
    const square = await make('Square', { size: { fit: 'cover', width: 200, height: 200 }, folder: 'square' });
    const long = await make('Long', { size: { px: 300 }, folder: 'long' });
    const told = await call<Forecast>('POST', `/api/sets/${setId}/forecast`, long.preset);
    expect(told).toMatchObject({ pictures: 3, smaller: 0, clashes: 0 });
    expect(told.sizes.reduce((sum, { pictures }) => sum + pictures, 0)).toBe(3);

    const presetIds = [square.id, long.id];
    await call('POST', `/api/sets/${setId}/runs`, { presetIds });
    const out = async () => (await call<{ outputs: unknown[] }>('GET', `/api/sets/${setId}/outputs`)).outputs.length;
    await server.until(async () => (await out()) === 6);
    const plan = () => call<PlanView>('POST', `/api/sets/${setId}/plan`, { presetIds });
    const open = (view: PlanView) =>
      view.outputs.filter(({ status }) => status === 'planned').map(({ masterId, presetId }) => [masterId, presetId]);
    expect(open(await plan())).toEqual([]);

    const [master] = masters;
    const focus = { x: 0.1, y: 0.5 };
    await call('PUT', `/api/sets/${setId}/marks`, { marks: [{ masterId: master!.id, overrides: { ...master!.overrides, focus } }] });
    expect(open(await plan())).toEqual([[master!.id, square.id]]);
    await call('PUT', `/api/sets/${setId}/marks`, { marks: [{ masterId: master!.id, overrides: master!.overrides }] });
    expect(open(await plan())).toEqual([]);

    expect((await plan()).notices).toEqual([]);
    await call('PUT', `/api/presets/${long.id}`, preset('Long', { size: { px: 310 }, folder: 'long' }));
    expect((await plan()).notices).toMatchObject([
      { code: 'earlier-version', message: 'Long: 3 files that are out were made by version 1; the preset is at version 2.' },
    ]);
  });

  it('hands over the masters themselves where that is asked, byte for byte', async () => {
    const setId = await server.set('Untouched', 1, 700);
    const copy = await make('Copies', { file: { type: 'original' }, name: { parts: [{ part: 'text', text: 'copy' }] } });
    await call('POST', `/api/sets/${setId}/runs`, { presetIds: [copy.id] });
    type Out = { outputs: { id: string; masterId: string; fileName: string; bytes: number; state: string; masterBytes: number }[] };
    const view = () => call<Out>('GET', `/api/sets/${setId}/outputs`);
    await server.until(async () => (await view()).outputs.length === 1);
    const [output] = (await view()).outputs;
    expect(output).toMatchObject({ fileName: expect.stringMatching(/^copy\.jpe?g$/) as string, bytes: output!.masterBytes });
    const [master] = (await server.detail(setId)).masters;
    const file = Buffer.from(await (await fetch(`${server.url}/api/outputs/${output!.id}/file`)).arrayBuffer());
    expect(createHash('sha256').update(file).digest('hex').slice(0, 12)).toBe(master!.content);
  });
});

describe('every field of metadata', () => {
  it('that would stand in a file is told, and every one that would not', async () => {
    const setId = await server.set('Fields', 1, 600);
    const [master] = (await server.detail(setId)).masters;
    const fields = (value: Preset) => call<FileFields>('POST', `/api/masters/${master!.id}/fields`, value);
    await call('PUT', '/api/studio', { creator: 'Ada Quill', jobTitle: 'Photographer', city: 'Emberquay' });
    const told = await fields(preset('Fields'));
    const kept = new Map(told.kept.map(({ field, value }) => [field, value]));
    expect(kept.get('IFD0:Artist')).toBe('Ada Quill');
    expect(kept.get('XMP-photoshop:AuthorsPosition')).toBe('Photographer');
    expect(kept.get('XMP-iptcCore:CreatorCity')).toBe('Emberquay');
    const none = await fields(preset('None', { metadata: { rights: 'remove', description: 'remove' } }));
    expect(none.kept.some(({ value }) => /Quill|Emberquay/.test(value))).toBe(false);
    const copy = await fields(preset('Copy', { file: { type: 'original' } }));
    expect(copy.removed).toEqual([]);
  });
});

describe('a preset like a file', () => {
  const look = async (bytes: Uint8Array, name: string) => {
    const response = await fetch(`${server.url}/api/presets/like-a-file?name=${encodeURIComponent(name)}`, {
      method: 'POST',
      headers: { 'content-type': 'application/octet-stream', connection: 'close' },
      body: new Uint8Array(bytes),
    });
    return { status: response.status, json: (await response.json()) as PresetGuess & { detail?: string } };
  };

  it('says what is in the file, keeps nothing of it, and tells by name what cannot be read', async () => {
    const jpeg = await sharp({ create: { width: 640, height: 480, channels: 3, background: '#845' } })
      .jpeg({ quality: 77 })
      .toBuffer();
    const before = readdirSync(tmpdir()).filter((name) => name.startsWith('rundle-like-'));
    const found = await look(jpeg, 'Über den Dächern_640.jpg');
    expect([found.status, found.json.preset.file.quality, found.json.preset.title]).toEqual([200, 77, 'Like Über den Dächern_640, 640 px']);
    for (const [bytes, name] of [
      [Buffer.from('words'), 'notes.jpg'],
      [Buffer.alloc(0), 'nothing.jpg'],
      [jpeg.subarray(0, 300), 'cut.jpg'],
    ] as const) {
      const { status, json } = await look(bytes, name);
      expect([status, json.detail]).toEqual([400, expect.stringContaining(name)]);
    }
    expect(readdirSync(tmpdir()).filter((name) => name.startsWith('rundle-like-'))).toEqual(before);
  });
});
