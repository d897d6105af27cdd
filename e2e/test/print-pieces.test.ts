import { execFileSync } from 'node:child_process';
import { copyFileSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { Delivery, HandOverView, StoredPreset } from '@rundle/core';
import { By, Key } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { violations } from '../src/accessibility';
import { Application } from '../src/application';
import { Browser } from '../src/browser';
import { Ladder } from '../src/ladder';
import { call, newSet } from '../src/new-set';

const BASE = fileURLToPath(new URL('../../demo/base/', import.meta.url));
let folder: string;
let application: Application;
let browser: Browser;
let setId: string;
const ladder = new Ladder(() => browser);

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'rundle-pieces-'));
  mkdirSync(join(folder, 'boats'));
  for (const [at, name] of ['regatta', 'quay-steps'].entries())
    copyFileSync(join(BASE, `${name}.jpg`), join(folder, 'boats', `LFS_041${at}.jpg`));
  application = await Application.start('', undefined, { RUNDLE_ROOTS: folder, RUNDLE_WRITE_ROOTS: folder });
  browser = await Browser.open();
  setId = await newSet(application, 'Boats', join(folder, 'boats'));
});
afterAll(async () => {
  await browser.close();
  await application.stop();
  rmSync(folder, { recursive: true });
});

/** Size of a file, as Debian's exiftool reads it, a reader from outside the project. */
const sizeOf = (file: string): string => execFileSync('/usr/bin/exiftool', ['-s3', '-ImageSize', file], { encoding: 'utf8' }).trim();
const named = async (title: string) =>
  (await call<StoredPreset[]>(application, 'GET', '/api/presets')).find(({ preset }) => preset.title === title)!;

/** What a preset has made, by name, with its size. */
async function made(title: string): Promise<Record<string, string>> {
  const { outputs, path } = await call<HandOverView>(application, 'GET', `/api/sets/${setId}/outputs`);
  const own = outputs.filter(({ presetTitle }) => presetTitle === title);
  return Object.fromEntries(own.map(({ folder: below, fileName }) => [fileName, sizeOf(join(path!, below, fileName))]));
}

/** Chooses a preset for the set and runs it, by its page, until so many files are out. */
async function run(title: string, files: number): Promise<void> {
  await call(application, 'PATCH', `/api/sets/${setId}`, { presetIds: [(await named(title)).id] });
  await browser.driver.get(`${application.url}/sets/${setId}/plan`);
  await browser.click('Run:');
  await browser.until(async () => Object.keys(await made(title)).length === files, 'not all were made', 120_000);
}

/** Which of its files the bench shows. */
async function lookAt(part: string): Promise<void> {
  await (await browser.find(By.xpath(`//rd-live-sample//*[@class='parts']/button[normalize-space()='${part}']`))).click();
}

async function newPreset(title: string): Promise<void> {
  await browser.driver.get(`${application.url}/presets`);
  await browser.click('Make a preset');
  await browser.says('The finished file', 60_000);
  await ladder.title(title);
}

describe('a photographer makes several files of each picture', () => {
  it('three sizes of one line, told apart by name at one press; one column that unfolds; a gallery that has them all', async () => {
    await newPreset('Sizes');
    await ladder.set('Several sizes', 'small 240, medium 480, large 960', 'small 240, medium 480, large 960');
    // Each can be looked at as it will be.
    await ladder.rung('File');
    await browser.says(/960 × 640 px/, 60_000);
    await lookAt('small');
    await browser.says(/240 × 160 px/, 60_000);
    await browser.says('pixel for pixel as in the file', 90_000);
    await browser.click('Save');
    await browser.says('Saved, version 1', 60_000);

    await call(application, 'PATCH', `/api/sets/${setId}`, { presetIds: [(await named('Sizes')).id] });
    await browser.driver.get(`${application.url}/sets/${setId}/plan`);
    await browser.says('their names do not tell them apart', 60_000);
    await browser.says('cannot be made');
    await browser.click('Add the size to the name');
    await browser.says(/6 files, about/, 60_000);
    await browser.until(async () => (await browser.all('rd-run-cell')).length === 2, 'no cell for each picture');
    await browser.click('unfold');
    await browser.until(async () => (await browser.all('rd-run-cell')).length === 6, 'no cell for each file');
    await run('Sizes', 6);
    expect(await made('Sizes')).toEqual({
      'LFS_0410_240_small.jpg': '240x160',
      'LFS_0410_480_medium.jpg': '480x320',
      'LFS_0410_960_large.jpg': '960x640',
      'LFS_0411_240_small.jpg': '160x240',
      'LFS_0411_480_medium.jpg': '320x480',
      'LFS_0411_960_large.jpg': '640x960',
    });
    await browser.driver.get(`${application.url}/sets/${setId}/hand-over`);
    await browser.says(/3 files, [\d.]+ KB/, 60_000);
    await browser.click('one by one');
    await browser.says(/480 × 320/);

    const to = join(folder, 'gallery');
    const body = { way: { kind: 'folder', path: to }, content: {}, gallery: { layout: 'grid', title: 'Boats', text: '' } };
    const { id } = await call<Delivery>(application, 'POST', `/api/sets/${setId}/deliveries`, body);
    const isDone = async () => (await call<Delivery>(application, 'GET', `/api/deliveries/${id}`)).state === 'done';
    await browser.until(isDone, 'it was not delivered', 60_000);
    const html = readFileSync(join(to, 'index.html'), 'utf8');
    const widths = [...html.matchAll(/srcset="([^"]+)"/g)].map(([, files]) => files!.replace(/\S+ (\d+w)/g, '$1'));
    expect([...new Set(widths)]).toEqual(['240w, 480w, 960w', '160w, 320w, 640w']);
  });

  it('a triptych of three panels of 8 x 10 in, seen with its lines, one of which is dragged', async () => {
    await newPreset('Triptych');
    await ladder.set('Ratio', '12:5', 'cropped to 12:5');
    await (await ladder.value('Turning the ratio')).click();
    await ladder.says('Turning the ratio', 'never turned');
    await ladder.choose('Fit', 'Height');
    await ladder.set('Resolution tag', '300', '300 ppi');
    await ladder.choose('Unit', 'in');
    await ladder.set('Edge length', '10');
    await (await ladder.value('Enlarging')).click();
    await ladder.says('Enlarging', 'enlarged where needed');
    await ladder.rung('Print');
    await ladder.set('Panels', '8 x 10 in', 'panels of 8 × 10 in');
    await browser.says('3 panels of 2400 × 3000 px', 60_000);
    await browser.press('w');
    await browser.until(async () => (await browser.all('rd-print-lines .panel')).length === 3, 'no lines over the picture', 60_000);
    const line = await browser.find('rd-print-lines button.x');
    await browser.driver.actions().move({ origin: line }).press().move({ origin: line, x: -40, y: 0 }).release().perform();
    await browser.until(async () => !(await (await ladder.value('Panels')).getText()).includes('8 × 10'), 'the line did nothing', 60_000);
    // Narrower ones do not use up the picture.
    await browser.says(/px of the width left over, half of it on either side/, 60_000);
    await ladder.set('Panels', '8 x 10 in', 'panels of 8 × 10 in');
    await lookAt('row 1, column 2');
    await browser.says(/2400 × 3000 px/, 60_000);
    await ladder.rung('Name');
    await browser.click('Add the row and the column to the name');
    await browser.click('Save');
    await browser.says('Saved, version 1', 60_000);
    await run('Triptych', 6);
    const names = ['LFS_0410', 'LFS_0411'].flatMap((name) => [1, 2, 3].map((column) => `${name}_3000_1-${column}.jpg`));
    expect(await made('Triptych')).toEqual(Object.fromEntries(names.map((name) => [name, '2400x3000'])));
  });

  it('a canvas with an inch of soft mirrored edges, where the picture ends drawn as a line that is not in the file', async () => {
    await newPreset('Canvas');
    await ladder.set('Edge length', '1200');
    await ladder.set('Resolution tag', '150', '150 ppi');
    await ladder.rung('Print');
    await ladder.set('Canvas edges', '1 in', 'Canvas edges of 1 in');
    await (await ladder.value('What fills the edges')).click();
    await browser.click('the picture mirrored, softer outwards');
    await browser.press('w');
    await browser.find('rd-print-lines .fold', 60_000);
    await browser.says(/1500 × 1100 px/, 60_000);
    await browser.click('Save');
    await browser.says('Saved, version 1', 60_000);
    await run('Canvas', 2);
    expect(Object.values(await made('Canvas'))).toEqual(['1500x1100', '1100x1500']);
  });

  it('a sheet of prints as a PDF, from what came out and from the masters, as it was seen beforehand', async () => {
    await browser.driver.get(`${application.url}/sets/${setId}/hand-over`);
    await browser.click('Sheet of prints');
    await browser.says('page 1 of 1', 60_000);
    const rows = await browser.find('input[name="rows"]');
    await rows.sendKeys(Key.chord(Key.CONTROL, 'a'), '1', Key.TAB);
    const columns = await browser.find('input[name="columns"]');
    await columns.sendKeys(Key.chord(Key.CONTROL, 'a'), '99', Key.TAB);
    // More than there can be becomes what can be, where it was typed.
    expect(await columns.getAttribute('value')).toBe('12');
    await columns.sendKeys(Key.chord(Key.CONTROL, 'a'), '1', Key.TAB);
    await browser.says('page 1 of 2');
    await browser.click('Make the PDF');
    await browser.says(/Saved: [\d.]+ (?:KB|MB)/, 60_000);
    await browser.press(Key.PAGE_DOWN);
    await browser.says('page 2 of 2');
    const saved = () => readdirSync(browser.downloads).filter((name) => name.endsWith('.pdf'));
    await browser.until(() => Promise.resolve(saved().length === 1), 'no PDF was saved', 60_000);
    const pdf = join(browser.downloads, saved()[0]!);
    expect(saved()).toEqual(['Boats.pdf']);
    expect(execFileSync('pdfinfo', [pdf], { encoding: 'utf8' })).toMatch(/Title: +Boats\n[\s\S]*Pages: +2\n[\s\S]*\(A4\)/);
    // The largest files of the preset are taken as they are.
    const images = execFileSync('pdfimages', ['-list', pdf], { encoding: 'utf8' });
    expect(images.trim().split('\n').slice(2)).toHaveLength(2);
    await browser.click('Back to Hand over');
    await browser.driver.get(`${application.url}/sets/${setId}/gather`);
    await browser.click('Print');
    await browser.says('page 1 of 2', 60_000);
    expect(await browser.find(By.css('.paper img'))).toBeDefined();
    expect(await violations(browser)).toEqual([]);
    expect(await browser.consoleErrors()).toEqual([]);
  });
});
