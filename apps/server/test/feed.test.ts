import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { FeedTrip } from '@rundle/core';
import { addressOf, FeedsView, type FeedSide, type Measured, Preset, type PresetInput, type ProblemDetails } from '@rundle/core';
import { feedApp, Wall } from '@rundle/stand-ins';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { TestServer } from './server';

const REGATTA = fileURLToPath(new URL('../../../demo/base/regatta.jpg', import.meta.url));
const folder = mkdtempSync(join(tmpdir(), 'rundle-feed-'));
let server: TestServer;
let feed: Server;
let masterId: string;
/** Where the stand-in says that it is found. */
const standsAt = (url: string) => {
  const place = join(server.config.data, 'stand-ins/feed');
  mkdirSync(place, { recursive: true });
  writeFileSync(join(place, 'address'), url);
};
beforeAll(async () => {
  server = await TestServer.start();
  const wall = await Wall.open(folder);
  await wall.change({ ...wall.feed('harbour-wall')!, longEdge: 1000 });
  feed = feedApp(wall, folder).listen(0, '127.0.0.1');
  await new Promise((resolve) => feed.once('listening', resolve));
  standsAt(`http://127.0.0.1:${(feed.address() as AddressInfo).port}`);
  const setId = await server.set('Feeds', 0);
  await server.upload(setId, [new File([new Uint8Array(await readFile(REGATTA))], 'regatta.jpg')]);
  await server.until(async () => (await server.detail(setId)).masters[0]?.state === 'ready');
  masterId = (await server.detail(setId)).masters[0]!.id;
});
afterAll(async () => {
  feed.close();
  await server.stop();
  rmSync(folder, { recursive: true });
});

const preset = (more: Partial<PresetInput>) => Preset.parse({ kind: 'rundle.preset', version: 1, title: 'Web', ...more });
const send = (value: Preset, to = 'harbour-wall') =>
  server.call<FeedTrip & ProblemDetails>('POST', `/api/masters/${masterId}/feed-trips`, { preset: value, feed: to });
const picture = async ({ id }: FeedTrip, side: FeedSide) => {
  const answer = await fetch(server.url + addressOf('getFeedPicture', { tripId: id, query: { side } }));
  return { type: answer.headers.get('content-type'), file: Buffer.from(await answer.arrayBuffer()) };
};
const pixels = (file: Buffer) => sharp(file).raw().toBuffer();

describe('a picture sent through a feed', () => {
  it('is left alone at the feed’s own size, and loses its metadata', async () => {
    const { json } = await send(preset({ size: { px: 1000 }, file: { quality: 80 } }));
    expect(json).toMatchObject({ deed: 'left', lost: ['metadata', 'profile'] });
    // What it differs in from the picture before it was encoded is the preset's own doing.
    const measured = { preset: preset({ size: { px: 1000 }, file: { quality: 80 } }) };
    const own = (await server.call<Measured>('POST', `/api/masters/${masterId}/measured`, measured)).json;
    expect(json.difference).toBeCloseTo(own.judgement!.difference, 3);
    expect(json.sent).toMatchObject({ width: 1000, height: 667 });
    const [before, after] = [await picture(json, 'before'), await picture(json, 'after')];
    expect((await pixels(before.file)).equals(await pixels(after.file))).toBe(true);
    expect(before.file.length).toBe(json.sent.bytes);
  });

  it('is held against the preset’s own file at the size that is shown, and loses fine contrast that this one keeps', async () => {
    const large = (await send(preset({ size: { px: 1600 }, file: { quality: 80 } }))).json;
    expect(large).toMatchObject({ deed: 'shrunk', sent: { width: 1600 }, shown: { width: 1000, height: 667 } });
    const own = (await send(preset({ size: { px: 1000 }, file: { quality: 80 } }))).json;
    const [before, right] = [await picture(large, 'before'), await picture(own, 'before')];
    expect((await pixels(before.file)).equals(await pixels(right.file))).toBe(true);
    expect(large.fineContrast).toBeLessThan(0.95);
    expect(own.fineContrast).toBeGreaterThan(large.fineContrast + 0.05);
    expect(large.difference).toBeGreaterThan(own.difference);
    // The difference is drawn eight times as strong around mid grey, as everywhere.
    const [a, b, drawn] = await Promise.all(
      [before.file, (await picture(large, 'after')).file, (await picture(large, 'difference')).file].map(pixels),
    );
    for (let at = 0; at < a!.length; at += 997) expect(drawn![at]).toBe(Math.min(255, Math.max(0, 128 + 8 * (b![at]! - a![at]!))));
  });

  it('loses more where all is compressed again, less with more quality before; a trip is kept until the feed changes', async () => {
    const [plain, fine] = [preset({ size: { px: 900 }, file: { quality: 60 } }), preset({ size: { px: 900 }, file: { quality: 95 } })];
    const [first, second] = [(await send(plain, 'lantern-post')).json, (await send(fine, 'lantern-post')).json];
    expect([first.deed, second.deed]).toEqual(['compressed', 'compressed']);
    expect(second.difference).toBeLessThan(first.difference);
    expect((await send(plain, 'lantern-post')).json).toEqual(first);
    const { json } = await server.call<FeedsView>('GET', '/api/feeds');
    const lantern = FeedsView.parse(json).feeds.find(({ id }) => id === 'lantern-post')!;
    const body = JSON.stringify({ ...lantern, quality: 30 });
    await fetch(`${json.address}feeds/lantern-post`, { method: 'PUT', body, headers: { 'Content-Type': 'application/json' } });
    const worse = (await send(plain, 'lantern-post')).json;
    expect(worse.id).not.toBe(first.id);
    expect(worse.difference).toBeGreaterThan(first.difference);
  });

  it('is refused in words: by the feed, and where there is none', async () => {
    const tiff = await send(preset({ file: { type: 'tiff' } }));
    expect([tiff.status, tiff.json.code]).toEqual([422, 'feed-refused']);
    expect(tiff.json.detail).toBe('Harbour Wall did not take the file. Harbour Wall takes JPEG, PNG and WebP; this is TIFF.');
    const panels = await send(preset({ panels: { columns: 2, rows: 1 } }));
    expect([panels.json.code, panels.json.detail]).toEqual(['no-sample', expect.stringContaining('Panels and canvas edges are for print')]);
    expect((await send(preset({}), 'nowhere')).json.code).toBe('no-feed');
    const address = readFileSync(join(server.config.data, 'stand-ins/feed/address'), 'utf8');
    try {
      standsAt('http://127.0.0.1:9');
      expect((await send(preset({}))).json.detail).toContain('does not answer');
      server.config.standIns = false;
      const off = (await server.call<FeedsView>('GET', '/api/feeds')).json;
      expect(off).toMatchObject({ address: null, why: expect.stringContaining('RUNDLE_STAND_INS=off') as string, feeds: [] });
    } finally {
      server.config.standIns = true;
      standsAt(address);
    }
  });
});
