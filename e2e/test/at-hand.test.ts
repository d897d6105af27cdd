import type { HandOverView, Run, SetDetail, SetSummary, StoredPreset } from '@rundle/core';
import { copyFileSync, existsSync, mkdirSync, mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { By, error, Key, type WebElement } from 'selenium-webdriver';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { Application } from '../src/application';
import { Browser } from '../src/browser';
import { call } from '../src/new-set';

/*
 * Usual jobs in as few presses and typed values as they are meant to take. A press is a click or a key with a modifier; what is typed counts by value.
 */

const BASE = fileURLToPath(new URL('../../demo/base/', import.meta.url));
const PICTURES = ['regatta', 'quay-steps', 'calm-evening'];

let folder: string;
let application: Application;
let browser: Browser;
let presses = 0;
let typed = 0;

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'rundle-at-hand-'));
  for (const name of ['evening', 'morning']) {
    mkdirSync(join(folder, name));
    for (const [at, picture] of PICTURES.entries()) copyFileSync(join(BASE, `${picture}.jpg`), join(folder, name, `LFS_04${at + 10}.jpg`));
  }
  const allowed = { RUNDLE_ROOTS: folder, RUNDLE_WRITE_ROOTS: folder };
  [application, browser] = await Promise.all([Application.start('', undefined, allowed), Browser.open()]);
});
afterAll(async () => {
  await browser?.close();
  await application?.stop();
  rmSync(folder, { recursive: true });
});

/** @param what its words, or how it is found: again, where the page has drawn it anew between the two */
async function press(what: string | (() => Promise<WebElement>)): Promise<void> {
  presses++;
  if (typeof what === 'string') return browser.click(what);
  for (let left = 20; ; left--)
    try {
      return await (await what()).click();
    } catch (problem) {
      if (!(problem instanceof error.StaleElementReferenceError) || left === 0) throw problem;
    }
}
async function type(text: string): Promise<void> {
  typed++;
  await browser.type(Key.chord(Key.CONTROL, 'a'), text, Key.ENTER);
}
const counted = (): [number, number] => {
  const counts: [number, number] = [presses, typed];
  [presses, typed] = [0, 0];
  return counts;
};
/** A value of the panel beside the run sheet. */
const value = (label: string) => browser.find(`rd-once-panel button[aria-label^="${label}"]`);
const offer = (title: string) => browser.find(By.xpath(`//rd-preset-bar//label[contains(., "${title}")]`));
const setCalled = async (title: string) => (await call<SetSummary[]>(application, 'GET', '/api/sets')).find((set) => set.title === title)!;
const detail = async (id: string) => call<SetDetail>(application, 'GET', `/api/sets/${id}`);
const ended = async (id: string) => {
  const isOver = async () => (await call<Run[]>(application, 'GET', `/api/sets/${id}/runs`))[0]?.state === 'done';
  await browser.until(isOver, 'no end', 240_000);
};
/** New names as they stand in the sheet. */
const names = () =>
  browser.driver.executeScript<string[]>(
    `return [...document.querySelectorAll('rd-run-cell .name')].filter((one) => one.offsetParent).map((one) => one.textContent.trim())`,
  );

it('a folder dropped on the list of sets: each preset shows what it would make, one is varied, files go beside the masters', async () => {
  await browser.driver.get(`${application.url}/sets`);
  await browser.says('Make a set');
  await browser.dropFiles(join(folder, 'evening'));
  presses++;
  await browser.says('3 pictures');
  const set = await setCalled('evening');
  await press('Plan');
  await browser.says('Which versions are wanted?');
  await browser.until(async () => (await browser.all('rd-preset-card img')).length === 6, 'not every preset shows its picture', 120_000);
  expect(await (await offer('Blog column 850')).getText()).toMatch(/850 × 567\s+\d+ KB/);
  await press(() => offer('Gallery 2048'));
  await browser.says('3 files, about');
  // Columns have room: the names are there before anything is made.
  expect((await names()).sort()).toEqual(['LFS_0410_1800.jpg', 'LFS_0411_1800.jpg', 'LFS_0412_1800.jpg'].sort());

  await press(() => browser.find('button[title^="Vary Gallery 2048"]'));
  await press(() => value('Edge length'));
  await type('600');
  await browser.says(/Edge length: 600, not 2.?048/);
  await press(() => value('Quality'));
  await type('100');
  await browser.says('Quality: 100, not');
  await browser.press(Key.ESCAPE);
  await browser.until(async () => (await names()).includes('LFS_0410_600.jpg'), 'the sheet does not follow');
  expect(await detail(set.id)).toMatchObject({ presetIds: [expect.any(String)] });

  await press('into Rundle’s own folder');
  await press('Choose …');
  const made = await browser.find('input[aria-label="Name of a new folder"]');
  typed++;
  await made.sendKeys('web of the evening', Key.ENTER);
  await browser.says(join(folder, 'web of the evening'));
  await press('Use this folder');
  await browser.says(`to ${join(folder, 'web of the evening')}`);
  await press(() => browser.find('button.run:not([disabled])'));
  await ended(set.id);
  expect(readdirSync(join(folder, 'web of the evening', 'gallery-2048')).sort()).toEqual([
    'LFS_0410_600.jpg',
    'LFS_0411_600.jpg',
    'LFS_0412_600.jpg',
  ]);
  // What came out is seen where it was planned.
  await browser.until(async () => (await browser.all('rd-run-cell .picture img')).length === 3, 'the outputs are not shown');
  await press('Hand over');
  await press('names');
  const [pressed, given] = counted();
  expect(pressed).toBeLessThanOrEqual(12);
  expect(given).toBeLessThanOrEqual(4);
  expect(await browser.consoleErrors()).toEqual([]);
});

it('the next set gets the same in three presses: Plan, as last time, run', async () => {
  const before = await detail((await setCalled('evening')).id);
  await browser.driver.get(`${application.url}/sets`);
  await browser.says('evening');
  await browser.dropFiles(join(folder, 'morning'));
  await browser.says('3 pictures');
  counted();
  await press('Plan');
  await press('As last time');
  await press(() => browser.find('button.run:not([disabled])'));
  expect(counted()).toEqual([3, 0]);
  const { id } = await setCalled('morning');
  const { presetIds, place, once } = await detail(id);
  expect({ presetIds, place, once }).toEqual({ presetIds: before.presetIds, place: before.place, once: before.once });
  await ended(id);
  // The files of the other set are there already: they are its own, and stay.
  const { outputs } = await call<HandOverView>(application, 'GET', `/api/sets/${id}/outputs`);
  for (const { folder: below, fileName } of outputs) expect(existsSync(join(folder, 'web of the evening', below, fileName))).toBe(true);
  expect(readdirSync(join(folder, 'web of the evening', 'gallery-2048'))).toHaveLength(6);
});

it('names that two files would have are told, numbered on request, and mended by one press; what is chosen is kept as a bundle', async () => {
  const body = {
    kind: 'rundle.preset',
    version: 1,
    title: 'Plain',
    size: { px: 300 },
    name: { parts: [{ part: 'text', text: 'lantern' }] },
  };
  const plain = await call<StoredPreset>(application, 'POST', '/api/presets', body);
  const { id } = await setCalled('evening');
  await browser.driver.get(`${application.url}/sets/${id}/plan`);
  await (await offer('Plain')).click();
  await browser.says('gives 2 files the name of another file');
  await browser.says('2 names of another file get a number');
  await browser.click('Add a counter to the name');
  await browser.until(async () => (await names()).includes('lantern-003.jpg'), 'the names are still numbered');
  expect((await browser.text()).includes('the name of another file')).toBe(false);
  const stored = await call<StoredPreset[]>(application, 'GET', '/api/presets');
  expect(stored.find((one) => one.id === plain.id)).toMatchObject({ version: 2 });

  await browser.click('Keep these as a bundle');
  await browser.type('Quay', Key.ENTER);
  await browser.until(async () => (await browser.all('.bundle.chosen')).length === 1, 'the bundle is not there, or does not look chosen');
  await (await browser.find('.bundle')).click();
  await browser.says('Which versions are wanted?');
  await browser.click('Quay');
  await browser.until(async () => (await detail(id)).presetIds.length === 2, 'the bundle was not chosen');
  expect(await browser.consoleErrors()).toEqual([]);
});

it('all names of a set stand beside the editor of a name, and a larger picture on the bench', async () => {
  const gallery = (await call<StoredPreset[]>(application, 'GET', '/api/presets')).find(({ preset }) => preset.title === 'Gallery 2048')!;
  await browser.driver.get(`${application.url}/presets/${gallery.id}`);
  await browser.says('pixel for pixel as in the file', 60_000);
  await (await browser.find(By.xpath(`//li[@data-part='name']/button`))).click();
  await browser.click('All names');
  await browser.says(/LFS_0411\.jpg\s+gallery-2048\/LFS_0411_1800\.jpg/);
  const share = () =>
    browser.driver.executeScript<number>(
      `const { width, height } = document.querySelector('rd-live-sample .stage').getBoundingClientRect(); return (width * height) / (innerWidth * innerHeight);`,
    );
  await browser.click('Larger picture');
  await browser.until(async () => (await share()) >= 0.6, 'the picture has less than 60 % of the window');
  await browser.says('pixel for pixel as in the file', 60_000);
  expect(await browser.consoleErrors()).toEqual([]);
});

it('can be installed, and keeps nothing of an earlier version', async () => {
  const cached = async (path: string) => (await fetch(`${application.url}${path}`)).headers.get('cache-control');
  const page = await (await fetch(`${application.url}/sets`)).text();
  const program = /src="(main-[^"]+\.js)"/.exec(page)![1]!;
  expect(await cached(`/${program}`)).toContain('immutable');
  expect([await cached('/sets'), await cached('/manifest.webmanifest'), await cached('/favicon.svg')]).toEqual(Array(3).fill('no-cache'));
  await browser.driver.get(`${application.url}/sets`);
  const driver = browser.driver as typeof browser.driver & { sendAndGetDevToolsCommand(name: string, params: object): Promise<unknown> };
  expect(await driver.sendAndGetDevToolsCommand('Page.getInstallabilityErrors', {})).toEqual({ installabilityErrors: [] });
});
