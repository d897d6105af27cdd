import type { FeedsView, HandOverView, MasterPage, RunDetail, SetDetail, StoredPreset } from '@rundle/core';
import { copyFileSync, existsSync, mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { By, Key } from 'selenium-webdriver';
import sharp from 'sharp';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { violations } from '../src/accessibility';
import { Application } from '../src/application';
import { Browser } from '../src/browser';
import { call, newSet } from '../src/new-set';
import { occursIn, pixelsIn } from '../src/occurs-in';

const BASE = fileURLToPath(new URL('../../demo/base/', import.meta.url));

let folder: string;
let application: Application;
let browser: Browser;
let setId: string;
let preset: StoredPreset;
beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'rundle-proof-'));
  mkdirSync(join(folder, 'evening'));
  copyFileSync(join(BASE, 'regatta.jpg'), join(folder, 'evening', 'LFS_0412.jpg'));
  copyFileSync(join(BASE, 'quay-steps.jpg'), join(folder, 'evening', 'LFS_0455.jpg'));
  application = await Application.start('', undefined, { RUNDLE_ROOTS: folder });
  browser = await Browser.open();
  setId = await newSet(application, 'Evening', join(folder, 'evening'));
  const body = {
    kind: 'rundle.preset',
    version: 1,
    title: 'Feed',
    size: { px: 720 },
    file: { quality: 60 },
    folder: 'feed',
    existing: 'replace',
  };
  preset = await call<StoredPreset>(application, 'POST', '/api/presets', body);
  await call(application, 'PATCH', `/api/sets/${setId}`, { presetIds: [preset.id] });
});
afterAll(async () => {
  // A small picture of a file that a later run has just replaced is gone, and a page may still ask for it.
  const errors = await browser.consoleErrors();
  expect(errors.filter((error) => !/\/outputs\/[^/]+\/thumbnail - .*404/.test(error))).toEqual([]);
  await browser.close();
  await application.stop();
  rmSync(folder, { recursive: true });
});

/** The pixels of a picture of the page. */
const pixelsOf = (css: string) => pixelsIn(browser, css);

interface ShownTile {
  says: string;
  words: string;
}
const tiles = () =>
  browser.driver.executeScript<ShownTile[]>(
    `return [...document.querySelectorAll('.tile')].map((tile) => ({ says: tile.dataset.tile, words: tile.innerText }))`,
  );
/** Waits until every tile has its picture and its weight. */
const allThere = () =>
  browser.until(
    () =>
      browser.driver.executeScript<boolean>(
        `const all = [...document.querySelectorAll('.tile')]; return all.length > 0 && all.every((tile) => tile.querySelector('img:not(.stale)') && /\\d [KM]B/.test(tile.innerText));`,
      ),
    'the strip was never whole',
    90_000,
  );
/** Chooses out of a list by its name, until it is chosen: one that is made anew while it is open lets go of what was pressed. */
async function choose(list: string, option: string): Promise<void> {
  const select = By.xpath(`//nz-select[.//input[@aria-label="${list}"]]`);
  const take = () =>
    browser.driver.executeScript<boolean>(
      `const one = [...document.querySelectorAll('nz-option-item')].find((item) => item.innerText.trim() === arguments[0]); one?.click(); return Boolean(one);`,
      option,
    );
  await browser.until(async () => {
    if ((await (await browser.find(select)).getText()).trim() === option) return true;
    await (await browser.find(select)).click();
    await browser.until(take, `“${option}” is not in the list`);
    await browser.until(async () => (await browser.all('nz-option-item')).length === 0, 'the list stays open');
    return false;
  }, `“${option}” is not chosen`);
}

/** What is stored as values of this set only: the page says it before the server has it. */
const expectOnce = () => expect.poll(async () => (await call<SetDetail>(application, 'GET', `/api/sets/${setId}`)).once[preset.id] ?? {});

/** The file of the first picture that stands when all of the preset has been run. */
async function delivered(): Promise<{ bytes: number; file: Buffer }> {
  const { masters } = await call<MasterPage>(application, 'GET', `/api/sets/${setId}/masters`);
  const { id } = await call<RunDetail>(application, 'POST', `/api/sets/${setId}/runs`, { presetIds: [preset.id] });
  const ended = async () => (await call<RunDetail>(application, 'GET', `/api/runs/${id}`)).state === 'done';
  await browser.until(ended, 'the run did not end', 90_000);
  const { outputs } = await call<HandOverView>(application, 'GET', `/api/sets/${setId}/outputs`);
  const output = outputs.find(({ masterId, presetId }) => masterId === masters[0]!.id && presetId === preset.id)!;
  const file = Buffer.from(await (await fetch(`${application.url}/api/outputs/${output.id}/file`)).arrayBuffer());
  return { bytes: output.bytes, file };
}

it('a newcomer finds the quality at which a sky begins to band, and makes it the preset’s', async () => {
  await browser.driver.get(`${application.url}/sets/${setId}/gather`);
  await browser.click('Proof');
  await allThere();
  await browser.click('Smoothest');
  await browser.until(async () => (await tiles()).some(({ words }) => words.includes('bands')), 'no tile has bands', 60_000);
  await allThere();
  const qualities = await tiles();
  const banded = qualities.filter(({ words }) => words.includes('bands')).map(({ says }) => Number(says.split(' ')[1]));
  expect(qualities).toHaveLength(14);
  expect(banded).toContain(30);
  expect(banded).not.toContain(95);
  const good = qualities.map(({ says }) => Number(says.split(' ')[1])).find((quality) => quality > Math.max(...banded))!;
  await (await browser.find(`[data-tile="Quality ${good}"]`)).click();
  await browser.says(/% heavier than now/);
  expect(await violations(browser)).toEqual([]);
  const seen = await pixelsOf(`[data-tile="Quality ${good}"] img`);
  const words = qualities.find(({ says }) => says === `Quality ${good}`)!.words;
  await browser.click('Use this for this set');
  await browser.says('until it is cleared in Plan');
  await expectOnce().toEqual({ quality: good });

  // What was seen is what comes out.
  const { bytes, file } = await delivered();
  expect(await occursIn(seen, file)).toBe(true);
  expect(words).toContain(`${Math.round(bytes / 1000)} KB`);
});

it('a newcomer sets sharpening by two values against each other, and saves the next version', async () => {
  await browser.driver.get(`${application.url}/sets/${setId}/proof`);
  await allThere();
  await choose('Vary', 'Sharpening: amount');
  await choose('Against', 'Sharpening: radius');
  await browser.until(async () => (await tiles()).length === 12, 'not twelve tiles');
  await allThere();
  await browser.click('Save as a picture');
  const saved = join(browser.downloads, 'LFS_0412-Feed-strip.png');
  await browser.until(() => Promise.resolve(existsSync(saved)), 'the strip was not saved');
  // Four tiles across and three down, each as large as on screen, with its words below.
  expect(await sharp(saved).metadata()).toMatchObject({ width: 12 + 4 * (226 + 12) });
  await (await browser.find('[data-tile="Amount 1.1, Radius 1.2 px"]')).click();
  await browser.click('Save as version 2');
  await browser.says('saved as version 2 of “Feed”');
  const stored = await call<StoredPreset>(application, 'GET', `/api/presets/${preset.id}`);
  expect(stored.preset.sharpen).toMatchObject({ amount: 1.1, radius: 1.2 });
  // The other value of this set stays varied.
  await expectOnce().toHaveProperty('quality');
});

it('flips in place between the output and what another version made of it, pixel for pixel', async () => {
  const { file } = await delivered();
  await browser.driver.get(`${application.url}/sets/${setId}/proof?way=close`);
  await browser.says('pixel for pixel as in the file', 60_000);
  expect(await occursIn(await pixelsOf('.stage img.front'), file)).toBe(true);
  expect(await violations(browser)).toEqual([]);
  const seen = () =>
    browser.driver.executeScript<string>(
      `return [...document.querySelectorAll('.stage img.front, .stage img.back')].filter((one) => getComputedStyle(one).visibility === 'visible').at(-1).alt`,
    );
  expect(await seen()).toContain('The output');
  await browser.press('x');
  await browser.until(async () => (await seen()).includes('The master'), 'the key did not flip');
  await browser.press('x');
  // Both lie in the same place, whatever is shown.
  const boxes = await browser.driver.executeScript<string[]>(
    `return ['front', 'back'].map((one) => { const { x, y, width, height } = document.querySelector('.stage img.' + one).getBoundingClientRect(); return [x, y, width, height].join(); })`,
  );
  expect(boxes[0]).toBe(boxes[1]);
  // The mouse shows the other for as long as it is held.
  const stage = await browser.find('.stage');
  const mouse = () => browser.driver.actions({ async: true });
  await mouse().move({ origin: stage }).press().perform();
  await browser.until(async () => (await seen()).includes('The master'), 'holding the mouse did not flip');
  await mouse().release().perform();
  await browser.until(async () => (await seen()).includes('The output'), 'letting go did not flip back');
  // Another sharpening in the same place: flipped against the output, and taken over while it is what is seen.
  await choose('Against', 'Not sharpened');
  await browser.press('x');
  await browser.until(async () => (await seen()).includes('Not sharpened'), 'the unsharpened one is not shown');
  await browser.click('Use this for this set');
  await browser.says('Not sharpened: for this set, until it is cleared in Plan');
  await expectOnce().toMatchObject({ amount: 0 });
  await call(application, 'PATCH', `/api/sets/${setId}`, { once: {} });
  await browser.press('x');
  await choose('Against', 'The master, as large as the output');
  await choose('Mark', 'Difference');
  await browser.says(/% of what is shown: changed by compression, drawn 8 times as strong/, 60_000);
  await choose('Mark', 'nothing');
  await (await browser.find('.stage')).click();
  await browser.press('2');
  await browser.says('2 × 2 of the screen');
  await browser.until(
    () =>
      browser.driver.executeScript<boolean>(
        `const one = document.querySelector('.stage img.front'); return Math.abs(one.getBoundingClientRect().width / one.naturalWidth - 2) < 0.01`,
      ),
    'it was not shown twice as large',
  );
});

it('all outputs of the set are leafed through by one key, at the same place and magnification', async () => {
  const body = {
    kind: 'rundle.preset',
    version: 1,
    title: 'Strip of it',
    size: { fit: 'cover', width: 900, height: 300 },
    folder: 'strip',
  };
  const { id } = await call<StoredPreset>(application, 'POST', '/api/presets', body);
  await call(application, 'PATCH', `/api/sets/${setId}`, { presetIds: [preset.id, id] });
  await browser.driver.get(`${application.url}/sets/${setId}/proof?way=close`);
  await browser.says('output 1 of 4');
  await browser.press('2');
  const labels: string[] = [];
  for (const at of [1, 2, 3, 4]) {
    await browser.says(`output ${at} of 4`);
    await browser.says('2 × 2 of the screen');
    await browser.says('pixel for pixel as in the file');
    labels.push(
      await browser.driver.executeScript<string>(
        `return document.querySelector('.picture strong').innerText + ', ' + document.querySelector('.stage .label .of').innerText`,
      ),
    );
    await browser.press('n');
  }
  expect(labels).toEqual(
    ['LFS_0412.jpg', 'LFS_0455.jpg'].flatMap((name) => ['Feed', 'Strip of it'].map((title) => `${name}, The output of “${title}”`)),
  );
  await browser.press('N');
  await browser.says('output 3 of 4');
  await call(application, 'PATCH', `/api/sets/${setId}`, { presetIds: [preset.id] });
});

it.each([1.5, 2])('shows one pixel of the file on one of a screen that has %f for each of the page', async (density) => {
  await browser.resize(1280, 800, density);
  try {
    await browser.driver.get(`${application.url}/sets/${setId}/proof?way=close`);
    await browser.says('pixel for pixel as in the file', 60_000);
    await browser.says(`One pixel of the file is one of the screen, whose scale is ${density}`);
    const { scale, left, top } = await browser.driver.executeScript<{ scale: number; left: number; top: number }>(
      `const image = document.querySelector('.stage img.front');
       const box = image.getBoundingClientRect();
       return { scale: box.width / image.naturalWidth, left: box.left, top: box.top };`,
    );
    expect(scale * density).toBeCloseTo(1, 6);
    // It begins on a pixel of the screen.
    for (const at of [left, top]) expect(Math.abs(at * density - Math.round(at * density))).toBeLessThan(0.02);
  } finally {
    await browser.resize(1280, 800);
  }
});

it('what needs another look is listed in Plan, on every page, until a run has made it anew', async () => {
  await delivered(); // so that the next run finds everything up to date
  await browser.driver.get(`${application.url}/sets/${setId}/proof?way=close`);
  await browser.says('pixel for pixel as in the file', 60_000);
  await (await browser.find('input[aria-label="Note for another look"]')).sendKeys('Horizon?');
  await browser.click('Needs another look');
  await browser.says('Needs another look: Horizon?');
  await browser.press(Key.PAGE_DOWN);
  await browser.find('input[aria-label="Note for another look"]');
  await browser.click('Plan');
  await browser.says('LFS_0412.jpg, Feed: Horizon?');
  // A run that finds everything up to date changes nothing about it; one that makes the file anew does.
  await delivered();
  await browser.says('LFS_0412.jpg, Feed: Horizon?');
  await call(application, 'PATCH', `/api/sets/${setId}`, { once: { [preset.id]: { quality: 77 } } });
  await delivered();
  await browser.until(async () => !(await browser.text()).includes('Horizon?'), 'it is still listed');
});

it('a newcomer compares file types at equal looks, and takes one of them for this set', async () => {
  await browser.driver.get(`${application.url}/sets/${setId}/proof?way=curves`);
  await browser.says(/At the same looks as a JPEG that is “just visible”: WebP \d+ % (lighter|heavier)/, 90_000);
  await browser.until(async () => !(await browser.text()).includes('files made'), 'the files were never all made', 120_000);
  expect(await violations(browser)).toEqual([]);
  await browser.click('As a table');
  await browser.find('rd-proof-curves tbody tr');
  const rows = await browser.driver.executeScript<string[][]>(
    `return [...document.querySelectorAll('tbody tr')].map((row) => [...row.cells].map((cell) => cell.innerText))`,
  );
  // Each type's difference falls as its quality rises.
  for (const type of ['JPEG', 'WebP', 'AVIF']) {
    const own = rows.filter(([name]) => name === type);
    expect(own).toHaveLength(8);
    expect(Number(own.at(-1)![3])).toBeLessThan(Number(own[0]![3]) / 2);
  }
  await (await browser.find('[aria-label="Pick WebP of quality 78"]')).click();
  await browser.click('Use this for this set');
  await browser.says('WebP, quality 78: for this set');
  await expectOnce().toMatchObject({ type: 'webp', quality: 78 });
  // And that is what a run makes.
  const { file } = await delivered();
  expect((await sharp(file).metadata()).format).toBe('webp');

  // A ceiling is a line that is moved; what it leaves is told, and it can be taken over.
  await browser.driver.get(`${application.url}/sets/${setId}/proof?way=curves`);
  const line = await browser.find('[data-line="ceiling"].upright', 90_000);
  const mouse = browser.driver.actions({ async: true });
  await mouse.move({ origin: line }).press().move({ origin: line, x: -120, y: 0 }).release().perform();
  await browser.says(/At most \d+ KB\s+JPEG quality \d+: /);
  await (await browser.find('[data-line="target"]')).sendKeys(Key.ARROW_UP);
  await browser.says(/Visual target: 9\d\.\d % fidelity/);
  await (await browser.find('[data-line="ceiling"].upright')).sendKeys(Key.ARROW_LEFT);
  await browser.says(/At most \d+ KB/); // in the next frame
  const at = Number(/At most (\d+) KB/.exec(await browser.text())![1]);
  await browser.click('Use this for this set');
  await browser.says(`At most ${at} KB: for this set`);
  await expectOnce().toMatchObject({ ceiling: 1000 * at });
  await call(application, 'PATCH', `/api/sets/${setId}`, { once: { [preset.id]: { type: 'webp', quality: 78 } } });

  // On a strip of file types, too, a tile is the file's own once the whole of it has been made.
  await browser.driver.get(`${application.url}/sets/${setId}/proof`);
  await allThere();
  await choose('Vary', 'File type');
  const isTrue = async () =>
    (await tiles()).some(({ says, words }) => says === 'WebP' && /KB/.test(words) && !words.includes('about right'));
  await browser.until(isTrue, 'the WebP was never made', 60_000);
  expect(await occursIn(await pixelsOf('[data-tile="WebP"] img'), file)).toBe(true);
});

it('a newcomer finds the quality that does for the whole set', async () => {
  await call(application, 'PATCH', `/api/sets/${setId}`, { once: {} });
  await browser.driver.get(`${application.url}/sets/${setId}/proof?way=curves`);
  await browser.click('All 2 pictures');
  await browser.says(/Quality \d+ keeps all 2 pictures “just visible” or better: [\d.]+ [KM]B in all/, 120_000);
  await browser.click('Use this for this set');
  await browser.says('until it is cleared in Plan');
  // Another demand is another value, which can be taken over in its turn.
  await (await browser.find(By.xpath('//button[normalize-space(.)="visible"]'))).click();
  await browser.says(/Quality \d+ keeps all 2 pictures “visible” or better/);
  await browser.saying('Use this for this set');
});

it('a newcomer types a weight, and gets the best looks below it', async () => {
  await call(application, 'PATCH', `/api/sets/${setId}`, { once: {} });
  await browser.driver.get(`${application.url}/sets/${setId}/proof?way=weight`);
  const field = await browser.find('input[name="weight"]');
  await field.clear();
  await field.sendKeys('60 KB', Key.ENTER);
  // The quickest type is told at once, the best when all are known.
  await browser.says(/JPEG, colour halved (?:best so far )?\d+ \d+ KB/, 60_000);
  await browser.says(/Best below 60 KB: .*, quality \d+; .* difference /, 120_000);
  const rows = await browser.driver.executeScript<string[][]>(
    `return [...document.querySelectorAll('rd-by-weight tbody tr')].map((row) => [...row.cells].map((cell) => cell.innerText))`,
  );
  expect(rows.length).toBeGreaterThanOrEqual(6);
  for (const [, , weight] of rows) expect(parseInt(weight!)).toBeLessThanOrEqual(60);
  const best = rows.find(([name]) => name!.includes('best'))!;
  for (const row of rows) expect(Number(row[4])).toBeGreaterThanOrEqual(Number(best[4]));
  expect(await violations(browser)).toEqual([]);
  await browser.click('Use this for this set');
  await browser.says('for this set, until it is cleared in Plan');
  await expectOnce().toMatchObject({ quality: Number(best[1]) });
  const { bytes } = await delivered();
  expect(bytes).toBeLessThanOrEqual(60_000);
  expect(`${Math.round(bytes / 1000)} KB`).toBe(best[2]);
});

it('a newcomer sees which setting a feed takes least of, and takes that for the set', async () => {
  await call(application, 'PATCH', `/api/sets/${setId}`, { once: { [preset.id]: { px: 1600 } } });
  await browser.driver.get(`${application.url}/sets/${setId}/proof`);
  await browser.click('Through a feed');
  await browser.says(/“Feed” as it is\n.*KB\nThe feed leaves it alone, and /, 60_000);
  await browser.says('Least is lost of', 60_000);
  expect(await violations(browser)).toEqual([]);
  await choose('Feed', 'Lantern Post');
  await browser.says(
    /Least is lost of “Feed” at .*: the feed .*“Feed” as it is: the feed makes it smaller; it loses \d+ % of its fine contrast, and (?:the difference is visible|it looks poor)/,
    60_000,
  );
  const rows = await browser.driver.executeScript<string[]>(`return [...document.querySelectorAll('.row')].map((row) => row.innerText)`);
  expect(rows.map((row) => row.split('\n')[0])).toEqual([
    '“Feed” as it is',
    '“Feed” at 1440 px',
    '“Feed” at quality 95, 1440 px',
    'Version 1 of it',
  ]);
  expect(rows[0]).toMatch(/1600 × 1067, \d+ KB → 1440 × 960, \d+ KB/);
  await (await browser.find('[data-sent="“Feed” at quality 95, 1440 px"]')).click();
  const shown = await (await browser.find('rd-feed-stage img.after')).getAttribute('src');
  await browser.press('x');
  await browser.says('Before the feed');
  await browser.click('Use this for this set');
  await browser.says('until it is cleared in Plan');
  await expectOnce().toEqual({ px: 1440, quality: 95 });

  // What was seen is what the feed shows of the file that a run then makes.
  const { file } = await delivered();
  const { address } = await call<FeedsView>(application, 'GET', '/api/feeds');
  const sent = await fetch(`${address}feeds/lantern-post/pictures`, { method: 'POST', body: new Uint8Array(file) });
  const { picture } = (await sent.json()) as { picture: string };
  const [seen, there] = await Promise.all(
    [shown!, new URL(picture, address!).href].map(async (url) => Buffer.from(await (await fetch(url)).arrayBuffer())),
  );
  expect(seen!.equals(there!)).toBe(true);
});
