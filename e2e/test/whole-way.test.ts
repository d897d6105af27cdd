import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, rmSync, statSync } from 'node:fs';
import { copyFile, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { SetDetail, StoredPreset } from '@rundle/core';
import { By, Key } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import yauzl from 'yauzl';
import { Application } from '../src/application';
import { Browser } from '../src/browser';
import { call, newSet, openNewSet } from '../src/new-set';
import { SlowLine } from '../src/slow-line';
import { copyDemoMasters } from '../src/shared-pictures';

const BASE = fileURLToPath(new URL('../../demo/base/', import.meta.url));
const masters = mkdtempSync(join(tmpdir(), 'rundle-demo-'));
/** A folder of the machine with six pictures. */
const roots = mkdtempSync(join(tmpdir(), 'rundle-roots-'));
const LOT = ['calm-evening', 'fog-lamps', 'jetty-planks', 'regatta', 'quay-steps', 'yellow-sail'].map((name) => `${name}.jpg`);
let application: Application;
let browser: Browser;

beforeAll(async () => {
  await copyDemoMasters(inject('pictures'), masters);
  for (const name of LOT) await copyFile(join(BASE, name), join(roots, name));
  application = await Application.start(masters, undefined, { RUNDLE_ROOTS: roots });
  browser = await Browser.open();
});
afterAll(async () => {
  await browser.close();
  expect(await application.stop()).toBe(0);
  for (const folder of [masters, roots]) rmSync(folder, { recursive: true });
});

/** Names in a ZIP file, from its central directory. */
function namesIn(path: string): Promise<string[]> {
  return new Promise((resolve, reject) => {
    yauzl.open(path, { lazyEntries: false }, (error, zip) => {
      if (error) return reject(error);
      const names: string[] = [];
      zip.on('entry', ({ fileName }: { fileName: string }) => names.push(fileName));
      zip.once('end', () => resolve(names));
    });
  });
}

/** How many cells of the run sheet are in a state. Rows far out of sight do not exist, so it is read at its top and at its end. */
async function cells(state: string): Promise<number> {
  const spots = await browser.driver.executeAsyncScript<string[]>(
    `const [state, done] = arguments;
    const sheet = document.querySelector('rd-run-sheet .scroll');
    const spots = () => [...sheet.querySelectorAll(\`[data-state="\${state}"]\`)].map((cell) => cell.closest('[data-spot]').dataset.spot);
    const afterFrames = (next) => requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(next, 50)));
    sheet.scrollTop = 0;
    afterFrames(() => {
      const atTop = spots();
      sheet.scrollTop = sheet.scrollHeight;
      afterFrames(() => done([...atTop, ...spots()]));
    });`,
    state,
  );
  return new Set(spots).size;
}

/** Opens a value of a preset by keyboard, types into its editor, and closes that with Enter. */
async function edit(value: string, ...keys: string[]): Promise<void> {
  await (await browser.find(By.xpath(`//rd-value//button[normalize-space()='${value}']`))).sendKeys(Key.ENTER);
  await browser.type(...keys, Key.ENTER);
}

/** A copy of a preset, so that no test finds it as another has left it. */
async function ownPreset(title: string, of: string): Promise<void> {
  const presets = await call<StoredPreset[]>(application, 'GET', '/api/presets');
  await call(application, 'POST', '/api/presets', { ...presets.find(({ preset }) => preset.title === of)!.preset, title });
}

describe('a photographer', () => {
  it('finds the demo set, plans two presets, runs them and downloads the ZIP', async () => {
    await browser.driver.get(application.url);
    await browser.click('Lantern evening at Emberquay');
    await browser.says('24 pictures');
    await browser.until(async () => (await browser.all('rd-master-card img')).length === 23, 'not so many pictures are shown', 60_000);
    await browser.says('damaged or cut off');
    await browser.click('Plan');
    await browser.says('Which versions are wanted?');
    await browser.click('Gallery 2048');
    await browser.click('Blog column 850');
    await browser.says('46 files, about');
    await browser.until(
      async () => (await cells('planned')) === 46 && (await cells('failed')) === 2,
      'the run sheet does not show what will come out',
    );
    await (await browser.find('button.run')).click();
    await browser.says(/\d+ of 48/);
    await browser.says('46 done, 2 failed', 300_000);
    await browser.until(async () => (await cells('made')) === 46, 'the run sheet does not say so');

    await browser.click('Hand over');
    await browser.says(/46 files, [\d.]+ MB from [\d.]+ MB, all re-opened and checked/);
    await browser.says('2 failed');
    await browser.click('Download the ZIP');
    const zip = join(browser.downloads, 'Lantern evening at Emberquay.zip');
    await browser.until(() => Promise.resolve(existsSync(zip)), 'the ZIP never came', 60_000);
    const names = await namesIn(zip);
    expect(names.filter((name) => name.startsWith('blog/'))).toHaveLength(23);
    expect(names).toContain('gallery-2048/LFS_0412_1500.jpg');
    expect(names).toContain('blog/lantern-evening-at-emberquay-003.jpg');
    const folder = readdirSync(join(application.data, 'outputs')).find((name) => !name.startsWith('.')) ?? '';
    const file = join(application.data, 'outputs', folder, 'gallery-2048', 'LFS_0456_1500.jpg');
    const said = execFileSync('/usr/bin/exiftool', ['-s3', '-By-line', '-ProfileDescription', '-ImageSize', file], { encoding: 'utf8' });
    expect(said.trim().split('\n')).toEqual(['Orla Vessby', 'sRGB', '1500x1000']); // this master had no credit: the studio’s
  });

  it('makes a set of their own with three pictures, and a text that is none', async () => {
    await browser.driver.get(`${application.url}/sets`);
    await (await browser.find('#new-set')).sendKeys('My own <b>set</b>', Key.ENTER);
    await browser.says('No pictures yet');
    const note = join(masters, 'not a picture.jpg');
    await writeFile(note, 'words');
    const files = ['workbench.jpg', 'regatta.jpg', 'masthead.jpg'].map((name) => join(BASE, name));
    await (await browser.find('input[type=file]')).sendKeys([...files, note].join('\n'));
    await browser.says('1 file did not come in');
    await browser.until(async () => (await browser.all('rd-master-card img')).length === 3, 'not so many pictures are shown', 60_000);
    await browser.click('Plan');
    await browser.click('Gallery 2048');
    await browser.says('3 files, about');
    await (await browser.find('button.run')).click();
    await browser.says('3 done', 120_000);
    // After a reload the run is still there, as it ended.
    await browser.driver.navigate().refresh();
    await browser.says('3 done');
    // One picture is taken out, put back and taken out again.
    await browser.click('Gather');
    await (await browser.find('rd-master-card')).click();
    await browser.says('1 of 3 selected');
    await browser.click('Remove');
    await browser.says('2 pictures');
    await browser.click('Undo');
    await browser.says('3 pictures');
    await browser.click('Redo');
    await browser.says('2 pictures');
  });

  it('goes on with a file whose tab was closed, and whose server was killed', async () => {
    const line = await SlowLine.open(application.url, 400_000);
    await browser.driver.get(`${line.url}/sets`);
    await (await browser.find('#new-set')).sendKeys('Broken off', Key.ENTER);
    await browser.says('No pictures yet');
    const address = await browser.driver.getCurrentUrl();
    const file = join(masters, 'workbench, retouched.tif');
    const incoming = () => readdirSync(join(application.data, 'incoming')).filter((name) => !name.endsWith('.json'));
    const arrived = () => statSync(join(application.data, 'incoming', incoming()[0]!)).size;
    await (await browser.find('input[type=file]')).sendKeys(file);
    await browser.until(() => Promise.resolve(incoming().length === 1 && arrived() > 400_000), 'nothing arrives', 20_000);
    const [closed, [begun]] = [await browser.driver.getWindowHandle(), incoming()];
    await browser.driver.switchTo().newWindow('tab');
    const opened = await browser.driver.getWindowHandle();
    await browser.driver.switchTo().window(closed);
    await browser.driver.close();
    await browser.driver.switchTo().window(opened);
    await browser.resize(1280, 800);
    await browser.driver.get(address);
    await browser.says('No pictures yet');
    const before = arrived();
    await (await browser.find('input[type=file]')).sendKeys(file);
    await browser.until(() => Promise.resolve(arrived() > before), 'it did not go on', 20_000);
    const [server] = application.children('dist/server.js');
    process.kill(server!, 'SIGKILL');
    await browser.until(
      () => Promise.resolve(application.children('dist/server.js').some((pid) => pid !== server)),
      'no new server',
      20_000,
    );
    expect(incoming()).toEqual([begun]); // the one that was begun first, gone on with twice
    await browser.until(async () => (await browser.all('rd-master-card img')).length === 1, 'it never came in', 60_000);
    line.close();
    await browser.consoleErrors(); // the killed server left its own there
  });

  it('brings in a mixed lot over a line that breaks, and is asked about what is there already', async () => {
    const line = await SlowLine.open(application.url, 200_000);
    await browser.driver.get(`${line.url}/sets`);
    await (await browser.find('#new-set')).sendKeys('Mixed lot', Key.ENTER);
    await browser.says('No pictures yet');
    await (await browser.find('input[type=file]')).sendKeys(LOT.map((name) => join(BASE, name)).join('\n'));
    await browser.says(/[1-5] of 6 files/);
    await line.breaks(1500);
    expect(await browser.text()).toMatch(/[1-5] of 6 files/);
    await browser.until(async () => (await browser.all('rd-master-card img')).length === 6, 'not all came in', 60_000);
    // The same file once more, under its own name: asked about, and left.
    await (await browser.find('input[type=file]')).sendKeys(join(BASE, 'regatta.jpg'));
    await browser.says('1 file is in the set already: regatta.jpg');
    await browser.click('Leave them');
    await browser.says('6 pictures');
    await browser.driver.get((await browser.driver.getCurrentUrl()).replace(line.url, application.url));
    line.close();
    const stored = execFileSync('sha256sum', [join(BASE, 'quay-steps.jpg')], { encoding: 'utf8' }).slice(0, 64);
    expect(existsSync(join(application.data, 'masters', stored.slice(0, 2), stored))).toBe(true);
    await browser.consoleErrors(); // the broken line left its own there
  });

  it('rates, tags, picks and reorders by keyboard, and another page sees the same', async () => {
    await openNewSet(application, browser, 'By keyboard', roots);
    await browser.until(async () => (await browser.names()).length === 6, 'not so many pictures are shown');
    const first = await browser.names();
    await (await browser.find('rd-master-card')).click();
    await browser.press('5', '+');
    await browser.press(Key.ARROW_RIGHT, 't');
    await browser.type('hero', Key.ENTER);
    await browser.says('hero');
    await browser.press(Key.ARROW_RIGHT, '-');
    await browser.chord(Key.ALT, Key.ARROW_LEFT);
    const moved = [first[0], first[2], first[1], ...first.slice(3)];
    await browser.until(async () => (await browser.names()).join() === moved.join(), 'the picture was not carried back');
    await browser.press(Key.ESCAPE, 'a');
    await browser.says('6 of 6 selected');
    await browser.press('3');
    await browser.chord(Key.CONTROL, 'z');
    const stars = (label: string) => browser.all(`rd-master-card [aria-label="${label}"]`);
    await browser.until(async () => (await stars('3 of 5 stars')).length === 0, 'the stars were not undone');
    await browser.until(async () => (await stars('5 of 5 stars')).length === 1, 'the stars were not undone to what they were');
    // What another page sees, and what the server keeps.
    const here = await browser.driver.getWindowHandle();
    const address = await browser.driver.getCurrentUrl();
    await browser.driver.switchTo().newWindow('tab');
    await browser.driver.get(address);
    await browser.until(async () => (await browser.names()).join() === moved.join(), 'the other page has another order');
    await browser.says('left out');
    await browser.says('picked');
    await (await browser.find('rd-master-card')).click();
    await browser.press('2');
    await browser.driver.switchTo().window(here);
    await browser.until(async () => (await stars('2 of 5 stars')).length === 1, 'the other page was not told');
    // Only some of them are shown, and the filter is kept.
    await (await browser.find('input[type=search]')).sendKeys('hero');
    await browser.until(async () => (await browser.names()).length === 1, 'not so many pictures are shown');
    const setId = /sets\/([^/]+)/.exec(address)?.[1];
    const kept = async () => ((await (await fetch(`${application.url}/api/sets/${setId}`)).json()) as SetDetail).filter.text;
    await browser.until(async () => (await kept()) === 'hero', 'the filter was not kept');
    await browser.driver.navigate().refresh();
    await browser.until(async () => (await browser.names()).length === 1, 'the filter was forgotten');
    await browser.click('Show all');
    await browser.until(async () => (await browser.names()).length === 6, 'not so many pictures are shown');
    await (await browser.find('rd-master-card')).click();
    await browser.press(Key.ENTER);
    await browser.says('by its tables');
    await browser.press(Key.ESCAPE);
  });

  it('vets the set for its presets, mends what is wrong, and can take that back', async () => {
    await openNewSet(application, browser, 'Mended', roots, 'plan');
    await browser.click('Print copy');
    await browser.says(/file/);
    await browser.click('Vet');
    await browser.says('Smaller than “Print copy 4000” asks');
    const group = (code: string) => browser.all(`[data-code="${code}"]`);
    await (await browser.find('[data-code="smaller-than-asked"] button.ant-btn-primary')).click();
    await browser.until(async () => (await group('smaller-than-asked')).length === 0, 'the remedy did nothing');
    await browser.click('Undo');
    await browser.until(async () => (await group('smaller-than-asked')).length === 1, 'the remedy was not undone');
    await browser.find('.js-plotly-plot .scatterlayer .point');
    await (await browser.find('[data-code="smaller-than-asked"]')).findElement(By.xpath(".//button[contains(.,'Show in Gather')]")).click();
    await browser.says('– 6 shown');
    // The receiver's house rules are chosen under Vet and told in the run sheet.
    await browser.click('Vet');
    await (await browser.find('nz-select')).click();
    await (await browser.find(By.xpath("//nz-option-item[contains(., 'Regatta Club')]"))).click();
    await browser.click('Plan');
    // Told once above the sheet, by kind; in full of the cell that has the focus.
    await browser.says(/Longer than the receiver takes: \d pictures?/);
    await (await browser.find('rd-run-sheet [role=gridcell]')).click();
    await browser.says('Regatta Club takes 1200 px at most');
    expect(await browser.consoleErrors()).toEqual([]);
  });

  it('duplicates a set, puts it into the bin and back', async () => {
    await newSet(application, 'Harbour', roots);
    await browser.driver.get(`${application.url}/sets`);
    const row = (title: string, words: string) =>
      browser.find(By.xpath(`//li[.//strong[normalize-space()='${title}']]//button[normalize-space()='${words}']`));
    await (await row('Harbour', 'Duplicate')).click();
    await (await row('Harbour (2)', 'Bin')).click();
    await browser.says('Bin 1');
    await browser.click('Bin 1');
    await (await row('Harbour (2)', 'Restore')).click();
    await browser.says('Bin 0');
    await browser.says('The bin is empty');
  });

  it('changes a preset where its words stand, by keyboard, and saves the next version', async () => {
    await ownPreset('Own gallery', 'Gallery 2048');
    await browser.driver.get(`${application.url}/presets`);
    await browser.click('Own gallery');
    await browser.says('Long edge 2048 px');
    await edit('2048', '1600');
    await browser.says('Long edge 1600 px');
    await browser.click('never enlarged');
    await browser.says('enlarged where needed');
    await browser.click('Save as version 2');
    await browser.says('Saved, version 2');
    // A value that is not allowed is said, and not taken.
    await edit('gallery-2048', '../outside');
    await browser.says('Folder: a folder inside the target');
    expect(await browser.consoleErrors()).toEqual([]);
  });

  it('writes a watermark once, and names it in a preset', async () => {
    await browser.driver.get(`${application.url}/watermarks`);
    await (await browser.find('input[aria-label="Text of a new watermark"]')).sendKeys('© Lanternfold', Key.ENTER);
    await browser.says('In no preset yet');
    await browser.until(async () => !(await browser.text()).includes('being checked'), 'the check never ended', 20_000);
    await ownPreset('Own blog', 'Blog column 850');
    await browser.driver.get(`${application.url}/presets`);
    await browser.click('Own blog');
    await browser.says('No watermark');
    await browser.click('No watermark');
    await (await browser.find(By.xpath("//nz-option-item[contains(., '© Lanternfold')]"))).click();
    await browser.says('at the bottom right');
    await edit('18 %', '30');
    await browser.says('30 % of the short edge');
    await browser.click('Save as version 2');
    await browser.says('Saved, version 2');
    expect(await browser.consoleErrors()).toEqual([]);
  });
});
