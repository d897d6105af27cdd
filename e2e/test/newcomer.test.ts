import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { By, Key } from 'selenium-webdriver';
import { afterAll, beforeAll, expect, inject, it } from 'vitest';
import { Application } from '../src/application';
import { Browser } from '../src/browser';
import { SlowLine } from '../src/slow-line';
import { copyMixedFolder } from '../src/shared-pictures';

const folder = mkdtempSync(join(tmpdir(), 'rundle-mixed-'));
let application: Application;
let browser: Browser;

beforeAll(async () => {
  [application, browser] = await Promise.all([Application.start(''), Browser.open(), copyMixedFolder(inject('pictures'), folder)]);
});
afterAll(async () => {
  await browser?.close();
  await application?.stop();
  rmSync(folder, { recursive: true });
});

const group = (code: string) => browser.all(`[data-code="${code}"]`);
const mend = async (code: string) => {
  await (await browser.find(`[data-code="${code}"] button.ant-btn-primary`)).click();
  await browser.until(async () => (await group(code)).length === 0, `the remedy for ${code} did nothing`);
};
it('a newcomer drops a folder of 60 mixed pictures, mends, rates, tags and reorders them, and plans two presets, one for the tagged', async () => {
  const line = await SlowLine.open(application.url, 2_000_000);
  await browser.driver.get(line.url);
  await (await browser.find('#new-set')).sendKeys('First delivery', Key.ENTER);
  await browser.says('No pictures yet');

  // The folder comes in over a line that is slow and breaks for a while.
  await browser.dropFiles(folder);
  await browser.says('6 files lie in sub-folders.');
  const partly = /\b([1-9]|[1-4]\d|5[0-4]) of 55 files/;
  await browser.says(partly);
  await line.breaks(1500);
  expect(await browser.text()).toMatch(partly);
  await browser.click('Bring them in too');
  await browser.says('60 pictures', 120_000);
  await browser.says('1 file did not come in');
  expect(await browser.text()).toContain('read me.txt');
  await browser.click('Put away');
  await browser.until(async () => !(await browser.text()).includes('being read'), 'not all pictures were read', 120_000);
  await browser.consoleErrors(); // the broken line left its own there

  // What is wrong with them is told, and mended from where it stands.
  await browser.click('Vet');
  await browser.says('Cannot be read');
  for (const code of ['unreadable', 'no-profile', 'already-compressed']) await mend(code);
  // Rights can be filled in once the studio has a name.
  await browser.click('Write down your name under Studio');
  await browser.says('Longest side at most');
  await (await browser.find('#creator')).sendKeys('Orla Vessby', Key.TAB);
  await browser.click('Save');
  await browser.says('Saved');
  await browser.driver.navigate().back();
  await browser.saying('Fill in the studio’s details');
  await mend('rights-missing');
  expect(await group('mislabelled')).toHaveLength(1);

  // Stars, tags and order by keyboard.
  await browser.click('Gather');
  const [first = '', second = '', third = ''] = await browser.names();
  expect([first, second]).toEqual(['boats 1.jpg', 'boats 2.jpg']);
  await (await browser.find('rd-master-card')).click();
  await browser.press('5', Key.ARROW_RIGHT, '4');
  await browser.chord(Key.SHIFT, Key.ARROW_RIGHT);
  await browser.says('2 of 60 selected');
  await browser.press('t');
  await browser.type('hero', Key.ENTER);
  await browser.says('hero');
  await browser.press(Key.ESCAPE);
  await (await browser.find('rd-master-card')).click();
  await browser.chord(Key.ALT, Key.ARROW_RIGHT);
  await browser.until(
    async () => (await browser.names()).slice(0, 3).join() === [second, first, third].join(),
    'the picture was not carried on',
  );

  // A preset of their own that only takes the tagged.
  await browser.click('Presets');
  await browser.click('Make a preset');
  await browser.says('For all pictures, whatever their stars');
  await (await browser.find(By.xpath("//rd-value//button[normalize-space()='all pictures']"))).click();
  await browser.type('hero', Key.ENTER);
  await browser.says('For pictures tagged hero');
  const title = await browser.find('#preset-title');
  await title.clear();
  await title.sendKeys('Heroes', Key.TAB);
  await browser.click('Save');
  await browser.says('Saved, version 1');

  // Two presets over the set: all that is left, and the two heroes.
  await browser.click('Sets');
  await browser.click('First delivery');
  await browser.click('Plan');
  await browser.click('Blog column 850');
  await browser.says(/5\d files, about/);
  await browser.click('only tagged hero');
  await browser.says('2 files, about');
  // Only the rows in sight exist; keys lead to the last of them.
  const grid = await browser.find('rd-run-sheet [role=grid]');
  expect(await grid.getAttribute('aria-rowcount')).toBe('61');
  await (await browser.find('rd-run-sheet [role=gridcell]')).click();
  await browser.chord(Key.CONTROL, Key.END);
  await browser.find('rd-run-sheet [aria-rowindex="61"]');
  expect((await browser.all('rd-run-sheet [role=row]')).length).toBeLessThan(60);
  expect(await browser.consoleErrors()).toEqual([]);
});
