import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { HandOverView, MasterPage, SetSummary, StoredPreset } from '@rundle/core';
import { Key } from 'selenium-webdriver';
import sharp from 'sharp';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { rawFile } from '../../packages/render/test/raw-file';
import { Application } from '../src/application';
import { Browser } from '../src/browser';
import { call } from '../src/new-set';
import { SlowAnswers } from '../src/slow-answers';

let application: Application;
let browser: Browser;
const dir = mkdtempSync(join(tmpdir(), 'rundle-kinds-'));
const at = (name: string) => join(dir, name);

beforeAll(async () => {
  [application, browser] = await Promise.all([Application.start(''), Browser.open()]);
  const picture = sharp({
    create: { width: 900, height: 600, channels: 3, background: '#b86a3c', noise: { type: 'gaussian', mean: 120, sigma: 18 } },
  });
  await picture.clone().png().toFile(at('quay.png'));
  await picture.clone().jpeg({ quality: 83, chromaSubsampling: '4:2:0', progressive: true }).toFile(at('quay_900.jpg'));
  await picture.clone().toColourspace('rgb16').tiff({ compression: 'lzw', tile: true }).toFile(at('tiles.tif'));
  const run = (program: string, ...args: string[]) => execFileSync(program, args, { stdio: 'ignore' });
  run('/usr/bin/heif-enc', '-q', '80', '-o', at('phone.heic'), at('quay.png'));
  run('/usr/bin/cjxl', at('quay.png'), at('archive.jxl'), '--quiet');
  run('/usr/bin/convert-im6.q16', at('quay.png'), '-depth', '16', at('layers.psd'));
  writeFileSync(at('camera.dng'), rawFile([await sharp(at('quay.png')).jpeg().toBuffer()], [908, 604]));
});
afterAll(async () => {
  await browser?.close();
  await application?.stop();
  rmSync(dir, { recursive: true });
});

it('a newcomer brings in one file of each kind, sees what it is, and gets its web version', async () => {
  await browser.driver.get(application.url);
  await (await browser.find('#new-set')).sendKeys('Every kind', Key.ENTER);
  await browser.says('No pictures yet');
  const [set] = await call<SetSummary[]>(application, 'GET', '/api/sets');
  const { id } = set!;
  await browser.dropFiles(...['phone.heic', 'archive.jxl', 'layers.psd', 'camera.dng', 'tiles.tif'].map(at));
  const masters = async () => (await call<MasterPage>(application, 'GET', `/api/sets/${id}/masters`)).masters;
  await browser.until(
    async () => {
      const all = await masters();
      return all.length === 5 && all.every(({ state }) => state !== 'arriving');
    },
    'they were not read',
    120_000,
  );
  const kinds = (await masters()).map(({ fileName, facts }) => [fileName, facts?.format, facts?.width, facts?.height, facts?.bits]);
  expect(kinds.sort()).toEqual([
    ['archive.jxl', 'jxl', 900, 600, 8],
    ['camera.dng', 'raw', 600, 900, 8],
    ['layers.psd', 'psd', 900, 600, 16],
    ['phone.heic', 'heic', 900, 600, 8],
    ['tiles.tif', 'tiff', 900, 600, 16],
  ]);
  await browser.until(async () => (await browser.all('rd-master-card img')).length === 5, 'not all pictures are shown');
  // What the camera made is said to be that.
  await browser.click('Vet');
  await browser.says('Raw files');

  const web = (await call<StoredPreset[]>(application, 'GET', '/api/presets')).find(({ preset }) => preset.title === 'Blog column 850')!;
  await call(application, 'PATCH', `/api/sets/${id}`, { presetIds: [web.id] });
  await browser.driver.get(`${application.url}/sets/${id}/plan`);
  await browser.says('5 files, about');
  await browser.click('Run: 5 files');
  await browser.says('5 done', 120_000);
  const { outputs } = await call<HandOverView>(application, 'GET', `/api/sets/${id}/outputs`);
  expect(outputs.map(({ width, height }) => Math.max(width ?? 0, height ?? 0))).toEqual([850, 850, 850, 850, 850]);
  expect(await browser.consoleErrors()).toEqual([]);
});

it('of a file with several pages another one is chosen beside its facts', async () => {
  const { id } = await call<SetSummary>(application, 'POST', '/api/sets', { title: 'Pages' });
  const run = (...args: string[]) => execFileSync('/usr/bin/convert-im6.q16', args, { stdio: 'ignore' });
  run(at('quay.png'), '(', at('quay.png'), '-resize', '600x', ')', at('pages.tif'));
  const line = await SlowAnswers.open(application.url);
  await browser.driver.get(`${line.url}/sets/${id}/gather`);
  await browser.says('No pictures yet');
  await browser.dropFiles(at('pages.tif'));
  await browser.find('rd-master-card img');
  await (await browser.find('rd-master-card')).click();
  await browser.press(Key.ENTER);
  await browser.says('900 × 600 px');
  // Until the page has heard what the other one is, nothing is said of it, and the picture of the first is not shown as its own.
  line.hold(/\/masters/);
  const workers = application.children('dist/worker.js');
  for (const worker of workers) process.kill(worker, 'SIGSTOP');
  await (await browser.find('#page-of-file')).sendKeys(Key.ARROW_UP, Key.TAB);
  await browser.says('being read');
  expect(await browser.text()).not.toContain('900 × 600 px');
  expect(await browser.all('rd-toned-picture')).toHaveLength(0);
  line.release();
  for (const worker of workers) process.kill(worker, 'SIGCONT');
  await browser.says('600 × 400 px');
  expect(await browser.text()).not.toContain('900 × 600 px');
  expect(await browser.consoleErrors()).toEqual([]);
  // The page has gone before its line: it may still be asking what there is to vet.
  await browser.driver.get(`${application.url}/presets`);
  line.close();
});

it('a newcomer makes a preset from a file that somebody liked, sees how sure each value is, changes one, and saves it', async () => {
  await browser.driver.get(`${application.url}/presets`);
  await browser.says('Make one like a file');
  await browser.dropFiles(at('quay_900.jpg'));
  await browser.says('Found in quay_900.jpg', 60_000);
  for (const said of ['Stands in the file', 'Likely', 'Cannot be seen in a file', 'Quality 83']) await browser.says(said);
  await browser.says('left out');
  const title = await browser.find('#preset-title');
  expect(await title.getAttribute('value')).toBe('Like quay_900, 900 px');
  await browser.driver.navigate().refresh();
  await browser.says('Found in quay_900.jpg');
  await browser.click('Save');
  await browser.says('Saved, version 1');
  const all = await call<StoredPreset[]>(application, 'GET', '/api/presets');
  expect(all.find(({ preset }) => preset.title === 'Like quay_900, 900 px')?.preset).toMatchObject({
    size: { px: 900 },
    file: { type: 'jpeg', quality: 83, chroma: '4:2:0', progressive: true },
    colour: { embed: false },
    name: { parts: [{ part: 'original' }, { part: 'text', text: '_' }, { part: 'long-edge' }] },
  });
  expect(await browser.consoleErrors()).toEqual([]);
});
