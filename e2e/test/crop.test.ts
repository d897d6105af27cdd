import type { HandOverView, MasterPage, RunDetail, SetDetail, StoredPreset } from '@rundle/core';
import { execFileSync, spawnSync } from 'node:child_process';
import { copyFileSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { By, Key } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Application } from '../src/application';
import { Browser } from '../src/browser';
import { call, newSet } from '../src/new-set';

const BASE = fileURLToPath(new URL('../../demo/base/', import.meta.url));
const PROGRAM = fileURLToPath(new URL('../../dist/rundle.js', import.meta.url));
const PICTURES = ['regatta', 'quay-steps', 'calm-evening'];
const PRESETS = [
  { title: 'Web', size: { px: 900 }, folder: 'web' },
  { title: 'Feed', size: { px: 540, ratio: { w: 4, h: 5, turn: false } }, folder: 'feed' },
].map((preset) => ({ kind: 'rundle.preset', version: 1, ...preset }));

let folder: string;
let application: Application;
let browser: Browser;
let setId: string;
let presets: StoredPreset[];

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'rundle-crop-'));
  mkdirSync(join(folder, 'evening'));
  for (const [at, name] of PICTURES.entries()) copyFileSync(join(BASE, `${name}.jpg`), join(folder, 'evening', `LFS_041${at}.jpg`));
  application = await Application.start('', undefined, { RUNDLE_ROOTS: folder });
  browser = await Browser.open();
  setId = await newSet(application, 'Evening', join(folder, 'evening'));
  presets = [];
  for (const body of PRESETS) presets.push(await call<StoredPreset>(application, 'POST', '/api/presets', body));
  await call(application, 'PATCH', `/api/sets/${setId}`, { presetIds: presets.map(({ id }) => id) });
});
afterAll(async () => {
  await browser.close();
  await application.stop();
  rmSync(folder, { recursive: true });
});

const masters = async () => (await call<MasterPage>(application, 'GET', `/api/sets/${setId}/masters`)).masters;
const cropOf = async (at: number) => (await masters())[at]!.overrides.crop;

/** Size of a file, as Debian's exiftool reads it, a reader from outside the project. */
const sizeOf = (file: string): string => execFileSync('/usr/bin/exiftool', ['-s3', '-ImageSize', file], { encoding: 'utf8' }).trim();

async function outputs() {
  const { outputs: all, path } = await call<HandOverView>(application, 'GET', `/api/sets/${setId}/outputs`);
  return Object.fromEntries(all.map(({ folder: below, fileName }) => [`${below}/${fileName}`, join(path!, below, fileName)]));
}

describe('a photographer crops', () => {
  it('one picture by hand: a ratio, an angle, the corners and keys; it says what remains, is undone, and the same is done for others', async () => {
    await browser.driver.get(`${application.url}/sets/${setId}/gather`);
    await (await browser.find('rd-master-card')).click();
    await browser.press('a', 'c');
    await browser.says(/1,800 × 1,200 px of 1,800 × 1,200/);
    await browser.says(/Output sizes\nWeb\n900 × 600 px\nFeed\n432 × 540 px/);
    const other = await browser.find('input[aria-label^="Another ratio"]');
    await other.sendKeys('2:3', Key.ENTER);
    await browser.says(/\n800 × 1,200 px of/);
    const degrees = await browser.find('input[aria-label^="Degrees"]');
    await degrees.sendKeys(Key.chord(Key.CONTROL, 'a'), '2,5', Key.ENTER);
    await browser.until(async () => (await cropOf(0))?.angle === 2.5, 'the angle was not kept');
    await browser.says('Output sizes');
    // A turned frame of the same ratio is as large as the picture lets it be.
    const turned = (await cropOf(0))!;
    expect((turned.w * 1800) / (turned.h * 1200)).toBeCloseTo(2 / 3, 2);
    expect(turned.h).toBeLessThan(1);
    // The lower right corner is dragged inwards; the ratio stays.
    const corner = await browser.find('.grip.se');
    await browser.driver.actions().move({ origin: corner }).press().move({ origin: corner, x: -90, y: -140 }).release().perform();
    await browser.until(async () => ((await cropOf(0))?.h ?? 1) < turned.h - 0.1, 'the corner did nothing');
    const dragged = (await cropOf(0))!;
    expect((dragged.w * 1800) / (dragged.h * 1200)).toBeCloseTo(2 / 3, 2);
    await browser.press(Key.ARROW_LEFT, Key.ARROW_LEFT);
    // By a pixel each.
    const moved = async () => ((dragged.x - (await cropOf(0))!.x) * 1800) / Math.cos((2.5 * Math.PI) / 180);
    await browser.until(async () => (await moved()) > 1.5, 'the keys moved nothing');
    expect(await moved()).toBeCloseTo(2, 1);
    await browser.says(/smaller than it asks/);
    // Undone step by step, and done again by hand.
    await browser.chord(Key.CONTROL, 'z');
    await browser.chord(Key.CONTROL, 'z');
    await browser.until(async () => (await cropOf(0))!.x === dragged.x, 'nothing was undone');
    await browser.click('Remove the crop');
    await browser.until(async () => (await cropOf(0)) === null, 'it is still cropped');
    await browser.chord(Key.CONTROL, 'z');
    await browser.until(async () => (await cropOf(0)) !== null, 'the reset was not undone');
    // The same for the pictures that are selected: each keeps the ratio.
    await browser.click('Apply to the 2 selected');
    await browser.until(async () => (await cropOf(2))?.angle === 2.5, 'the others were not cropped');
    const { w, h } = (await cropOf(2))!;
    expect((w * 1800) / (h * 1200)).toBeCloseTo(2 / 3, 2);
    await browser.chord(Key.CONTROL, 'z');
    await browser.until(async () => (await cropOf(2)) === null, 'it was not undone for the others');
    await browser.press(Key.PAGE_DOWN);
    await browser.says('LFS_0411.jpg');
    await browser.press('l');
    await browser.says('Draw along the horizon');
    const stage = await browser.find('rd-crop-stage .stage');
    await browser.driver
      .actions()
      .move({ origin: stage, x: -200, y: 10 })
      .press()
      .move({ origin: stage, x: 200, y: 24 })
      .release()
      .perform();
    const level = -(Math.atan2(14, 400) * 180) / Math.PI;
    await browser.until(async () => Math.abs(((await cropOf(1))?.angle ?? 0) - level) < 0.02, 'it was not levelled');
  });

  it('a set to a ratio, by proposals that are looked over at once; files have the sizes that were seen', async () => {
    await browser.driver.get(`${application.url}/sets/${setId}/plan`);
    await browser.says(/3 crops to 4:5 proposed\./, 60_000);
    await browser.click('Look at them');
    await browser.says(/3 proposals to review/);
    // The one that is moved is placed by hand; the others are kept as they stand.
    const frame = await browser.find('rd-crop-proposals li:nth-child(2) .picture button');
    await browser.driver.actions().move({ origin: frame }).press().move({ origin: frame, x: 20, y: 0 }).release().perform();
    await browser.says(/2 proposals to review, 1 placed by hand/);
    await browser.click('Accept all 2');
    await browser.says(/No proposals left to review, 3 placed by hand/);
    const placed = async () => (await masters()).map(({ overrides }) => Object.keys(overrides.ratios).join());
    await browser.until(async () => (await placed()).join(' ') === '4:5 4:5 4:5', 'they were not kept');
    await browser.click('Back to Plan');
    await browser.says(/6 files, about/, 60_000);
    expect(await browser.text()).not.toContain('proposed');
    await (await browser.find('rd-run-dock .run')).click();
    await browser.says('6 of 6 done, all checked, no errors', 120_000);
    const made = await outputs();
    const [first] = await masters();
    const { w, h } = first!.overrides.crop!;
    const own = made[Object.keys(made).find((name) => name.startsWith('web/LFS_0410'))!]!;
    const [width, height] = sizeOf(own).split('x').map(Number);
    // Smaller than the preset asks, it keeps the pixels of the frame.
    expect([width, height]).toEqual([Math.round(w * 1800), Math.round(h * 1200)]);
    for (const name of Object.keys(made).filter((one) => one.startsWith('feed/'))) expect(sizeOf(made[name]!)).toBe('432x540');
    // Another crop makes due what it changes, and nothing else.
    const id = (await masters())[2]!.id;
    const crop = { x: 0, y: 0, w: 0.8, h: 0.9, angle: 0 };
    await call(application, 'PUT', `/api/sets/${setId}/marks`, { marks: [{ masterId: id, overrides: { crop } }] });
    const set = await call<SetDetail>(application, 'GET', `/api/sets/${setId}`);
    const run = await call<RunDetail>(application, 'POST', `/api/sets/${setId}/runs`, { presetIds: set.presetIds });
    const states = async () => (await call<RunDetail>(application, 'GET', `/api/runs/${run.id}`)).outputs.map(({ state }) => state);
    await browser.until(async () => (await call<RunDetail>(application, 'GET', `/api/runs/${run.id}`)).state === 'done', 'no end', 60_000);
    expect(await states()).toEqual(['skipped', 'skipped', 'skipped', 'skipped', 'done', 'done']);
  });

  it('and takes the decisions along as a file: the command line makes the same bytes, another set gets the same crops by one press', async () => {
    await browser.driver.get(`${application.url}/sets/${setId}/crop`);
    await browser.click('Export decisions');
    await browser.says('3 pictures in the file.');
    const inDownloads = () => readdirSync(browser.downloads).filter((name) => name.endsWith('.decisions.json'));
    await browser.until(() => Promise.resolve(inDownloads().length === 1), 'no file came');
    const file = join(browser.downloads, inDownloads()[0]!);
    const args = PRESETS.flatMap((preset, at) => {
      writeFileSync(join(folder, `${at}.preset.json`), JSON.stringify(preset));
      return ['--preset', join(folder, `${at}.preset.json`)];
    });
    const out = join(folder, 'by-hand');
    const told = spawnSync(process.execPath, [
      PROGRAM,
      'render',
      ...args,
      '--decisions',
      file,
      '--out',
      out,
      '--set',
      'Evening',
      join(folder, 'evening'),
    ]);
    expect(told.status).toBe(0);
    const made = await outputs();
    expect(Object.keys(made)).toHaveLength(6);
    for (const [name, path] of Object.entries(made)) expect(readFileSync(join(out, name)).equals(readFileSync(path)), name).toBe(true);

    const second = await newSet(application, 'Again', join(folder, 'evening'));
    await browser.driver.get(`${application.url}/sets/${second}/crop`);
    await browser.says(/1,800 × 1,200 px of/);
    await (await browser.find(By.css('input[type=file][accept=".json"]'))).sendKeys(file);
    await browser.says(/3 pictures changed by evening\.decisions\.json/);
    const crops = async (of: string) =>
      (await call<MasterPage>(application, 'GET', `/api/sets/${of}/masters`)).masters.map(({ overrides }) => overrides);
    await browser.until(async () => JSON.stringify(await crops(second)) === JSON.stringify(await crops(setId)), 'not the same crops');
    await browser.click('Undo');
    await browser.until(
      async () => (await crops(second)).every(({ crop, ratios }) => !crop && Object.keys(ratios).length === 0),
      'not undone',
    );
    writeFileSync(join(folder, 'wrong.json'), '{"kind":"rundle.decisions","version":1,"pictures":[{"sha256":"x"}]}');
    await (await browser.find(By.css('input[type=file][accept=".json"]'))).sendKeys(join(folder, 'wrong.json'));
    await browser.says(/wrong\.json: .*SHA-256/);
  });
});
