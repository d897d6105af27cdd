import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { By, Key } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import yauzl from 'yauzl';
import { Application, makeDemoMasters } from '../src/application';
import { Browser } from '../src/browser';

const BASE = fileURLToPath(new URL('../../demo/base/', import.meta.url));
const masters = mkdtempSync(join(tmpdir(), 'rundle-demo-'));
let application: Application;
let browser: Browser;

beforeAll(async () => {
  await makeDemoMasters(masters, 0.25);
  application = await Application.start(masters);
  browser = await Browser.open();
});
afterAll(async () => {
  await browser.close();
  expect(await application.stop()).toBe(0);
  rmSync(masters, { recursive: true });
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

const click = async (words: string) => (await browser.saying(words)).click();
const cells = async (state: string) => (await browser.all(`[data-state="${state}"]`)).length;

/** Opens a value of a preset by keyboard, types into its editor, and closes that with Enter. */
async function edit(value: string, ...keys: string[]): Promise<void> {
  await (await browser.find(By.xpath(`//rd-value//button[normalize-space()='${value}']`))).sendKeys(Key.ENTER);
  const focused = () => browser.driver.executeScript<string>('return document.activeElement.tagName');
  await browser.driver.wait(async () => (await focused()) === 'INPUT', 5000, 'no editor got the focus');
  for (const key of [...keys, Key.ENTER]) await browser.driver.actions().sendKeys(key).perform();
}

describe('a photographer', () => {
  it('finds the demo set, plans two presets, runs them and downloads the ZIP', async () => {
    await browser.driver.get(application.url);
    await click('Lantern evening at Emberquay');
    await browser.says('24 pictures');
    await browser.driver.wait(async () => (await browser.all('rd-master-card img')).length === 23, 60_000);
    expect(await browser.text()).toContain('damaged or cut off');
    await click('Plan');
    await browser.says('Which versions are wanted?');
    await click('Gallery 2048');
    await click('Blog 900');
    await browser.says('46 files, about');
    expect(await cells('planned')).toBe(46);
    expect(await cells('failed')).toBe(2);
    await (await browser.find('button.run')).click();
    await browser.says(/\d+ of 48/);
    await browser.says('46 done, 2 failed', 300_000);
    expect(await cells('done')).toBe(46);

    await click('Hand over');
    await browser.says('46 files, the newest of each');
    await click('Download the ZIP');
    const zip = join(browser.downloads, 'Lantern evening at Emberquay.zip');
    await browser.driver.wait(() => existsSync(zip), 30_000, 'the ZIP never came');
    const names = await namesIn(zip);
    expect(names.filter((name) => name.startsWith('blog/'))).toHaveLength(23);
    expect(names).toContain('gallery-2048/LFS_0412_1500.jpg');
    expect(names).toContain('blog/lantern-evening-at-emberquay-003.jpg');
    const [folder = ''] = readdirSync(join(application.data, 'outputs'));
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
    await browser.driver.wait(async () => (await browser.all('rd-master-card img')).length === 3, 30_000);
    await click('Plan');
    await click('Gallery 2048');
    await browser.says('3 files, about');
    await (await browser.find('button.run')).click();
    await browser.says('3 done', 120_000);
    // After a reload the run is still there, as it ended.
    await browser.driver.navigate().refresh();
    await browser.says('3 done');
    // One picture is taken out again.
    await click('Gather');
    await (await browser.find('rd-master-card button')).click();
    await browser.says('1 of 3 selected');
    await click('Take out');
    await (
      await browser.find(By.xpath("//div[contains(@class,'popover') or contains(@class,'popconfirm')]//button[contains(.,'Take out')]"))
    ).click();
    await browser.says('2 pictures');
  });

  it('changes a preset where its words stand, by keyboard, and saves the next version', async () => {
    await browser.driver.get(`${application.url}/presets`);
    await click('Gallery 2048');
    await browser.says('Long edge');
    expect(await browser.text()).toContain('2048 × 1365 px');
    await edit('2048', '1600');
    await browser.says('1600 × 1067 px');
    await click('never enlarged');
    await browser.says('enlarged where needed');
    await click('Save as version 2');
    await browser.says('Saved, version 2');
    // A value that is not allowed is said, and not taken.
    await edit('gallery-2048', '../outside');
    await browser.says('Expected a folder inside the target');
    expect(await browser.consoleErrors()).toEqual([]);
  });

  it('writes a watermark once, and names it in a preset', async () => {
    await browser.driver.get(`${application.url}/studio`);
    await (await browser.find('input[placeholder="A line of text"]')).sendKeys('© Lanternfold', Key.ENTER);
    await browser.says('© Lanternfold');
    await browser.driver.wait(async () => !(await browser.text()).includes('being checked'), 20_000, 'the check never ended');
    await browser.driver.get(`${application.url}/presets`);
    await click('Blog 900');
    await browser.says('No watermark');
    await click('No watermark');
    await (await browser.find(By.xpath("//nz-option-item[contains(., '© Lanternfold')]"))).click();
    await browser.says('at the bottom right');
    await edit('18 %', '30');
    await browser.says('30 % of the short edge');
    await click('Save as version 2');
    await browser.says('Saved, version 2');
    expect(await browser.consoleErrors()).toEqual([]);
  });
});
