import { mkdtempSync, rmSync } from 'node:fs';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { Feed } from '@rundle/core';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { feedApp, Wall } from '../src';

const PAGE = fileURLToPath(new URL('../feed-page', import.meta.url));
const folder = mkdtempSync(join(tmpdir(), 'rundle-feed-'));
let server: Server;
let url: string;
const open = async () => {
  server = feedApp(await Wall.open(folder), PAGE).listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  url = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
};
const close = () => new Promise((resolve) => server.close(resolve));
beforeAll(open);
afterAll(async () => {
  await close();
  rmSync(folder, { recursive: true });
});

const waves = (width: number, height: number) =>
  sharp(Buffer.from(Array.from({ length: width * height * 3 }, (_, at) => 128 + 90 * Math.sin(at / 7) * Math.cos(at / 991))), {
    raw: { width, height, channels: 3 },
  }).withMetadata({ exif: { IFD0: { Copyright: 'Lantern & Sail' } } });
const send = (feed: string, file: Buffer) => fetch(`${url}/feeds/${feed}/pictures`, { method: 'POST', body: new Uint8Array(file) });
const shown = async (feed: string, file: Buffer) => {
  const { picture } = (await (await send(feed, file)).json()) as { picture: string };
  return Buffer.from(await (await fetch(url + picture)).arrayBuffer());
};
const pixels = (file: Buffer) => sharp(file).raw().toBuffer();

describe('the stand-in feed', () => {
  it('leaves alone what fits, to the pixel, and throws away all that is told beside the pixels', async () => {
    const file = await waves(900, 600).withIccProfile('srgb').jpeg({ quality: 88 }).toBuffer();
    expect((await sharp(file).metadata()).exif).toBeDefined();
    const out = await shown('harbour-wall', file);
    const { exif, icc, xmp } = await sharp(out).metadata();
    expect([exif, icc, xmp]).toEqual([undefined, undefined, undefined]);
    expect((await pixels(out)).equals(await pixels(file))).toBe(true);
  });

  it('makes what is larger smaller, upright, and compresses again where it always does', async () => {
    const file = await waves(3000, 2000).withMetadata({ orientation: 6 }).jpeg().toBuffer();
    expect(await sharp(await shown('harbour-wall', file)).metadata()).toMatchObject({ width: 1365, height: 2048, format: 'jpeg' });
    const small = await waves(600, 400).jpeg({ quality: 95 }).toBuffer();
    expect((await pixels(await shown('lantern-post', small))).equals(await pixels(small))).toBe(false);
  });

  it('shows other colours where it does not convert them', async () => {
    const red = { create: { width: 200, height: 200, channels: 3 as const, background: '#c04020' } };
    const file = await sharp(red).withIccProfile('p3').png().toBuffer();
    const first = async (feed: string) => [...(await pixels(await shown(feed, file))).subarray(0, 3)];
    const [converted, taken] = [await first('lantern-post'), await first('regatta-board')];
    const raw = [...(await sharp(file, { ignoreIcc: true }).raw().toBuffer()).subarray(0, 3)];
    for (const c of [0, 1, 2]) expect(Math.abs(taken[c]! - raw[c]!)).toBeLessThan(4);
    for (const c of [0, 1, 2]) expect(Math.abs(converted[c]! - [0xc0, 0x40, 0x20][c]!)).toBeLessThan(4);
  });

  it('refuses what is no picture it knows, what is cut off, and other sites, each with a sentence', async () => {
    const refused = async (file: Buffer) => {
      const answer = await send('harbour-wall', file);
      return [answer.status, ((await answer.json()) as { message: string }).message];
    };
    expect(await refused(await waves(60, 40).tiff().toBuffer())).toEqual([422, 'Harbour Wall takes JPEG, PNG and WebP; this is TIFF.']);
    expect(await refused(Buffer.from('no picture'))).toEqual([422, 'It cannot be read.']);
    const whole = await waves(2400, 1600).jpeg().toBuffer();
    expect((await refused(whole.subarray(0, whole.length / 2)))[0]).toBe(422);
    expect((await send('nowhere', whole)).status).toBe(404);
    const foreign = await fetch(`${url}/feeds/harbour-wall/pictures`, {
      method: 'POST',
      body: 'x',
      headers: { Origin: 'http://example.org' },
    });
    expect(foreign.status).toBe(403);
  });

  it('keeps its settings and what was sent when it is started again, and takes no senseless ones', async () => {
    const feeds = (await (await fetch(`${url}/feeds`)).json()) as Feed[];
    const put = (feed: object) =>
      fetch(`${url}/feeds/lantern-post`, { method: 'PUT', body: JSON.stringify(feed), headers: { 'Content-Type': 'application/json' } });
    const lantern = feeds.find(({ id }) => id === 'lantern-post')!;
    expect((await put({ ...lantern, quality: 0 })).status).toBe(422);
    expect((await put({ ...lantern, quality: 55 })).status).toBe(204);
    const before = (await (await fetch(`${url}/wall`)).json()) as { posts: { id: string }[] };
    await close();
    await open();
    expect(((await (await fetch(`${url}/feeds`)).json()) as Feed[])[1]).toMatchObject({ id: 'lantern-post', quality: 55 });
    expect(((await (await fetch(`${url}/wall`)).json()) as { posts: unknown[] }).posts).toEqual(before.posts);
    expect((await fetch(`${url}/pictures/${before.posts[0]!.id}`)).headers.get('content-type')).toBe('image/jpeg');
  });
});
