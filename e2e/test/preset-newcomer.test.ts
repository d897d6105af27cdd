import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { type HandOverView, type MasterPage, type Run, type StoredBundle, type StoredPreset, windowAt } from '@rundle/core';
import { Key } from 'selenium-webdriver';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { Application } from '../src/application';
import { Browser } from '../src/browser';
import { Ladder } from '../src/ladder';
import { call, newSet } from '../src/new-set';
import { copyMixedFolder } from '../src/shared-pictures';

/*
 * Somebody who has never seen the bench makes two presets on a picture of their own, gives them away, and takes them in elsewhere.
 */

const PROGRAM = fileURLToPath(new URL('../../dist/rundle.js', import.meta.url));
const roots = mkdtempSync(join(tmpdir(), 'rundle-roots-'));
const boats = join(roots, 'boats');
let application: Application;
let elsewhere: Application;
let browser: Browser;
let setId: string;

beforeAll(async () => {
  const started = Application.start('', undefined, { RUNDLE_ROOTS: roots });
  const second = Application.start('', undefined, {});
  [application, elsewhere, browser] = await Promise.all([started, second, Browser.open(), copyMixedFolder(inject('pictures'), boats)]);
  setId = await newSet(application, 'Boats', boats);
});
afterAll(async () => {
  await browser?.close();
  await Promise.all([application?.stop(), elsewhere?.stop()]);
  rmSync(roots, { recursive: true });
});

const api = <T>(method: string, path: string, body?: object) => call<T>(application, method, path, body);
const ladder = new Ladder(() => browser);
const value = (field: string) => ladder.value(field);
const saysValue = (field: string, words: string) => ladder.says(field, words);
const rung = (name: string) => ladder.rung(name);
const set = (field: string, typed: string, reads?: string) => ladder.set(field, typed, reads);
const choose = (field: string, words: string) => ladder.choose(field, words);

/** The name is what it was and a text: the last part goes, and the text is typed into its block. */
async function name(text: string): Promise<void> {
  // What is found out about the set may have moved it just when it was pressed: then it is pressed again.
  const isOpen = async () => (await browser.all('[aria-label="Remove long edge"]')).length > 0;
  const opened = async () => {
    if (!(await isOpen())) await (await value('Parts of the name')).click();
    return isOpen();
  };
  await browser.until(opened, 'the parts of the name do not open');
  await (await browser.find('[aria-label="Remove long edge"]')).click();
  const field = await browser.find('rd-name-parts input[aria-label="Text"]');
  await field.sendKeys(Key.chord(Key.CONTROL, 'a'), text);
  await browser.click('Done');
  await saysValue('Parts of the name', text);
}

/** The file that the browser has saved last under a name. */
async function saved(fileName: RegExp): Promise<string> {
  const found = () => (existsSync(browser.downloads) ? readdirSync(browser.downloads) : []).find((file) => fileName.test(file));
  await browser.until(() => Promise.resolve(found() !== undefined), `${fileName} was not saved`, 60_000);
  const path = join(browser.downloads, found()!);
  await browser.until(() => Promise.resolve(statSync(path).size > 0), 'it stayed empty');
  return path;
}

const presets = (of = application) => call<StoredPreset[]>(of, 'GET', '/api/presets');
const named = async (title: string, of = application) => (await presets(of)).find(({ preset }) => preset.title === title)!;

describe('a newcomer', () => {
  it('makes “web” and “print” on a picture of their own, by looking', async () => {
    await browser.driver.get(`${application.url}/presets`);
    await browser.click('Make a preset');
    await browser.says('The finished file', 60_000);
    await ladder.title('web');
    await set('Edge length', '1920');
    await (await value('Ceiling')).click();
    await browser.type('500 KB', Key.ENTER);
    await saysValue('Ceiling', 'at most 500 KB');
    await name('_web');
    await choose('Somebody else’s file', 'both are kept; the command line replaces it');
    // Sharpening by looking: the lens shows what it was before.
    await rung('Sharpness');
    await browser.says('Sharpened');
    await set('Amount', '1');
    await browser.click('Lens');
    await browser.find('.ring');
    await browser.click('Lens');
    // The names of three pictures stand there, and the picture itself is what will be in the file.
    await rung('Name');
    await browser.says(/web\/\S+_web\.jpg/, 60_000);
    await rung('File');
    await browser.click('Save');
    await browser.says('Saved, version 1', 60_000);

    await browser.click('Save as new');
    const field = await browser.find('#new-title');
    await field.sendKeys(Key.chord(Key.CONTROL, 'a'), 'print', Key.ENTER);
    await browser.until(async () => (await (await browser.find('#preset-title')).getAttribute('value')) === 'print', 'no new page', 60_000);
    await browser.says('Saved, version 1', 60_000);
    await set('Edge length', '4000');
    await (await value('Ceiling')).click();
    await browser.click('whatever it weighs');
    await saysValue('Ceiling', 'whatever it weighs');
    // Quality by looking at the weight: lower it, see that it is lighter, and take the other back.
    const weightOf = async () => Number(/(\d+) KB quality/.exec((await browser.text()).replace(/\s+/g, ' '))?.[1] ?? 0);
    await set('Quality', '95');
    await browser.says(/KB\s+quality 95/, 90_000);
    const heavy = await weightOf();
    await set('Quality', '80');
    await browser.says(/KB\s+quality 80/, 90_000);
    expect(await weightOf()).toBeLessThan(heavy);
    await set('Resolution tag', '240', '240 ppi');
    await (await value('Parts of the name')).click();
    const text = await browser.find('rd-name-parts input[aria-label="Text"]');
    await text.sendKeys(Key.chord(Key.CONTROL, 'a'), '_print');
    await browser.click('Done');
    await saysValue('Parts of the name', '_print');
    await set('Folder', 'print');
    await browser.click('Save as version 2');
    await browser.says('Saved, version 2', 60_000);

    expect((await named('web')).preset).toMatchObject({
      size: { fit: 'long-edge', px: 1920 },
      sharpen: { amount: 1 },
      file: { type: 'jpeg', ceiling: { bytes: 500_000 } },
      name: { parts: [{ part: 'original' }, { part: 'text', text: '_web' }] },
      folder: 'web',
      existing: 'replace',
    });
    expect((await named('print')).preset).toMatchObject({
      size: { px: 4000, ppi: 240 },
      file: { quality: 80, ceiling: null },
      name: { parts: [{ part: 'original' }, { part: 'text', text: '_print' }] },
      folder: 'print',
    });
  });

  it('sees on the bench, pixel for pixel, what the run delivers', async () => {
    const web = await named('web');
    await browser.driver.get(`${application.url}/presets/${web.id}`);
    await browser.driver.executeScript(`
      window.pictures = new Map();
      const make = URL.createObjectURL.bind(URL);
      URL.createObjectURL = (blob) => { const url = make(blob); window.pictures.set(url, blob); return url; };
    `);
    await browser.says('pixel for pixel as in the file', 90_000);
    // Another picture, so that its bytes go through the page from now on.
    const source = () => browser.driver.executeScript<string>("return document.querySelector('.frame img').src");
    const before = await source();
    await browser.press('2');
    await browser.until(async () => (await source()) !== before, 'the second picture did not come', 60_000);
    await browser.until(async () => (await (await browser.all('.thumb'))[1]!.getAttribute('aria-pressed')) === 'true', 'not chosen');
    await browser.until(
      () => browser.driver.executeScript<boolean>("return window.pictures.has(document.querySelector('.frame img')?.src)"),
      'no picture came',
      60_000,
    );
    // What is said of the picture before may stand for a moment.
    await browser.driver.sleep(2000);
    await browser.says('pixel for pixel as in the file', 90_000);
    const url = await browser.driver.executeAsyncScript<string>(`
      const done = arguments[arguments.length - 1];
      const reader = new FileReader();
      reader.onload = () => done(reader.result);
      reader.readAsDataURL(window.pictures.get(document.querySelector('.frame img').src));
    `);
    const seen = Buffer.from(url.slice(url.indexOf(',') + 1), 'base64');
    const shownName = await (await browser.all('.thumb'))[1]!.getAttribute('aria-label');
    await api('POST', `/api/sets/${setId}/runs`, { presetIds: [web.id] });
    const { masters } = await api<MasterPage>('GET', `/api/sets/${setId}/masters`);
    const master = masters.find(({ fileName }) => fileName === shownName)!;
    const output = async () =>
      (await api<HandOverView>('GET', `/api/sets/${setId}/outputs`)).outputs.find(({ masterId }) => masterId === master.id);
    await browser.until(async () => (await output()) !== undefined, 'it never came out', 180_000);
    const made = (await output())!;
    const file = Buffer.from(await (await fetch(`${application.url}/api/outputs/${made.id}/file`)).arrayBuffer());
    const { width, height } = await sharp(seen).metadata();
    const raw = (image: Buffer) => sharp(image, { ignoreIcc: true });
    const part = await raw(file)
      .extract(windowAt({ x: 0.5, y: 0.5 }, { width, height }, made))
      .removeAlpha()
      .raw()
      .toBuffer();
    expect(Buffer.compare(await raw(seen).removeAlpha().raw().toBuffer(), part)).toBe(0);
  });

  it('exports both, takes them in elsewhere, and the command line makes the same files of them', async () => {
    await browser.driver.get(`${application.url}/presets`);
    for (const title of ['web', 'print']) {
      const box = await browser.find(`input[aria-label="Select ${title}"]`);
      await browser.driver.executeScript("arguments[0].scrollIntoView({ block: 'center' })", box);
      await box.click();
    }
    await browser.says('2 presets');
    await browser.click('Export');
    const bundle = await saved(/\.bundle\.json$/);
    await browser.click('Put together');
    const field = await browser.find('#library-name');
    await field.sendKeys(Key.chord(Key.CONTROL, 'a'), 'Web and print', Key.ENTER);
    await browser.says('chosen with one press', 60_000);
    expect((await api<StoredBundle[]>('GET', '/api/bundles'))[0]).toMatchObject({ title: 'Web and print' });

    // Nothing is chosen anew while the run goes on.
    const isRunning = async () => (await api<Run[]>('GET', `/api/sets/${setId}/runs`)).some(({ state }) => state === 'running');
    await browser.until(async () => !(await isRunning()), 'the run did not end', 180_000);
    // By one press under Plan, both are columns of the run sheet.
    await browser.driver.get(`${application.url}/sets/${setId}/plan`);
    await browser.says('Web and print', 60_000);
    await browser.click('Web and print');
    await browser.until(
      async () => (await browser.all('rd-run-sheet [role=columnheader]')).length === 3,
      'the bundle chose nothing',
      30_000,
    );

    // A preset goes to its place by key, and stays there.
    await browser.driver.get(`${application.url}/presets`);
    const order = async () => (await presets()).filter(({ favourite }) => favourite).map(({ preset }) => preset.title);
    const [first, second] = await order();
    await (await browser.find(`button[aria-label^="Move ${second}"]`)).sendKeys(Key.ARROW_UP);
    await browser.until(async () => (await order())[0] === second, 'it did not move', 60_000);
    expect((await order())[1]).toBe(first);
    await browser.until(async () => (await (await browser.find('li strong')).getText()) === second, 'the page does not show it', 60_000);

    await browser.driver.get(`${elsewhere.url}/presets`);
    await browser.says('Mail 740', 60_000); // the list has come: nothing moves any more
    await browser.driver.sleep(1500);
    await browser.dropFiles(bundle);
    await browser.says('came web, print', 60_000);
    for (const title of ['web', 'print']) expect((await named(title, elsewhere)).preset).toEqual((await named(title)).preset);

    // A file that somebody has spoilt says where.
    const spoilt = join(roots, 'spoilt.preset.json');
    writeFileSync(spoilt, JSON.stringify({ kind: 'rundle.preset', version: 1, title: 'Spoilt', file: { quality: 400 } }));
    await browser.dropFiles(spoilt);
    await browser.says('Quality: a whole number from 1 to 100, not 400.', 60_000);

    const web = await named('web');
    const out = join(roots, 'out');
    const { outputs } = await api<HandOverView>('GET', `/api/sets/${setId}/outputs`);
    const mine = outputs.find(({ presetId, masterName }) => presetId === web.id && /\.jpe?g$/i.test(masterName))!;
    const file = Buffer.from(await (await fetch(`${application.url}/api/outputs/${mine.id}/file`)).arrayBuffer());
    const { status, stderr } = spawnSync(
      process.execPath,
      [PROGRAM, 'render', '--bundle', bundle, '--out', out, '--set', 'Boats', join(boats, mine.masterName)],
      { encoding: 'utf8' },
    );
    expect([status, stderr]).toEqual([0, '']);
    expect(readFileSync(join(out, mine.folder, mine.fileName)).equals(file)).toBe(true);
  });
});

describe('what was decided on the bench', () => {
  it('is kept: a focus set by dragging, a version brought back, a preset taken out of the bin, a watermark dragged to its place', async () => {
    const square = await named('Square feed 1080');
    await browser.driver.get(`${application.url}/presets/${square.id}`);
    await browser.says('The finished file', 60_000);
    const isFirst = async () => (await (await browser.find('.thumb')).getAttribute('aria-pressed')) === 'true';
    await browser.until(async () => (await browser.all('.thumb')).length > 1, 'the strip did not come', 60_000);
    await browser.until(async () => (await browser.press('1'), isFirst()), 'the first picture was not chosen', 60_000);
    await rung('Size');
    await browser.click('Crop position');
    const frame = await browser.find('rd-focus-frame button', 60_000);
    await browser.driver.actions().move({ origin: frame }).press().move({ origin: frame, x: -400, y: -300 }).release().perform();
    await browser.says('Kept for this picture', 60_000);
    const focused = async () => {
      const { masters } = await api<MasterPage>('GET', `/api/sets/${setId}/masters`);
      return masters.flatMap(({ overrides }) => overrides.focus ?? []);
    };
    await browser.until(async () => (await focused()).length === 1, 'no focus was kept');
    await browser.click('Undo');
    await browser.until(async () => (await focused()).length === 0, 'the focus was not taken back');
    await browser.says('Drag the frame');

    const print = await named('print');
    await browser.driver.get(`${application.url}/presets/${print.id}`);
    await browser.says('Saved, version 2', 60_000);
    await browser.click('Versions');
    await browser.says('Resolution tag: 72 ppi → 240 ppi', 60_000);
    await browser.click('Bring back');
    await browser.says('Saved, version 3', 60_000);
    expect((await named('print')).preset.size).toMatchObject({ px: 1920, ppi: 72 });
    await browser.click('To the bin');
    await browser.says('In the bin: 1 preset', 60_000);
    await (await browser.find('.foot summary')).click();
    await browser.click('Put back');
    await browser.until(async () => (await named('print')) !== undefined, 'it did not come back', 60_000);

    const mark = await api<{ id: string }>('POST', '/api/watermarks', { kind: 'text', title: 'Mine', text: '© Mine' });
    await browser.until(
      async () => (await api<{ state: string }[]>('GET', '/api/watermarks')).every(({ state }) => state === 'ready'),
      'the watermark was not checked',
      60_000,
    );
    const web = await named('web');
    await api('PUT', `/api/presets/${web.id}`, { ...web.preset, mark: { watermark: mark.id, place: 'bottom-right', size: 0.3 } });
    await browser.driver.get(`${application.url}/presets/${web.id}`);
    await browser.says('The finished file', 60_000);
    await rung('Mark');
    // The picture comes to what is being set.
    await browser.until(
      () =>
        browser.driver.executeScript<boolean>(
          `const [box, frame] = ['rd-mark-handle .box', '.frame'].map((css) => document.querySelector(css)?.getBoundingClientRect());
           return !!box && !!frame && box.left < frame.right && box.right > frame.left && box.top < frame.bottom && box.bottom > frame.top;`,
        ),
      'the watermark is out of sight',
      60_000,
    );
    await browser.press('w');
    await browser.driver.sleep(3000); // all of the picture comes, and the handle goes where it belongs in that
    const handle = await browser.find('rd-mark-handle .box', 60_000);
    const stage = await browser.find('.frame');
    const { width, height } = await stage.getRect();
    const grip = { origin: handle, x: 0, y: 0 };
    await browser.driver
      .actions()
      .move(grip)
      .press()
      .move({ origin: stage, x: Math.round(-width / 2) + 20, y: Math.round(-height / 2) + 20 })
      .release()
      .perform();
    await saysValue('Place of the watermark', 'at the top left');
  });
});
