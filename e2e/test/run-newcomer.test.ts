import { createHash } from 'node:crypto';
import { copyFileSync, existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { delimiter, join } from 'node:path';
import type { Run, RunDetail } from '@rundle/core';
import { By, error, Key } from 'selenium-webdriver';
import { afterAll, beforeAll, expect, inject, it } from 'vitest';
import { Application } from '../src/application';
import { Browser } from '../src/browser';
import { call, openNewSet } from '../src/new-set';
import { copyDemoMasters } from '../src/shared-pictures';

const masters = mkdtempSync(join(tmpdir(), 'rundle-run-masters-'));
const written = mkdtempSync(join(tmpdir(), 'rundle-run-written-'));
let application: Application;
let browser: Browser;

beforeAll(async () => {
  const allowed = { RUNDLE_ROOTS: masters, RUNDLE_WRITE_ROOTS: [masters, written].join(delimiter) };
  [application, browser] = await Promise.all([Application.start('', undefined, allowed), Browser.open(1024, 768)]);
  await copyDemoMasters(inject('pictures'), masters);
});
afterAll(async () => {
  await browser?.close();
  await application?.stop();
  for (const folder of [masters, written]) rmSync(folder, { recursive: true });
});

const button = (words: string) => browser.find(By.xpath(`//main//button[contains(normalize-space(.), '${words}')]`));
/** Presses a button; one that is drawn anew just then was not pressed. */
const press = async (words: string): Promise<void> => {
  for (let left = 20; ; left--)
    try {
      return await (await button(words)).click();
    } catch (thrown) {
      if (!(thrown instanceof error.StaleElementReferenceError) || left === 0) throw thrown;
    }
};
/** Chooses a preset, or no longer, out of those that are near or of all; the list of all closes after each. */
const choose = (title: string, on = true) =>
  browser.until(
    () =>
      browser.driver.executeScript<boolean>(
        `const [title, on] = arguments;
         const input = [...document.querySelectorAll('rd-preset-bar label')].find((label) => label.innerText.includes(title))?.querySelector('input');
         if (!input) [...document.querySelectorAll('rd-preset-bar button')].find((button) => button.innerText.includes('more'))?.click();
         else if (input.checked !== on) input.click();
         return input?.checked === on;`,
        title,
        on,
      ),
    `${title} is not ${on ? 'chosen' : 'left'}`,
  );
const hashes = () =>
  new Map(
    readdirSync(masters, { withFileTypes: true })
      .filter((entry) => entry.isFile())
      .map(({ name }) => [
        name,
        createHash('sha256')
          .update(readFileSync(join(masters, name)))
          .digest('hex'),
      ]),
  );
const runs = async (setId: string) => call<Run[]>(application, 'GET', `/api/sets/${setId}/runs`);

it('a newcomer sends files to a folder and beside the masters, pauses, comes back, goes on, and makes again only what has changed', async () => {
  const before = hashes();
  const setId = await openNewSet(application, browser, 'Lanterns', masters, 'plan');
  await browser.says('Which versions are wanted?');
  await choose('Gallery 2048');
  await choose('Blog column 850');
  for (const title of ['Full HD 1920', 'Gallery 1280', 'Hero 1920', 'Tablet 1024', 'Phone 480']) {
    await choose(title);
  }
  // Seven presets at 1024 x 768: six rows are in sight, and the columns scroll below a fixed first one.
  await browser.until(async () => (await browser.all('rd-run-sheet [role=columnheader]')).length === 8, 'not all are columns');
  const inSight = () =>
    browser.driver.executeScript<number>(`
      const { top, bottom } = document.querySelector('rd-run-sheet .scroll').getBoundingClientRect();
      const end = Math.min(bottom, document.querySelector('rd-run-dock').getBoundingClientRect().top);
      return [...document.querySelectorAll('rd-run-sheet .body .row')].filter((row) => {
        const box = row.getBoundingClientRect();
        return box.top >= top + 40 && box.bottom <= end;
      }).length;`);
  await browser.until(async () => (await inSight()) >= 6, 'fewer than six rows are in sight');
  for (const title of ['Full HD 1920', 'Gallery 1280', 'Hero 1920', 'Tablet 1024', 'Phone 480']) await choose(title, false);

  // Two presets go to a folder of the machine. What is in the way there is not ours.
  const delivery = join(written, 'delivery');
  mkdirSync(join(delivery, 'blog'), { recursive: true });
  const stranger = join(delivery, 'blog', 'lanterns-001.jpg');
  writeFileSync(stranger, 'somebody’s own');
  await press('own folder');
  const path = await browser.find('input[name=path]');
  await path.sendKeys('/etc', Key.ENTER);
  await browser.says('Rundle may not write to /etc');
  await press('to /etc');
  const again = await browser.find('input[name=path]');
  await again.clear();
  await again.sendKeys(delivery, Key.ENTER);
  await browser.says(/A file of somebody else is in the way: 1 picture/);
  await (await browser.find('button.run:not([disabled])')).click();
  await browser.says(/[1-9]\d* of 48/, 60_000);
  await press('Pause');
  await browser.says(/of 48(, \d failed)?, paused/);
  await browser.driver.navigate().refresh();
  await browser.says(/of 48(, \d failed)?, paused/);
  await browser.says('nothing is being done', 60_000);
  await press('Go on');
  await browser.says(/46 done, 2 failed: LFS_0584\.jpg\. The file is damaged/, 240_000);
  expect(readFileSync(stranger, 'utf8')).toBe('somebody’s own');
  expect(existsSync(join(delivery, 'blog', 'lanterns-001-2.jpg'))).toBe(true);
  expect(readdirSync(delivery).sort()).toEqual(['blog', 'gallery-2048']);

  // One value of one preset is another this once: only its files are made again, in place of the last ones.
  await (await browser.find('button[title^="Vary Gallery 2048"]')).click();
  await (await browser.find('rd-once-panel button[aria-label^="Quality"]')).click();
  const quality = await browser.find('rd-once-panel input[aria-label="Quality"]');
  await quality.sendKeys(Key.chord(Key.CONTROL, 'a'), '55', Key.ENTER);
  await browser.says('Quality: 55, not');
  await browser.press(Key.ESCAPE);
  await browser.says('23 of 46 are out of date: preset changed; replaces 23 files of today');
  await press('Run: 23 files');
  await browser.until(
    async () => {
      const all = await runs(setId);
      return all.length === 2 && all[0]!.state === 'done';
    },
    'the second run did not end',
    240_000,
  );
  const [second] = await runs(setId);
  const made = await call<RunDetail>(application, 'GET', `/api/runs/${second!.id}`);
  expect(made.outputs.flatMap(({ fileName, state, error }) => (state === 'failed' ? [[fileName, error.message]] : []))).toHaveLength(2);
  expect(second!.counts).toMatchObject({ done: 23, skipped: 23 });
  expect(second!.once).toMatchObject({ [second!.presetIds[0]!]: { values: { 'file.quality': 55 } } });
  expect(readdirSync(join(delivery, 'gallery-2048'))).toHaveLength(23);

  // Its record is copied, and compared with the first.
  await browser.click('Record');
  await browser.says('this once quality 55');
  await press('Copy as a table');
  await browser.says(/Copied as a table|does not let this page copy/);
  await (await browser.find('main select option:nth-child(2)')).click();
  await browser.says('weight, quality');

  // One preset goes beside the masters, which stay as they are.
  await browser.driver.get(`${application.url}/sets/${setId}/plan`);
  await choose('Gallery 2048', false);
  await choose('Blog column 850', false);
  await choose('Phone 480');
  await press(`to ${delivery}`);
  await (await browser.find('input[value=masters]')).click();
  await (await browser.find('input[name=folder]')).sendKeys('small', Key.ENTER);
  await browser.says('beside the masters');
  await press('Run: 23 files');
  await browser.says('23 done, 1 failed', 240_000);
  expect(readdirSync(join(masters, 'small', 'phone'))).toHaveLength(23);
  expect(hashes()).toEqual(before);
  const [third] = await runs(setId);
  const detail = await call<RunDetail>(application, 'GET', `/api/runs/${third!.id}`);
  expect(detail.outputs.filter(({ state }) => state === 'done').every(({ target }) => target === join(masters, 'small'))).toBe(true);
  expect(await browser.consoleErrors()).toEqual([]);
});

it('a newcomer has a folder watched, and finds what was put there made, without having been at the page', async () => {
  const folder = join(masters, 'incoming');
  const [there, ...dropped] = readdirSync(masters).filter((name) => name.startsWith('LFS_'));
  mkdirSync(folder);
  copyFileSync(join(masters, there!), join(folder, there!));
  await browser.driver.get(`${application.url}/standing-orders`);
  await browser.says('No folder is watched yet');
  await browser.click('Watch a folder');
  await press(masters);
  await press('incoming');
  await browser.says(folder);
  await browser.click('Watch this folder');
  const title = await browser.find('#order-title');
  await title.clear();
  await title.sendKeys('Quay gallery');
  await browser.click('Watch it from now on');
  await browser.says('Choose at least one preset.');
  await browser.click('Phone 480');
  await (await browser.find('input[name=path]')).sendKeys('/etc');
  await browser.click('Watch it from now on');
  await browser.says('Rundle may not write to /etc');
  await (await browser.find('input[name=path]')).clear();
  await (await browser.find('input[name=path]')).sendKeys(join(written, 'quay'));
  await browser.click('Watch it from now on');
  await browser.says('Nothing came today');
  for (const name of dropped.slice(0, 3)) copyFileSync(join(masters, name), join(folder, name));
  await browser.says('3 pictures today; 3 of 3 done, all checked, no errors', 120_000);
  expect(readdirSync(join(written, 'quay', 'phone'))).toHaveLength(3);
  await browser.click('What came');
  await browser.says('Left: it lay there when the order was made');
  expect((await browser.all('tbody tr')).length).toBe(4);
  await browser.click('Switch off');
  await browser.says('off: what comes waits');
  await browser.click('Change');
  await (await browser.find('#order-title')).sendKeys(' two');
  await browser.click('Keep the changes');
  await browser.says('Quay gallery two');
  await browser.click('3 pictures today');
  await browser.says('of masters became');
  await browser.says(/Quay gallery \d/);
  // The browser notes the refusal of /etc by itself.
  expect((await browser.consoleErrors()).filter((line) => !line.includes('403'))).toEqual([]);
});
