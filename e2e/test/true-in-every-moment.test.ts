import type { HandOverView, MasterPage, Run, RunDetail, SetDetail, StoredPreset } from '@rundle/core';
import { copyFileSync, mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { By, Key } from 'selenium-webdriver';
import { afterAll, afterEach, beforeAll, expect, it } from 'vitest';
import { Application } from '../src/application';
import { Browser } from '../src/browser';
import { call, newSet } from '../src/new-set';
import { LookingClock } from '../src/patience';
import { SlowAnswers } from '../src/slow-answers';

/*
 * What a page says while answers take their time. Every answer comes 3 s late, as on a machine that does something else; samples are held back as
 * long as a test wants.
 */

const BASE = fileURLToPath(new URL('../../demo/base/', import.meta.url));
const PICTURES = ['regatta', 'quay-steps', 'calm-evening'];
const LATE = 3000;
const SAMPLES = /\/(sample|measured)$/;

let folder: string;
let application: Application;
let line: SlowAnswers;
let browser: Browser;
let setId: string;
let runId: string;
let preset: StoredPreset;

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'rundle-moment-'));
  mkdirSync(join(folder, 'evening'));
  for (const [at, name] of PICTURES.entries()) copyFileSync(join(BASE, `${name}.jpg`), join(folder, 'evening', `LFS_041${at}.jpg`));
  application = await Application.start('', undefined, { RUNDLE_ROOTS: folder });
  line = await SlowAnswers.open(application.url);
  browser = await Browser.open();
  setId = await newSet(application, 'Evening', join(folder, 'evening'));
  await call(application, 'PUT', '/api/studio', { creator: 'Ana Field' });
  await call(application, 'POST', '/api/watermarks', { kind: 'text', title: 'Field mark', text: '© Field' });
  const body = { kind: 'rundle.preset', version: 1, title: 'Web', size: { px: 720 }, file: { quality: 60 }, folder: 'web' };
  preset = await call<StoredPreset>(application, 'POST', '/api/presets', body);
  await call(application, 'PATCH', `/api/sets/${setId}`, { presetIds: [preset.id] });
  runId = await run(setId);
});
afterAll(async () => {
  await browser.close();
  line.close();
  await application.stop();
  rmSync(folder, { recursive: true });
});

afterEach(() => {
  line.release();
  line.delay = 0;
});

async function run(of: string): Promise<string> {
  const { id } = await call<RunDetail>(application, 'POST', `/api/sets/${of}/runs`, { presetIds: [preset.id] });
  await browser.until(async () => (await call<RunDetail>(application, 'GET', `/api/runs/${id}`)).state === 'done', 'no end', 120_000);
  return id;
}

/** What stands in the database at a moment. */
interface Truth {
  /** By a clock that stands still with the machine, ms. */
  at: number;
  pictures: number;
  ready: number;
  presets: number;
}

const clock = new LookingClock();

async function truth(): Promise<Truth> {
  const [set, masters, outputs] = await Promise.all([
    call<SetDetail>(application, 'GET', `/api/sets/${setId}`),
    call<MasterPage>(application, 'GET', `/api/sets/${setId}/masters`),
    call<HandOverView>(application, 'GET', `/api/sets/${setId}/outputs`),
  ]);
  return { at: clock.look(), pictures: masters.total, ready: outputs.outputs.length, presets: set.presetIds.length };
}

/** What a page says that is held against the database: what is said, and whether that is so. */
const CLAIMS: readonly [RegExp, (said: RegExpMatchArray, is: Truth) => boolean][] = [
  [/Gather (\d+) pictures?/, ([, n], { pictures }) => Number(n) === pictures],
  [/no pictures yet|No pictures yet|No pictures to (?:judge|plan for|vet)/, (_, { pictures }) => pictures === 0],
  [/Hand over (\d+) ready/, ([, n], { ready }) => Number(n) === ready],
  [/nothing out yet|Nothing has come out yet/, (_, { ready }) => ready === 0],
  [/(\d+) files?, [\d.]+ [KM]B from [\d.]+ [KM]B, all re-opened/, ([, n], { ready }) => Number(n) === ready],
  [/Plan (\d+) presets?/, ([, n], { presets }) => Number(n) === presets],
  [/There are no pictures for this sheet/, (_, { pictures }) => pictures === 0],
  [/no preset chosen|Which versions are wanted/, (_, { presets }) => presets === 0],
  [/nothing to make|Nothing to run/, ({ input }, { presets }) => presets === 0 || /up to date/.test(input ?? '')],
  [/No watermark \(make one|IPTC Photo Metadata Standard\. Creator nothing/, () => false],
  [/No sets yet|No runs? (?:has|yet)|There are no presets yet|No presets yet|None yet/, () => false],
  [/No worker (?:is there|takes|has been)/, () => false],
  [/\b0 (?:pictures|files|outputs|B)\b/, () => false],
];

/** How long a page may take to have heard of a change, ms: the delay of an answer that was asked for after it, and some. */
const MOMENT_BEFORE = 2 * LATE + 4000;

/**
 * Reads the page all the time while something is done, and gives every statement that was not so.
 * @param wished what the act itself asks for: the page may say so before the database has heard of it
 */
async function falseStatementsWhile(act: () => Promise<void>, wished: Partial<Truth> = {}): Promise<string[]> {
  const truths = [await truth()];
  const wrong = new Set<string>();
  let goesOn = true;
  const watching = (async () => {
    while (goesOn) {
      const text = (await browser.text().catch(() => '')).replace(/\n/g, ' ');
      truths.push(await truth());
      const recent = truths.filter(({ at }) => at > clock.ms - MOMENT_BEFORE);
      for (const [claim, isSo] of CLAIMS) {
        const said = claim.exec(text);
        if (said && !recent.some((one) => isSo(said, one) || isSo(said, { ...one, ...wished }))) wrong.add(said[0]);
      }
      await new Promise((resolve) => setTimeout(resolve, 60));
    }
  })();
  await act().finally(() => (goesOn = false));
  await watching;
  return [...wrong];
}

it('no screen states what is not so while its data load', async () => {
  line.delay = LATE;
  const visit = async (path: string, until: string | RegExp) => {
    await browser.driver.get(`${line.url}${path}`);
    await browser.says(until, 60_000);
  };
  const wrong = await falseStatementsWhile(async () => {
    await visit('/sets', /3 outputs ready/);
    for (const [step, words] of [
      ['gather', 'LFS_0412.jpg'],
      ['vet', 'Weight by megapixels'],
      ['plan', '3 of 3 done, all checked, no errors'],
      ['proof', 'Finest detail'],
      ['hand-over', '3 files, '],
      ['sheet', 'page 1 of 1'],
      [`sheet?of=${preset.id}%20&from=hand-over`, 'page 1 of 1'],
    ] as const) {
      await visit(`/sets/${setId}/${step}`, words);
      await browser.says(/Gather\n3 pictures, .*Hand over\n3 ready/s, 60_000);
    }
    await visit('/runs', '3 of 3 done, all checked, no errors');
    await visit(`/runs/${runId}`, 'LFS_0412.jpg');
    await visit('/presets', 'Web');
    await visit(`/presets/${preset.id}`, 'pixel for pixel as in the file');
    await visit('/workers', 'Nothing waits');
    await visit('/standing-orders', 'No folder is watched yet');
    await visit('/watermarks', 'Field mark');
    await visit('/studio', /Creator\nAna Field/);
  });
  expect(wrong).toEqual([]);
});

it('what changes meanwhile is never told before it is known: another preset', async () => {
  line.delay = LATE;
  await browser.driver.get(`${line.url}/sets/${setId}/plan`);
  await browser.says('3 of 3 done, all checked, no errors', 60_000);
  const wished = { presets: 2 };
  const wrong = await falseStatementsWhile(async () => {
    await (await browser.find(By.xpath('//rd-preset-bar//label[contains(., "Blog column 850")]'))).click();
    await browser.says('Working out what will come out');
    // What is not known cannot be run.
    expect(await (await browser.find('rd-run-dock .run')).isEnabled()).toBe(false);
    await browser.says(/3 files, about \d+ KB/, 60_000);
  }, wished);
  await call(application, 'PATCH', `/api/sets/${setId}`, { presetIds: [preset.id] });
  expect(wrong).toEqual([]);
});

/** What the close look and the strip show, as it stands. */
const look = () =>
  browser.driver.executeScript<{ label: string; said: string; stale: number; canAdopt: boolean[] }>(
    `const text = (css) => document.querySelector(css)?.innerText ?? '';
     return {
       label: text('.stage .label .of'),
       said: text('.said'),
       stale: document.querySelectorAll('.stage img.stale').length,
       canAdopt: [...document.querySelectorAll('rd-adopt-bar button, rd-second-look button')].map((one) => !one.disabled),
     };`,
  );

it('a picture that is not what is asked for is dimmed, is not called the file, and cannot be judged', async () => {
  line.delay = 0;
  await browser.driver.get(`${line.url}/sets/${setId}/proof?way=close`);
  await browser.says('pixel for pixel as in the file', 60_000);
  const areThere = async () => (await browser.all('.stage img:not(.stale)')).length === 2;
  await browser.until(areThere, 'not both sides are there', 60_000);
  line.hold(SAMPLES);
  await browser.press(Key.PAGE_DOWN);
  await browser.says('LFS_0411.jpg');
  await browser.says('being made');
  expect(await look()).toMatchObject({ label: 'The output of “Web”: being made …', stale: 2, canAdopt: [false] });
  expect((await look()).said).not.toContain('pixel for pixel');
  line.release();
  await browser.says('pixel for pixel as in the file', 60_000);
  expect(await look()).toMatchObject({ label: 'The output of “Web”', stale: 0, canAdopt: [true] });
  // What an overlay tells is of this picture, too.
  await browser.driver.get(`${line.url}/sets/${setId}/proof?way=close`);
  await browser.says('pixel for pixel as in the file', 60_000);
  await (await browser.find(By.xpath('//nz-select[.//input[@aria-label="Mark"]]'))).click();
  await (await browser.find(By.xpath('//nz-option-item[contains(., "Difference")]'))).click();
  await browser.says(/% of what is shown: changed by compression/, 60_000);
  line.hold(SAMPLES);
  await browser.press(Key.PAGE_DOWN);
  await browser.says('the marks are being made');
  expect((await look()).said).not.toMatch(/% of what is shown/);
  line.release();
  await browser.says(/% of what is shown: changed by compression/, 60_000);
});

it('tiles of another place tell nothing of this one, and a place is found in the picture that is judged', async () => {
  line.delay = 0;
  await browser.driver.get(`${line.url}/sets/${setId}/proof?way=strip`);
  const tiles = () =>
    browser.driver.executeScript<{ words: string; stale: boolean }[]>(
      `return [...document.querySelectorAll('.tile')].map((tile) => ({ words: tile.innerText, stale: tile.querySelector('img')?.classList.contains('stale') ?? false }))`,
    );
  const areWhole = async () => {
    const all = await tiles();
    return all.length === 14 && all.every(({ words, stale }) => !stale && /same|visible|poor/.test(words));
  };
  await browser.until(areWhole, 'the strip was never whole', 90_000);
  await (await browser.find('[data-tile="Quality 45"]')).click();
  line.hold(SAMPLES);
  await browser.click('Smoothest');
  await browser.says('being made');
  for (const { words, stale } of await tiles()) {
    expect(stale).toBe(true);
    expect(words).not.toMatch(/\bsame\b|visible|poor/);
  }
  expect((await look()).canAdopt).toEqual([false, false]);
  // The next picture has places of its own, which are not known yet.
  await browser.press(Key.PAGE_DOWN);
  await browser.says('LFS_0411.jpg');
  const places = await browser.driver.executeScript<boolean[]>(
    `return [...document.querySelectorAll('rd-place-in-picture .places button')].map(({ disabled }) => disabled)`,
  );
  expect(places.length).toBeGreaterThan(0);
  expect(places).not.toContain(false);
  line.release();
  await browser.until(areWhole, 'the strip was never whole again', 90_000);
});

it('a run is told as it is: it waits while another goes first, and Hand over says that something is under way', async () => {
  line.delay = 0;
  const other = await newSet(application, 'Morning', join(folder, 'evening'));
  await call(application, 'PATCH', `/api/sets/${other}`, { presetIds: [preset.id], once: { [preset.id]: { quality: 61 } } });
  await call(application, 'PATCH', `/api/sets/${setId}`, { once: { [preset.id]: { quality: 62 } } });
  const workers = application.children('worker');
  for (const worker of workers) process.kill(worker, 'SIGSTOP');
  try {
    await call(application, 'POST', `/api/sets/${other}/runs`, { presetIds: [preset.id] });
    await call(application, 'POST', `/api/sets/${setId}/runs`, { presetIds: [preset.id] });
    await browser.driver.get(`${line.url}/sets/${setId}/plan`);
    await browser.says(/Plan\nwaits for its turn/, 60_000);
    await browser.click('Hand over');
    await browser.says('A run of this set is under way: waits for its turn.');
    expect(await browser.text()).not.toContain('no errors');
  } finally {
    for (const worker of workers) process.kill(worker, 'SIGCONT');
  }
  await browser.says(/3 files, .* all re-opened and checked, no errors/, 120_000);
  const runs = await call<Run[]>(application, 'GET', `/api/sets/${setId}/runs`);
  expect(runs[0]).toMatchObject({ state: 'done', counts: { total: 3, done: 3, working: 0, failures: [] } });
});

it('what is out is not told while a run makes more of it', async () => {
  line.delay = 0;
  const noon = await newSet(application, 'Noon', join(folder, 'evening'));
  const once = { [preset.id]: { type: 'avif', values: { 'size.px': 1800 } } };
  await call(application, 'PATCH', `/api/sets/${noon}`, { presetIds: [preset.id], once });
  await browser.driver.get(`${line.url}/sets/${noon}/plan`);
  await browser.says(/Hand over\nnothing out yet/);
  // One worker alone, so that one file is out, one is being made and one waits.
  const [idle] = application.children('worker');
  process.kill(idle!, 'SIGSTOP');
  try {
    const { id } = await call<RunDetail>(application, 'POST', `/api/sets/${noon}/runs`, { presetIds: [preset.id] });
    const counts = async () => (await call<RunDetail>(application, 'GET', `/api/runs/${id}`)).counts;
    await browser.until(async () => (await counts()).done > 0, 'no file came out', 120_000);
    await call(application, 'POST', `/api/runs/${id}/pause`);
    await browser.says(/[12] of 3, paused/);
    expect(await browser.text()).toMatch(/Hand over\n…/);
    await call(application, 'POST', `/api/runs/${id}/resume`);
    await browser.says(/Hand over\n3 ready/, 120_000);
  } finally {
    process.kill(idle!, 'SIGCONT');
  }
});

it('a page whose server is silent says so by itself, and that it is back', async () => {
  line.delay = 0;
  await browser.driver.get(`${line.url}/sets/${setId}/gather`);
  await browser.says('LFS_0412.jpg');
  const server = application.children('server.js')[0]!;
  process.kill(server, 'SIGSTOP');
  try {
    await browser.says('The server does not answer', 20_000);
  } finally {
    process.kill(server, 'SIGCONT');
  }
  await browser.until(async () => !(await browser.text()).includes('does not answer'), 'it is not told that it is back', 60_000);
});
