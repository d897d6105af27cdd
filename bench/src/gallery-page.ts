import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import { dirname, extname, join } from 'node:path';
import { galleryPage, type GalleryPicture, GalleryWish } from '@rundle/core';
import { galleryParts } from '@rundle/store';
import sharp from 'sharp';
import type { WebDriver } from 'selenium-webdriver';
import { Browser } from '../../e2e/src/browser';
import { figureRow, median, ROOT, work } from './measure';
import type { Row } from './report';

/*
 * A gallery of 45 pictures over a line as WebPageTest calls 4G (9 Mbit/s, 170 ms there and back), in Chromium, with nothing in its cache.
 */

const PICTURES = 45;
const LOADS = 5;
const LINE = { offline: false, latency: 170, downloadThroughput: 9e6 / 8, uploadThroughput: 9e6 / 8 };
const TYPES: Record<string, string> = { '.html': 'text/html', '.css': 'text/css', '.js': 'text/javascript', '.jpg': 'image/jpeg' };

/** Core Web Vitals of a load: largest contentful paint in ms, layout shift, the longest task in ms. */
interface Vitals {
  paint: number;
  shift: number;
  longest: number;
}

const VITALS = `
  const done = arguments[arguments.length - 1];
  const all = (type) => new Promise((found) => {
    const entries = [];
    new PerformanceObserver((list) => entries.push(...list.getEntries())).observe({ type, buffered: true });
    setTimeout(() => found(entries), 1500);
  });
  Promise.all(['largest-contentful-paint', 'layout-shift', 'longtask'].map(all)).then(([paints, shifts, tasks]) => done({
    paint: Math.max(...paints.map((one) => one.startTime)),
    shift: shifts.reduce((sum, one) => sum + one.value, 0),
    longest: Math.max(0, ...tasks.map((one) => one.duration)),
  }));`;

export async function galleryOverLine(): Promise<Row[]> {
  const folder = join(work, 'gallery-page');
  await makeGallery(folder);
  const server = createServer((request, response) => {
    const path = decodeURIComponent(new URL(request.url ?? '/', 'http://x').pathname);
    try {
      const content = readFileSync(join(folder, path === '/' ? 'index.html' : path));
      response.writeHead(200, { 'Content-Type': TYPES[extname(path)] ?? 'text/html' }).end(content);
    } catch {
      response.writeHead(404).end();
    }
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const { port } = server.address() as { port: number };
  const browser = await Browser.open();
  try {
    const loads: Vitals[] = [];
    for (let load = 0; load < 2 * LOADS; load++) {
      const [width, height, density] = load % 2 ? [390, 844, 3] : [1280, 800, 1];
      await browser.resize(width, height, density);
      await throttle(browser.driver);
      await browser.driver.get(`http://127.0.0.1:${port}/`);
      loads.push(await browser.driver.executeAsyncScript<Vitals>(VITALS));
    }
    const paints = (at: 0 | 1) => median(loads.filter((_, load) => load % 2 === at).map(({ paint }) => paint / 1000));
    const shifted = loads.reduce((sum, { shift }) => sum + shift, 0);
    const longest = Math.max(...loads.map((load) => load.longest));
    const quick = (seconds: number) => seconds <= 1.5;
    return [
      figureRow('A gallery of 45 pictures over 4G, a desk: largest contentful paint, median (s)', paints(0), '<= 1.5', quick),
      figureRow('The same on a telephone of three pixels to one', paints(1), '<= 1.5', quick),
      figureRow('The same: layout shift of all loads', shifted, '0', (shift) => shift === 0),
      figureRow('The same: the longest task of all loads (ms)', longest, '<= 50', (ms) => ms <= 50),
    ];
  } finally {
    await browser.close();
    server.close();
  }
}

async function throttle(driver: WebDriver): Promise<void> {
  const tools = driver as WebDriver & { sendDevToolsCommand(name: string, params: object): Promise<void> };
  await tools.sendDevToolsCommand('Network.enable', {});
  await tools.sendDevToolsCommand('Network.setCacheDisabled', { cacheDisabled: true });
  await tools.sendDevToolsCommand('Network.emulateNetworkConditions', LINE);
}

async function makeGallery(folder: string): Promise<void> {
  const names = readdirSync(join(ROOT, 'demo/base'));
  mkdirSync(join(folder, 'pictures'), { recursive: true });
  const pictures: GalleryPicture[] = [];
  for (let at = 0; at < PICTURES; at++) {
    const name = names[at % names.length]!;
    const files = await Promise.all(
      [850, 1600].map(async (edge) => {
        const path = `pictures/${at + 1}-${edge}.jpg`;
        const { data, info } = await sharp(join(ROOT, 'demo/base', name))
          .resize(edge, edge, { fit: 'inside', withoutEnlargement: true })
          .jpeg({ quality: 80 })
          .toBuffer({ resolveWithObject: true });
        writeFileSync(join(folder, path), data);
        return { path, type: 'jpeg' as const, width: info.width, height: info.height, bytes: info.size };
      }),
    );
    const text = { title: `Picture ${at + 1}`, caption: null, credit: 'Orla Vessby', alt: null };
    pictures.push({ id: `p${at}`, tags: [], captured: null, sources: [{ type: 'jpeg', files }], text, placeholder: null });
  }
  const wish = GalleryWish.parse({
    layout: 'rows',
    title: 'Lantern evening',
    photographer: 'Orla Vessby',
    cover: 'first',
    text: 'From the quay.',
  });
  for (const [path, content] of [...(await galleryParts()), ['index.html', galleryPage(wish, pictures, null)] as const]) {
    mkdirSync(dirname(join(folder, path)), { recursive: true });
    writeFileSync(join(folder, path), content);
  }
}
