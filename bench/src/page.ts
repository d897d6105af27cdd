import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import type { MasterPage, RunDetail, SetDetail, StoredPreset } from '@rundle/core';
import { By, Key } from 'selenium-webdriver';
import { Application } from '../../e2e/src/application';
import { Browser } from '../../e2e/src/browser';
import { call as callOf } from '../../e2e/src/new-set';
import { atRest, each, figureRow, median, percentile, work } from './measure';
import { smallMasters } from './pictures';
import type { Row } from './report';

/*
 * What somebody feels of a set of 2,000 small pictures: how soon a folder has been read, pages open, and presses are answered, a run under way.
 */

const COUNT = 2000;
/** How wide they are, which makes about 1.7 megapixels. */
const PX = 1600;
const EDGES = [640, 520, 400, 300];
/** Each page, what stands on it as soon as it shows what the server knows, and whether it belongs to the set. */
const PAGES = [
  ['sets', 'rd-sets-page a[href*="/sets/"]', false],
  ['gather', 'rd-master-card img', true],
  ['vet', 'rd-vet-page .group', true],
  ['plan', 'rd-run-sheet rd-run-cell', true],
  ['hand-over', 'rd-hand-over-page .sentence', true],
  ['presets', 'rd-library-page a[href*="/presets/"]', false],
  ['runs', 'rd-runs-page a[href*="/runs/"]', false],
  ['storage', 'rd-storage-page table', false],
] as const;

export async function pages(): Promise<Row[]> {
  const folder = join(work, 'page-masters');
  const files = await smallMasters(folder, COUNT, PX);
  const thumbnails = each(
    availableParallelism(),
    ['vipsthumbnail', '--size', '512x512', '--eprofile', 'srgb', '-o', join(work, '%s_t.jpg[Q=80]'), '{}'],
    files,
  );
  process.env['RUNDLE_ROOTS'] = work;
  const application = await Application.start('');
  const browser = await Browser.open();
  const call = <T>(method: string, path: string, body?: object) => callOf<T>(application, method, path, body);
  try {
    const { id } = await call<SetDetail>('POST', '/api/sets', { title: 'Two thousand' });
    const base = `${application.url}/sets/${id}`;
    await browser.driver.get(`${base}/gather`);
    await browser.says('No pictures yet');
    const begun = performance.now();
    await call('POST', `/api/sets/${id}/masters/from-machine`, { path: folder, deeper: false });
    while ((await lastState(call, id)) !== 'ready') await browser.driver.sleep(250);
    const read = (performance.now() - begun) / 1000;
    await browser.driver.get('about:blank');
    process.stderr.write(`read in ${read.toFixed(0)} s, thumbnails by vipsthumbnail in ${thumbnails.toFixed(0)} s\n`);
    // While they are weighed, both cores are busy with it; what a plan has weighed more exactly goes on beside the pages that come after it.
    await atRest(call);
    const opened: number[] = [];
    for (let time = 0; time < 5; time++) opened.push(await opens(browser, `${base}/gather`, 'rd-master-card img', true));
    const shown: { page: string; ms: number }[] = [];
    const shows = async (page: string) => {
      const [, data, ofSet] = PAGES.find(([name]) => name === page)!;
      const url = ofSet ? `${base}/${page}` : `${application.url}/${page}`;
      const times: number[] = [];
      for (let time = 0; time < 3; time++) times.push(await opens(browser, url, data));
      shown.push({ page, ms: median(times) });
    };
    for (const page of ['sets', 'gather', 'vet', 'presets', 'storage']) await shows(page);
    // No page comes sooner than one that asks for nothing.
    const frame: number[] = [];
    for (let time = 0; time < 3; time++) frame.push(await opens(browser, `${application.url}/nothing`, 'rd-not-found'));
    const presetIds: string[] = [];
    for (const px of EDGES) {
      const preset = { kind: 'rundle.preset', version: 1, title: `Edge ${px}`, size: { px }, folder: `edge-${px}`, existing: 'replace' };
      presetIds.push((await call<StoredPreset>('POST', '/api/presets', preset)).id);
    }
    await call('PATCH', `/api/sets/${id}`, { presetIds });
    await shows('plan');
    const run = await call<RunDetail>('POST', `/api/sets/${id}/runs`, { presetIds });
    const answered = await alongTheWay(browser, base);
    const { state } = await call<RunDetail>('GET', `/api/runs/${run.id}`);
    if (state !== 'running') throw new Error('The run was over before the way was: nothing was measured beside it.');
    process.stderr.write(`presses answered: ${answered.map(({ ms, what }) => `${what} ${ms.toFixed(0)}`).join(', ')} ms\n`);
    await call('POST', `/api/runs/${run.id}/cancel`);
    for (const page of ['hand-over', 'runs']) await shows(page);
    const slowest = shown.toSorted((one, other) => other.ms - one.ms)[0]!;
    process.stderr.write(`${shown.map(({ page, ms }) => `${page} ${ms.toFixed(0)}`).join(', ')} ms\n`);
    return [
      {
        what: '2,000 JPEGs of 1.7 megapixels brought in and read: facts, fingerprint, small picture',
        ours: `${read.toFixed(0)} s in all`,
        against: `vipsthumbnail, ${availableParallelism()} processes, the thumbnails only: ${thumbnails.toFixed(0)} s`,
        goal: '>= 1.8',
        figures: [thumbnails / read],
        figure: thumbnails / read,
        met: thumbnails / read >= 1.8,
      },
      figureRow(
        'Gather with 2,000 pictures opened, until its first screen has its pictures, median (ms)',
        median(opened),
        '<= 1200',
        (ms) => ms <= 1200,
      ),
      figureRow(
        'A press to the next paint, over the whole way, a run of 2,000 x 4 under way, 95 of 100 presses (ms)',
        percentile(
          answered.map(({ ms }) => ms),
          0.95,
        ),
        '<= 200',
        (ms) => ms <= 200,
      ),
      {
        what: 'A page called up, until it shows what the server knows of 2,000 pictures: the slowest page, median (ms)',
        ours: shown.map(({ page, ms }) => `${page} ${ms.toFixed(0)}`).join(', '),
        against: `a page that asks for nothing: ${median(frame).toFixed(0)} ms`,
        goal: '<= 700',
        figures: [slowest.ms],
        figure: slowest.ms,
        met: slowest.ms <= 700,
      },
    ];
  } finally {
    await browser.close();
    await application.stop();
  }
}

async function lastState(call: <T>(method: string, path: string) => Promise<T>, setId: string): Promise<string | undefined> {
  const { masters } = await call<MasterPage>('GET', `/api/sets/${setId}/masters?from=${COUNT - 1}&count=1`);
  return masters[0]?.state;
}

/** From the call of a page until what stands for its data is there; with `pictures`, until all that is on the first screen is drawn, ms. */
async function opens(browser: Browser, url: string, css: string, pictures = false): Promise<number> {
  await browser.driver.get('about:blank');
  await browser.driver.get(url);
  const ms = await browser.driver.executeAsyncScript<number | null>(
    `
    const [css, pictures, done] = arguments;
    const isOn = (one) => { const { top, bottom } = one.getBoundingClientRect(); return bottom > 0 && top < innerHeight; };
    const look = () => {
      const there = [...document.querySelectorAll(css)].filter(isOn);
      const isReady = there.length > 0 && (!pictures || there.every((img) => img.complete && img.naturalWidth > 0));
      if (isReady) done(performance.now());
      else if (performance.now() > 20000) done(null);
      else requestAnimationFrame(look);
    };
    look();`,
    css,
    pictures,
  );
  if (ms === null) throw new Error(`${url} never showed ${css}.`);
  return ms;
}

/** What was pressed, and how long it took until the next paint. */
interface Press {
  ms: number;
  what: string;
}

/** Goes through the application by its links and keys, and tells what each press took until the next paint (Event Timing API, W3C), ms. */
async function alongTheWay(browser: Browser, base: string): Promise<Press[]> {
  const { driver } = browser;
  await driver.get(`${base}/gather`);
  await browser.find('rd-master-card img');
  await driver.sleep(1500);
  await driver.executeScript(`
    window.presses = new Map();
    new PerformanceObserver((list) => {
      for (const { interactionId, duration, name, target } of list.getEntries())
        if (interactionId && duration >= (presses.get(interactionId)?.ms ?? 0))
          presses.set(interactionId, { ms: duration, what: name + ' ' + (target?.closest?.('a, button')?.textContent.trim() ?? target?.localName) });
    }).observe({ type: 'event', durationThreshold: 16, buffered: true });`);
  const presses = async (...keys: string[]) => {
    for (const key of keys) {
      await browser.press(key);
      await driver.sleep(300);
    }
  };
  const links = async (...words: string[]) => {
    for (const word of words) {
      await driver.findElement(By.xpath(`//nav//a[contains(normalize-space(.), "${word}")]`)).click();
      await driver.sleep(1500);
    }
  };
  await (await browser.find('rd-master-card img')).click();
  await presses(Key.ARROW_RIGHT, '3', Key.ARROW_RIGHT, '5', Key.ARROW_DOWN, '2', '-', Key.ARROW_RIGHT, '0', Key.END, Key.HOME);
  await links('Vet', 'Plan', 'Gather', 'Plan');
  await (await browser.all('rd-run-cell'))[2]?.click();
  await driver.sleep(600);
  await links('Hand over', 'Gather');
  await presses('4', Key.ARROW_RIGHT, '1');
  return driver.executeScript<Press[]>('return [...presses.values()]');
}
