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
    // One picture is taken out, put back and taken out again.
    await click('Gather');
    await (await browser.find('rd-master-card')).click();
    await browser.says('1 of 3 selected');
    await click('Take out');
    await browser.says('2 pictures');
    await click('Undo');
    await browser.says('3 pictures');
    await click('Redo');
    await browser.says('2 pictures');
  });

  it('brings in a mixed lot over a line that breaks, and is asked about what is there already', async () => {
    await browser.driver.get(`${application.url}/sets`);
    await (await browser.find('#new-set')).sendKeys('Mixed lot', Key.ENTER);
    await browser.says('No pictures yet');
    const names = ['calm-evening', 'fog-lamps', 'jetty-planks', 'regatta', 'quay-steps', 'yellow-sail'].map((name) => `${name}.jpg`);
    await browser.line({ uploadThroughput: 400_000 });
    await (await browser.find('input[type=file]')).sendKeys(names.map((name) => join(BASE, name)).join('\n'));
    await browser.says(/[01] of 6 files/);
    await browser.driver.sleep(1200);
    await browser.line({ offline: true });
    await browser.driver.sleep(1500);
    await browser.line({});
    await browser.driver.wait(async () => (await browser.all('rd-master-card img')).length === 6, 60_000, 'not all came in');
    // The same file once more, under its own name: asked about, and left.
    await (await browser.find('input[type=file]')).sendKeys(join(BASE, 'regatta.jpg'));
    await browser.says('1 file is in the set already: regatta.jpg');
    await click('Leave them');
    await browser.says('6 pictures');
    const stored = execFileSync('sha256sum', [join(BASE, 'quay-steps.jpg')], { encoding: 'utf8' }).slice(0, 64);
    expect(existsSync(join(application.data, 'masters', stored.slice(0, 2), stored))).toBe(true);
    await browser.consoleErrors(); // the broken line left its own there
  });

  it('rates, tags, picks and reorders by keyboard, and another page sees the same', async () => {
    const press = (...keys: string[]) =>
      browser.driver
        .actions()
        .sendKeys(...keys)
        .perform();
    const shown = async () =>
      browser.driver.executeScript<string[]>(
        "return [...document.querySelectorAll('rd-master-card .name')].map((name) => name.textContent)",
      );
    const first = await shown();
    await (await browser.find('rd-master-card')).click();
    await press('5', '+');
    await press(Key.ARROW_RIGHT, 't');
    await press('hero', Key.ENTER);
    await browser.says('hero');
    await press(Key.ARROW_RIGHT, '-');
    await browser.driver.actions().keyDown(Key.ALT).sendKeys(Key.ARROW_LEFT).keyUp(Key.ALT).perform();
    const moved = [first[0], first[2], first[1], ...first.slice(3)];
    await browser.driver.wait(async () => (await shown()).join() === moved.join(), 5000, 'the picture was not carried back');
    await press(Key.ESCAPE, 'a');
    await browser.says('6 of 6 selected');
    await press('3');
    await browser.driver.actions().keyDown(Key.CONTROL).sendKeys('z').keyUp(Key.CONTROL).perform();
    const stars = (label: string) => browser.all(`rd-master-card [aria-label="${label}"]`);
    await browser.driver.wait(async () => (await stars('3 of 5 stars')).length === 0, 5000, 'the stars were not undone');
    expect(await stars('5 of 5 stars')).toHaveLength(1);
    // What another page sees, and what the server keeps.
    const here = await browser.driver.getWindowHandle();
    const address = await browser.driver.getCurrentUrl();
    await browser.driver.switchTo().newWindow('tab');
    await browser.driver.get(address);
    await browser.driver.wait(async () => (await shown()).length === 6, 10_000);
    expect((await shown())[1]).toBe(first[2]);
    await browser.says('left out');
    await browser.says('picked');
    await (await browser.find('rd-master-card')).click();
    await press('2');
    await browser.driver.switchTo().window(here);
    await browser.driver.wait(async () => (await stars('2 of 5 stars')).length === 1, 5000, 'the other page was not told');
    // Only some of them are shown, and the filter is kept.
    await (await browser.find('input[type=search]')).sendKeys('hero');
    await browser.driver.wait(async () => (await shown()).length === 1, 5000);
    await browser.driver.sleep(300);
    await browser.driver.navigate().refresh();
    await browser.driver.wait(async () => (await shown()).length === 1, 10_000, 'the filter was forgotten');
    await click('Show all');
    await browser.driver.wait(async () => (await shown()).length === 6, 5000);
    await (await browser.find('rd-master-card')).click();
    await press(Key.ENTER);
    await browser.says('by its tables');
    await press(Key.ESCAPE);
  });

  it('vets the set for its presets, mends what is wrong, and can take that back', async () => {
    await click('Plan');
    await click('Proof print');
    await browser.says(/file/);
    await click('Vet');
    await browser.says('Smaller than “Proof print 4000” asks');
    const group = (code: string) => browser.all(`[data-code="${code}"]`);
    await (await browser.find('[data-code="too-small"] button.ant-btn-primary')).click();
    await browser.driver.wait(async () => (await group('too-small')).length === 0, 10_000, 'the remedy did nothing');
    await click('Undo');
    await browser.driver.wait(async () => (await group('too-small')).length === 1, 10_000, 'the remedy was not undone');
    await browser.find('.js-plotly-plot .scatterlayer .point');
    await (await browser.find('[data-code="too-small"]')).findElement(By.xpath(".//button[contains(.,'Show in Gather')]")).click();
    await browser.says('– 5 shown');
    // The receiver's house rules are chosen under Vet and told in the run sheet.
    await click('Vet');
    await (await browser.find('nz-select')).click();
    await (await browser.find(By.xpath("//nz-option-item[contains(., 'Regatta Club')]"))).click();
    await click('Plan');
    await browser.says('Regatta Club takes 1200 px at most');
    expect(await browser.consoleErrors()).toEqual([]);
  });

  it('duplicates a set, puts it into the bin and back', async () => {
    await browser.driver.get(`${application.url}/sets`);
    const row = (title: string, words: string) =>
      browser.find(By.xpath(`//li[.//strong[normalize-space()='${title}']]//button[normalize-space()='${words}']`));
    await (await row('Mixed lot', 'Duplicate')).click();
    await (await row('Mixed lot (2)', 'Bin')).click();
    await browser.says('Bin 1');
    await click('Bin 1');
    await (await row('Mixed lot (2)', 'Put back')).click();
    await browser.says('Bin 0');
    await browser.says('The bin is empty');
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
