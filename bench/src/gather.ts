import { copyFileSync, mkdirSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { availableParallelism } from 'node:os';
import type { MasterPage, SetDetail, StoredPreset } from '@rundle/core';
import { RenderPool } from '@rundle/render';
import { Application } from '../../e2e/src/application';
import { Browser } from '../../e2e/src/browser';
import { each, figureRow, median, percentile, ROOT, work } from './measure';
import type { Row } from './report';

/*
 * Gather with 2,000 pictures: how they arrive, how fast the server lists and marks them, and whether the page stays smooth.
 */

const COUNT = 2000;

/**
 * Facts and a thumbnail of each file, a second, against a tool that only makes the thumbnails.
 * @param rounds in how many parts, in turns
 */
export async function arrival(files: readonly string[], rounds: number): Promise<Row> {
  const pool = new RenderPool(new URL('../../dist/render-thread.js', import.meta.url), availableParallelism() + 1);
  const figures: number[] = [];
  const ours: number[] = [];
  const size = Math.ceil(files.length / rounds);
  for (let start = 0; start < files.length; start += size) {
    const part = files.slice(start, start + size);
    const begun = performance.now();
    await Promise.all(part.map((file, at) => pool.facts(file, join(work, 'proxies', `${at}.jpg`))));
    ours.push((performance.now() - begun) / 1000);
    const thumbnail = ['vipsthumbnail', '--size', '512x512', '--eprofile', 'srgb', '-o', join(work, '%s_t.jpg[Q=80]'), '{}'];
    figures.push(each(2 * availableParallelism(), thumbnail, part) / ours.at(-1)!);
  }
  await pool.close();
  return {
    what: `${files.length} JPEGs of 24 megapixels: all facts, fingerprint and a thumbnail of 512 px`,
    ours: `${(size / median(ours)).toFixed(1)} a second`,
    against: 'vipsthumbnail, 4 processes, the thumbnails only',
    goal: 'reported',
    figures,
    figure: median(figures),
    met: true,
  };
}

/** A set of 2,000 pictures of a folder of the machine, in the real application and the real browser. */
export async function largeSet(): Promise<Row[]> {
  const folder = join(work, 'two-thousand');
  mkdirSync(folder);
  const base = readdirSync(join(ROOT, 'demo/base'));
  for (let at = 0; at < COUNT; at++) copyFileSync(join(ROOT, 'demo/base', base[at % base.length]!), join(folder, `p-${at}.jpg`));
  process.env['RUNDLE_ROOTS'] = work;
  const application = await Application.start('');
  const browser = await Browser.open();
  try {
    const call = async <T>(method: string, path: string, body?: object): Promise<T> => {
      const init = body ? { body: JSON.stringify(body), headers: { 'content-type': 'application/json' } } : {};
      const answer = await fetch(`${application.url}${path}`, { method, ...init });
      return (answer.status === 204 ? null : await answer.json()) as T;
    };
    const { id } = await call<SetDetail>('POST', '/api/sets', { title: 'Two thousand' });
    const page = `${application.url}/sets/${id}/gather`;
    await browser.driver.get(page);
    await browser.says('No pictures yet');
    const first = await onScreen(browser, `/api/sets/${id}/masters/from-machine`, { path: folder, deeper: false });
    await browser.driver.get('about:blank');
    const memory = await arriving(
      application,
      async () => (await call<MasterPage>('GET', `/api/sets/${id}/masters?from=1999&count=1`)).masters[0]?.state,
    );
    const window = async () => call<MasterPage>('GET', `/api/sets/${id}/masters?from=500`);
    const listing = await timed(100, window);
    const ids = (await window()).masters.map((master) => master.id);
    const marking = await timed(10, (stars) =>
      call('PUT', `/api/sets/${id}/marks`, { marks: ids.map((masterId) => ({ masterId, stars: stars % 6 })) }),
    );
    const presetIds = (await call<StoredPreset[]>('GET', '/api/presets')).slice(0, 3).map((preset) => preset.id);
    const beside = await besides(
      () => call('GET', '/api/studio'),
      async () => {
        for (const what of ['vet', 'plan']) await call('POST', `/api/sets/${id}/${what}`, { presetIds });
      },
    );
    return [
      figureRow('First thumbnail of a folder of 2,000 on screen, after it was chosen (ms)', first, '<= 1000', (ms) => ms <= 1000),
      figureRow(
        'A list call for 500 of 2,000 masters on loopback, 95 of 100 calls (ms)',
        percentile(listing, 0.95),
        '<= 100',
        (ms) => ms <= 100,
      ),
      figureRow('Marks of 500 pictures in one call, median (ms)', median(marking), 'one call', () => true),
      figureRow('Another call while 2,000 pictures are vetted and planned, the longest (ms)', beside, '<= 100', (ms) => ms <= 100),
      figureRow(
        'Longest time the page’s main thread is busy while 2,000 pictures scroll by, median of three times (ms)',
        median([await scrolled(browser, page), await scrolled(browser, page), await scrolled(browser, page)]),
        '<= 100',
        (ms) => ms <= 100,
      ),
      figureRow(
        'Memory of server and workers while 2,000 files arrive: last quarter against second',
        memory,
        '<= 1.2',
        (ratio) => ratio <= 1.2,
      ),
    ];
  } finally {
    await browser.close();
    await application.stop();
  }
}

async function timed(times: number, call: (at: number) => Promise<unknown>): Promise<number[]> {
  const took: number[] = [];
  for (let at = 0; at < times; at++) {
    const begun = performance.now();
    await call(at);
    took.push(performance.now() - begun);
  }
  return took;
}

/** How long the longest of some small calls takes that are made one after the other while something is worked on, in ms. */
async function besides(small: () => Promise<unknown>, work: () => Promise<unknown>): Promise<number> {
  let working = true;
  const worked = work().finally(() => (working = false));
  const took: number[] = [];
  while (working) took.push(...(await timed(1, small)));
  await worked;
  return Math.max(...took);
}

/** Brings a folder in from an open page, and tells how long it takes until the page shows the first of its pictures, in ms. */
const onScreen = (browser: Browser, call: string, body: object): Promise<number> =>
  browser.driver.executeAsyncScript<number>(
    `
    const [call, body, done] = arguments;
    const begun = performance.now();
    const look = () => {
      const there = [...document.querySelectorAll('rd-master-card img')].some((img) => img.complete && img.naturalWidth > 0);
      if (there) requestAnimationFrame(() => done(performance.now() - begun));
      else requestAnimationFrame(look);
    };
    void fetch(call, { method: 'POST', body: JSON.stringify(body), headers: { 'content-type': 'application/json' } });
    look();`,
    call,
    body,
  );

/** Watches the memory of all programs of the application until the last picture has come and been read. */
async function arriving(application: Application, lastState: () => Promise<string | undefined>): Promise<number> {
  const seen: number[] = [];
  while (((await lastState()) ?? 'arriving') === 'arriving') {
    seen.push(residentOfTree(application.pid));
    await new Promise((resolve) => setTimeout(resolve, 500));
  }
  const quarter = Math.max(1, Math.floor(seen.length / 4));
  return median(seen.slice(-quarter)) / median(seen.slice(quarter, 2 * quarter));
}

/** Resident memory of the programs that a process has started, without the database, in kB. */
function residentOfTree(root: number): number {
  const processes = readdirSync('/proc')
    .filter((name) => /^\d+$/.test(name))
    .flatMap((pid) => {
      try {
        const status = readFileSync(`/proc/${pid}/status`, 'utf8');
        const field = (name: string) => Number(new RegExp(`^${name}:\\s+(\\d+)`, 'm').exec(status)?.[1] ?? 0);
        return [{ pid: Number(pid), parent: field('PPid'), kilobytes: field('VmRSS'), database: /^Name:\s+postgres/.test(status) }];
      } catch {
        return []; // ended meanwhile
      }
    });
  const below = (pid: number): number =>
    processes.filter((one) => one.parent === pid && !one.database).reduce((sum, one) => sum + one.kilobytes + below(one.pid), 0);
  return below(root);
}

/** Scrolls through the whole sheet and tells the longest task of the page's thread (Long Tasks API, W3C), in ms. */
async function scrolled(browser: Browser, url: string): Promise<number> {
  await browser.driver.get(url);
  await browser.says('2,000 pictures', 60_000);
  await browser.driver.sleep(3000);
  return browser.driver.executeAsyncScript<number>(`
    const done = arguments[arguments.length - 1];
    let longest = 0;
    new PerformanceObserver((list) => { for (const { duration } of list.getEntries()) longest = Math.max(longest, duration); })
      .observe({ type: 'longtask' });
    const end = document.documentElement.scrollHeight;
    let at = 0;
    const step = () => {
      scrollTo(0, (at += 220));
      if (at < end) requestAnimationFrame(step);
      else setTimeout(() => done(longest), 500);
    };
    requestAnimationFrame(step);`);
}
