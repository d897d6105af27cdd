import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { type HandOverView, type MasterPage, type Rectangle, type StoredPreset, windowAt } from '@rundle/core';
import { By, Key } from 'selenium-webdriver';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { Application } from '../src/application';
import { Browser } from '../src/browser';
import { call, newSet } from '../src/new-set';
import { copyMixedFolder } from '../src/shared-pictures';

/*
 * The preset bench: a preset is set beside a picture of one's own, which is what a run delivers.
 */

const roots = mkdtempSync(join(tmpdir(), 'rundle-roots-'));
let application: Application;
let browser: Browser;
let setId: string;

beforeAll(async () => {
  const started = Application.start('', undefined, { RUNDLE_ROOTS: roots });
  [application, browser] = await Promise.all([started, Browser.open(), copyMixedFolder(inject('pictures'), join(roots, 'boats'))]);
  setId = await newSet(application, 'On the bench', join(roots, 'boats'));
});
afterAll(async () => {
  await browser?.close();
  await application?.stop();
  rmSync(roots, { recursive: true });
});

const api = <T>(method: string, path: string, body?: object) => call<T>(application, method, path, body);
const TRUE = 'pixel for pixel as in the file';

async function openPreset(title: string): Promise<StoredPreset> {
  const preset = (await api<StoredPreset[]>('GET', '/api/presets')).find((one) => one.preset.title === title)!;
  await browser.driver.get(`${application.url}/presets/${preset.id}`);
  await browser.says('Long edge');
  // The page's policy lets nobody read a picture by its address: its bytes are kept as they come.
  await browser.driver.executeScript(`
    window.pictures = new Map();
    const make = URL.createObjectURL.bind(URL);
    URL.createObjectURL = (blob) => { const url = make(blob); window.pictures.set(url, blob); return url; };
  `);
  return preset;
}

/** The picture on the bench once no other takes its place: an editor that opens gives it another room. */
async function settled(): ReturnType<typeof seen> {
  for (let last = await seen(); ;) {
    await wait(1000);
    const now = await seen();
    if (now.bytes.equals(last.bytes)) return now;
    last = now;
  }
}

/** The picture on the bench, as the page has got it. */
async function seen(): Promise<{ bytes: Buffer; width: number; height: number }> {
  const url = await browser.driver.executeAsyncScript<string>(`
    const done = arguments[arguments.length - 1];
    const reader = new FileReader();
    reader.onload = () => done(reader.result);
    reader.readAsDataURL(window.pictures.get(document.querySelector('.stage img').src));
  `);
  const bytes = Buffer.from(url.slice(url.indexOf(',') + 1), 'base64');
  const { width, height } = await sharp(bytes).metadata();
  return { bytes, width, height };
}

async function set(field: string, value: string): Promise<void> {
  await (await browser.find(By.xpath(`//rd-value/button[starts-with(@aria-label, '${field}:')]`))).click();
  await browser.type(value, Key.ENTER);
}

const pixels = (file: Buffer, part?: Rectangle) => {
  const opened = sharp(file, { ignoreIcc: true });
  return (part ? opened.extract(part) : opened).removeAlpha().raw().toBuffer();
};

describe('the bench', () => {
  it('shows what a run delivers, and its weight, by every value that is set', async () => {
    const preset = await openPreset('Gallery 2048');
    await browser.says(TRUE, 60_000);
    await set('Edge length', '900');
    await set('Quality', '60');
    await browser.says(/900 × \d+ px/);
    await browser.says(/against the saved version: .* lighter/, 60_000);
    await browser.says(TRUE, 60_000);
    const { bytes, width, height } = await settled();
    const weight = /\d+ (KB|B)(?= quality 60)/.exec((await browser.text()).replace(/\s+/g, ' '))![0];

    await browser.click('Save as version 2');
    await browser.says('Saved, version 2');
    await api('POST', `/api/sets/${setId}/runs`, { presetIds: [preset.id] });
    const name = await (await browser.find('.thumb[aria-pressed="true"]')).getAttribute('aria-label');
    const view = () => api<HandOverView>('GET', `/api/sets/${setId}/outputs`);
    const { masters } = await api<MasterPage>('GET', `/api/sets/${setId}/masters`);
    const { id: masterId } = masters.find(({ fileName }) => fileName === name)!;
    const output = async () => (await view()).outputs.find((one) => one.masterId === masterId);
    await browser.until(async () => (await output()) !== undefined, 'it never came out', 120_000);
    const made = (await output())!;
    expect(weight).toBe(`${Math.round(made.bytes / 1000)} KB`);
    const file = Buffer.from(await (await fetch(`${application.url}/api/outputs/${made.id}/file`)).arrayBuffer());
    const shown = windowAt({ x: 0.5, y: 0.5 }, { width, height }, made);
    expect(Buffer.compare(await pixels(bytes), await pixels(file, shown))).toBe(0);
  });

  it('shows each rung, the one before it while a key is held, the whole, other pictures, and moves by keys', async () => {
    await openPreset('Blog column 850');
    // What is said while something is being made must move nothing: neither what is about to be pressed, nor the room that is asked for.
    await browser.driver.executeScript(`
      window.places = new Set();
      const look = () => {
        const tools = document.querySelector('.tools')?.getBoundingClientRect();
        if (tools) window.places.add(tools.top + scrollY);
        requestAnimationFrame(look);
      };
      look();
    `);
    await browser.says('The finished file');
    await browser.until(async () => (await browser.all('.stage img')).length === 1, 'no picture came', 60_000);
    const source = () => browser.driver.executeScript<string>("return document.querySelector('.stage img').src");
    const changes = async (what: string, act: () => Promise<unknown>) => {
      const before = await source();
      await act();
      await browser.until(async () => (await source()) !== before, what, 60_000);
    };
    await changes('the sharpened picture did not come', () => browser.click('Sharpness'));
    await browser.says('Sharpened');
    const sharpened = await settled();
    await changes('nothing was seen before sharpening', () => browser.driver.actions().keyDown('b').perform());
    await browser.says('In the colours of the output');
    expect(Buffer.compare(await pixels((await settled()).bytes), await pixels(sharpened.bytes))).not.toBe(0);
    await changes('the picture did not come back', () => browser.driver.actions().keyUp('b').perform());
    expect(Buffer.compare(await pixels((await settled()).bytes), await pixels(sharpened.bytes))).toBe(0);
    await changes('the whole picture did not come', () => browser.press('w'));
    await changes('the third picture did not come', () => browser.press('3'));
    expect(await (await browser.all('.thumb'))[2]!.getAttribute('aria-pressed')).toBe('true');
    await changes('it did not go back to 1:1', () => browser.press('w'));
    await (await browser.find('.stage')).click();
    await changes('the picture did not move', () => browser.press(Key.ARROW_DOWN));
    expect(await browser.driver.executeScript('return window.places.size')).toBe(1);
  });

  it('takes any value that is typed, says what cannot be read, and turns lengths into other units', async () => {
    await openPreset('Print copy 4000');
    await set('Ceiling', 'heavy');
    await browser.says('A weight such as 350 KB or 1.2 MB.');
    await browser.chord(Key.CONTROL, 'a');
    await browser.type('1.7 MB', Key.ENTER);
    await browser.says('at most 1,700 KB');
    await set('Border', '24 px #20364a');
    await browser.says('A border of 24 px in #20364a');
    await set('Resolution tag', '254');
    await (await browser.find(By.xpath("//rd-value/button[starts-with(@aria-label, 'Unit:')]"))).click();
    await (await browser.find(By.xpath("//nz-option-item[normalize-space(.)='cm']"))).click();
    await browser.says('Long edge 40 cm');
    await browser.click('Discard the changes');
    await browser.says('Saved, version 1');
  });

  it('loses no change: a draft is kept, marked in the list, and saved or discarded on purpose', async () => {
    const count = (await api<StoredPreset[]>('GET', '/api/presets')).length;
    await openPreset('Blog column 850');
    await set('Quality', '44');
    await browser.click('Presets');
    await browser.says('changed, not saved');
    await browser.driver.navigate().refresh();
    await browser.says('changed, not saved');
    await browser.click('Blog column 850');
    await browser.says(/fixed quality, 44/);
    await browser.click('Discard the changes');
    await browser.says('Saved, version 1');
    await browser.click('Presets');
    await browser.says('Make a preset');
    expect(await browser.text()).not.toContain('not saved');
    // A new preset is not there before it is saved.
    await browser.click('Make a preset');
    await browser.says('Long edge');
    await set('Edge length', '1111');
    expect(await api<StoredPreset[]>('GET', '/api/presets')).toHaveLength(count);
    await browser.click('Presets');
    await browser.says('not saved');
    await browser.click('1111');
    await browser.says('Long edge 1111');
    await browser.click('Save');
    await browser.says('Saved, version 1');
    expect(await api<StoredPreset[]>('GET', '/api/presets')).toHaveLength(count + 1);
  });
});
