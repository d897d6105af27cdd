import { spawnSync } from 'node:child_process';
import { copyFileSync, existsSync, mkdirSync, mkdtempSync, readdirSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Clearing, HandOverView, MasterPage, SetSummary, StorageView } from '@rundle/core';
import { By } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { violations } from '../src/accessibility';
import { Application } from '../src/application';
import { Browser } from '../src/browser';
import { call } from '../src/new-set';
import { copyDemoMasters } from '../src/shared-pictures';

const masters = mkdtempSync(join(tmpdir(), 'rundle-demo-'));
const own = mkdtempSync(join(tmpdir(), 'rundle-own-'));
const THREE = ['LFS_0412.jpg', 'LFS_0431.jpg', 'LFS_0456.jpg'];
let application: Application;
let browser: Browser;

beforeAll(async () => {
  await copyDemoMasters(inject('pictures'), masters);
  mkdirSync(join(own, 'From the quay'));
  for (const name of THREE) copyFileSync(join(masters, name), join(own, 'From the quay', name));
  application = await Application.start('', undefined, { RUNDLE_ROOTS: own });
  browser = await Browser.open();
});
afterAll(async () => {
  await browser.close();
  expect(await application.stop()).toBe(0);
  for (const folder of [masters, own]) rmSync(folder, { recursive: true });
});

const sets = () => call<SetSummary[]>(application, 'GET', '/api/sets');
const storage = () => call<StorageView>(application, 'GET', '/api/storage');
const downloaded = () => (existsSync(browser.downloads) ? readdirSync(browser.downloads).filter((name) => name.endsWith('.zip')) : []);
const bytesOf = (paths: string[]) => paths.reduce((sum, path) => sum + statSync(path).size, 0);

describe('three pictures', () => {
  it('opened with it from the file manager, are small and downloaded by two presses', async () => {
    const files = THREE.map((name) => join(own, 'From the quay', name));
    const opened = spawnSync(process.execPath, ['scripts/open-with.mjs', '--print', ...files], {
      encoding: 'utf8',
      env: { ...process.env, RUNDLE_DATA: application.data },
    });
    await browser.driver.get(opened.stdout.trim());
    await browser.says('3 pictures');
    await browser.click('Mail 740');
    await browser.says(/3 files: [\d.]+ MB became [\d.]+ \wB/, 120_000);
    await browser.click('Download the ZIP');
    await browser.until(() => Promise.resolve(downloaded().length === 1), 'the ZIP never came', 60_000);
    const [zip = ''] = downloaded();
    expect(bytesOf([join(browser.downloads, zip)])).toBeLessThan(bytesOf(files) / 5);
    const [set, ...others] = await sets();
    expect(others).toEqual([]);
    expect(set).toMatchObject({ title: expect.stringMatching(/^Web versions of \d+ \w+ \d{4}$/) as string, pictures: 3, outputs: 3 });
  });

  it('dropped on the page later that day, go to the same set; what is there already is not made twice', async () => {
    await browser.driver.get(`${application.url}/web-versions`);
    await browser.says('Drop pictures here');
    await browser.says(/Web versions of .*: 3 pictures/);
    await browser.dropFiles(join(own, 'From the quay', THREE[0]!));
    await browser.says('1 picture,');
    await browser.click('Phone 480');
    await browser.says(/1 file: [\d.]+ \wB became \d+ KB/, 60_000);
    expect(await violations(browser)).toEqual([]);
    const [set] = await sets();
    expect(set).toMatchObject({ pictures: 3, outputs: 4 });
  });

  it('that cannot be read say so, by name', async () => {
    await browser.driver.get(`${application.url}/web-versions`);
    await browser.says('Drop pictures here');
    await browser.dropFiles(join(masters, 'LFS_0584.jpg'));
    await browser.click('Phone 480');
    await browser.says(/damaged or cut off|cannot be/, 60_000);
    await browser.click('Back to the presets');
    await browser.says('Make web versions with');
  });
});

describe('room', () => {
  it('is told by what it is used for, and made with a question first', async () => {
    await browser.driver.get(`${application.url}/storage`);
    await browser.says(/[\d.]+ \wB in use, [\d.]+ \wB free/);
    const before = await storage();
    const gallery = before.outputs.find(({ presetTitle }) => presetTitle === 'Mail 740')!;
    expect(gallery).toMatchObject({ files: 3, versions: [1], elsewhere: { files: 0 } });
    const kind = (view: StorageView, name: string) => view.kinds.find((one) => one.kind === name)!;
    expect(kind(before, 'outputs').bytes).toBe(before.outputs.reduce((sum, { bytes }) => sum + bytes, 0));
    await (await browser.find(`button[aria-label^="Remove Mail 740 of"]`)).click();
    await browser.says(/Remove 3 files, [\d.]+ \wB, that Mail 740 made for .* They can be made again, by version 1/s);
    await browser.click('Remove 3 files');
    await browser.says(/3 files, [\d.]+ \wB, are being taken away/);
    const without = kind(before, 'outputs').bytes - gallery.bytes;
    // They are forgotten first, and go from the disk then.
    await browser.until(async () => kind(await storage(), 'outputs').bytes === without, 'the files stay');
    expect((await storage()).outputs).toHaveLength(1);
    const { outputs } = await call<HandOverView>(application, 'GET', `/api/sets/${gallery.setId}/outputs`);
    expect(outputs).toHaveLength(1);
    expect(await violations(browser)).toEqual([]);
  });

  it('of caches is kept within a bound, and emptied; a bound that is none is told at its field', async () => {
    const [set] = await sets();
    await browser.driver.get(`${application.url}/sets/${set!.id}/hand-over`);
    await browser.until(async () => (await storage()).caches.some(({ files }) => files > 0), 'nothing is in the caches');
    await browser.driver.get(`${application.url}/storage`);
    const bound = await browser.find('#bound');
    await bound.clear();
    await bound.sendKeys('7\t');
    await browser.says('A whole number from 50 to 1000000.');
    await (await browser.find(By.xpath("//td[normalize-space()='Caches']/..//button"))).click();
    await browser.says('All of it is made anew when it is wanted');
    await browser.click('Empty the caches');
    await browser.until(async () => (await storage()).caches.every(({ files }) => files === 0), 'the caches are not empty');
  });

  it('is made by clearing pictures away: the machine’s own are never touched, uploaded ones go to the bin', async () => {
    const [set] = await sets();
    const { masters: all } = await call<MasterPage>(application, 'GET', `/api/sets/${set!.id}/masters`);
    const star = all[0]!;
    // They came with the stars of their files.
    await call(application, 'PUT', `/api/sets/${set!.id}/marks`, { marks: all.map(({ id }) => ({ masterId: id, stars: 0 })) });
    await call(application, 'PUT', `/api/sets/${set!.id}/marks`, { marks: [{ masterId: star.id, stars: 5 }] });
    const clearing = await call<Clearing>(application, 'POST', `/api/sets/${set!.id}/clearing`, {
      masterIds: all.flatMap(({ id }) => (id === star.id ? [] : [id])),
    });
    // The damaged one was uploaded; the others lie on the machine.
    expect(clearing).toMatchObject({ pictures: 3, otherSets: [], uploaded: { files: 1 } });
    expect(clearing.freed).toBe(clearing.uploaded.bytes);
    expect(clearing.paths).toEqual(THREE.slice(1).map((name) => join(own, 'From the quay', name)));
    await browser.driver.get(`${application.url}/sets/${set!.id}/gather`);
    await browser.click('Clear …');
    await browser.says('those without stars, and not picked (3)');
    await browser.says('2 files of the machine are not touched: the set lets go of them.');
    await browser.click('Clear 3 pictures away');
    await browser.until(async () => (await sets())[0]!.pictures === 1, 'the pictures stay');
    expect(THREE.every((name) => existsSync(join(own, 'From the quay', name)))).toBe(true);
    await browser.driver.get(`${application.url}/storage`);
    await (await browser.find(By.xpath("//td[normalize-space()='Bin']/..//button"))).click();
    await browser.says('0 sets and 3 pictures that were removed from sets are gone for good');
    await browser.click('Delete for good');
    await browser.until(async () => (await storage()).bin.pictures === 0, 'the bin is not empty');
  });

  it('is left by a set that travels: as one open file, taken in elsewhere with its marks, its order and its presets', async () => {
    const [set] = await sets();
    await call(application, 'PATCH', `/api/sets/${set!.id}`, { title: 'From the quay' });
    const { masters: before } = await call<MasterPage>(application, 'GET', `/api/sets/${set!.id}/masters`);
    await call(application, 'PUT', `/api/sets/${set!.id}/marks`, {
      marks: [{ masterId: before[0]!.id, stars: 4, choice: 'pick', tags: ['hero'], overrides: { dropPlace: true } }],
    });
    await browser.driver.get(`${application.url}/sets`);
    await browser.click('As a file …');
    await browser.says('as a ZIP that anything can open');
    for (const [masters, along] of [
      ['with', /1 picture with its master, \d+ KB; 1 preset; decisions about 1 picture; a record of 1 file/],
      ['without', /1 picture without its master/],
    ] as const) {
      const response = await fetch(`${application.url}/api/sets/${set!.id}/set.zip?masters=${masters}`);
      const zip = join(own, `${masters}.set.zip`);
      writeFileSync(zip, Buffer.from(await response.arrayBuffer()));
      await (await browser.find('rd-take-set-in input[type=file]')).sendKeys(zip);
      await browser.says(along);
      await browser.click('Take it in');
      await browser.says('From the quay is in.', 60_000);
    }
    // Without its master it knows what is missing; brought in, it is told by its content.
    await browser.says('1 picture did not come along');
    await (await browser.find('rd-take-set-in .panel input[type=file]')).sendKeys(join(own, 'From the quay', before[0]!.fileName));
    await browser.until(
      async () => {
        const text = await browser.text();
        return text.includes('From the quay is in.') && !text.includes('did not come along');
      },
      'it stays missing',
      60_000,
    );
    const presetsBefore = await call<unknown[]>(application, 'GET', '/api/presets');
    for (const { id } of (await sets()).filter(({ title, id }) => title === 'From the quay' && id !== set!.id)) {
      const { masters: taken } = await call<MasterPage>(application, 'GET', `/api/sets/${id}/masters`);
      expect(taken).toMatchObject([
        {
          fileName: before[0]!.fileName,
          content: before[0]!.content,
          stars: 4,
          choice: 'pick',
          tags: ['hero'],
          overrides: { dropPlace: true },
        },
      ]);
      await call(application, 'PATCH', `/api/sets/${id}`, { shelf: 'bin' });
    }
    // Presets that were here already are the same ones.
    expect(await call<unknown[]>(application, 'GET', '/api/presets')).toHaveLength(presetsBefore.length);
    const zip = join(own, 'no.set.zip');
    writeFileSync(zip, 'not a ZIP');
    await (await browser.find('rd-take-set-in > input[type=file]')).sendKeys(zip);
    await browser.says('no.set.zip is no ZIP, or cut off.');
  });

  it('is made by finishing a set, which can be made again', async () => {
    const set = (await sets()).find(({ shelf }) => shelf === 'work');
    await browser.driver.get(`${application.url}/sets`);
    await browser.click('Finish …');
    await browser.says('so that one run makes all of it again');
    await browser.click('Finish the set');
    const finished = async () => (await sets()).find(({ id }) => id === set!.id)!;
    await browser.until(async () => (await finished()).outputs === 0, 'its outputs stay');
    expect((await storage()).outputs).toEqual([]);
    expect(await finished()).toMatchObject({ shelf: 'archive', pictures: 1 });
    // The record stays, with the version that made each.
    expect((await call<unknown[]>(application, 'GET', `/api/sets/${set!.id}/runs`)).length).toBe(2);
  });
});
