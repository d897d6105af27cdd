import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { By, Key } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { violations } from '../src/accessibility';
import { ALL_PICTURES, type SetSummary, type StoredPreset } from '@rundle/core';
import { call } from '../src/new-set';
import { Application } from '../src/application';
import { Browser } from '../src/browser';
import { copyDemoMasters } from '../src/shared-pictures';

/*
 * Every screen in its states, held against WCAG 2.2 AA by axe-core; and what no checker sees: where the focus goes.
 */

const masters = mkdtempSync(join(tmpdir(), 'rundle-demo-'));
let application: Application;
let browser: Browser;

beforeAll(async () => {
  await copyDemoMasters(inject('pictures'), masters);
  application = await Application.start(masters, undefined, { RUNDLE_ROOTS: masters });
  browser = await Browser.open();
});
afterAll(async () => {
  await browser?.close();
  await application?.stop();
  rmSync(masters, { recursive: true });
});

/** Not the button that was pressed, which gives way to it. */
const IN_EDITOR = "const at = document.activeElement; return at.closest('rd-value') !== null && at.tagName !== 'BUTTON'";
/** Told as one text, so that a report of a failure says which place it is. */
const isClean = async () => expect((await violations(browser)).join('\n')).toBe('');
const SENTENCES = "return document.querySelector('.bench ol').innerText";
const OPEN_EDITOR =
  "const open = document.querySelector('rd-value input, rd-value nz-select, rd-value rd-name-parts'); return open && open.tagName + (open.type ?? '')";
const focused = () =>
  browser.driver.executeScript<string>(
    'const at = document.activeElement; return at.id || at.getAttribute("aria-label") || at.textContent.trim().slice(0, 40)',
  );
const focusedTag = () => browser.driver.executeScript<string>('return document.activeElement.tagName');
const title = () => browser.driver.getTitle();
const open = async (path: string, words: string) => {
  await browser.driver.get(`${application.url}${path}`);
  await browser.says(words);
};

/** Begins on a page of the demo set, all of it shown. */
async function openDemo(step: string): Promise<void> {
  const [{ id }] = await call<[SetSummary]>(application, 'GET', '/api/sets');
  await call(application, 'PATCH', `/api/sets/${id}`, { filter: ALL_PICTURES, presetIds: [] });
  await browser.driver.get(`${application.url}/sets/${id}/${step}`);
  await browser.says('24 pictures');
  await browser.driver.executeScript('localStorage.clear()');
}

describe('Gather', () => {
  it('is clean with pictures, a selection, its filters, its keys, the folders of the machine, and as a table', async () => {
    await open('/sets', 'Lantern evening');
    await isClean();
    await openDemo('gather');
    await browser.until(async () => (await browser.all('rd-master-card img')).length === 23, 'not all were read', 120_000);
    await isClean();
    await (await browser.find('rd-master-card')).click();
    await browser.press('4', 't');
    await browser.type('hero', Key.ENTER);
    await isClean();
    await browser.click('Show only');
    await isClean();
    await (await browser.find('.parts nz-select')).click();
    await (await browser.find(By.xpath("//nz-option-item[normalize-space()='4 and up']"))).click();
    await browser.says('Only 4 and up');
    await isClean();
    await browser.click('Show all');
    await browser.click('Show only');
    await browser.click('From this machine');
    await browser.says('folder');
    await isClean();
    await browser.click('From this machine');
    await (await browser.find('button[aria-label="Keys"]')).click();
    await isClean();
    await (await browser.find('button[aria-label="Keys"]')).click();
    await browser.click('Table');
    await isClean();
    await browser.click('Weight');
    await isClean();
    await browser.click('Back to the order');
    await browser.click('Sheet');
  });

  it('is one stop for the Tab key, gone through by arrows, as a sheet and as a table', async () => {
    await openDemo('gather');
    await browser.find('rd-master-card');
    const names = await browser.names();
    const stops = (within: string) =>
      browser.driver.executeScript<number>(`return document.querySelectorAll('${within} [tabindex="0"], ${within}[tabindex="0"]').length`);
    await (await browser.find('rd-master-card')).click();
    await browser.press(Key.ARROW_RIGHT);
    const at = () => browser.driver.executeScript<string>("return document.activeElement.querySelector('.name')?.textContent ?? ''");
    await browser.until(async () => (await at()) === names[1], 'the focus did not go along');
    expect(await stops('[role="grid"]')).toBe(1);
    await browser.press(Key.END);
    await browser.until(async () => (await at()) === names.at(-1), 'the focus did not go to the last');
    await browser.press(Key.HOME);
    await browser.click('Table');
    expect(await stops('[role="grid"]')).toBe(1);
    await (await browser.find('rd-master-table .row:not(.head)')).click();
    await browser.press(Key.ARROW_DOWN);
    await browser.until(async () => (await at()) === names[1], 'the focus did not go to the next row');
    await browser.press(Key.ARROW_UP, Key.ARROW_UP);
    await browser.until(async () => (await focused()) === 'Name', 'the focus did not go to the heads');
    await browser.press(Key.ARROW_RIGHT, Key.ARROW_DOWN);
    await browser.until(async () => (await at()) === names[0], 'the focus did not come back');
    await browser.click('Sheet');
  });

  it('keeps the focus in the facts of a picture, and gives it back', async () => {
    await openDemo('gather');
    await browser.find('rd-master-card');
    const [first = ''] = await browser.names();
    await (await browser.find('rd-master-card')).click();
    await browser.press(Key.ENTER);
    await browser.says('by its tables');
    await isClean();
    for (let times = 0; times < 8; times++) {
      await browser.press(Key.TAB);
      const outside = 'const at = document.activeElement; return at !== document.body && !at.closest("dialog")';
      expect(await browser.driver.executeScript(outside)).toBe(false);
    }
    await browser.press(Key.ESCAPE);
    await browser.until(
      async () => (await browser.driver.executeScript("return document.activeElement.querySelector('.name')?.textContent")) === first,
      'the focus was not given back',
    );
  });

  it('lets single keys be switched off', async () => {
    await openDemo('gather');
    await browser.find('rd-master-card [aria-label$="of 5 stars"]');
    const stars = () => browser.all('rd-master-card [aria-label="2 of 5 stars"]');
    await (await browser.find('button[aria-label="Keys"]')).click();
    await browser.click('Letters, digits and signs');
    await (await browser.find('rd-master-card')).click();
    const before = (await stars()).length;
    await browser.press('2', Key.ARROW_RIGHT, Key.ARROW_LEFT);
    expect(await stars()).toHaveLength(before);
    await browser.click('Letters, digits and signs');
    await (await browser.find('rd-master-card')).click();
    await browser.press('2');
    await browser.until(async () => (await stars()).length === before + 1, 'the key does nothing after it was switched on again');
    await (await browser.find('button[aria-label="Keys"]')).click();
  });
});

describe('Crop', () => {
  it('is clean with one picture, while a line is drawn, with its keys, and with all proposals', async () => {
    await openDemo('crop');
    await browser.find('rd-crop-stage .frame', 120_000);
    await isClean();
    await browser.click('Draw a level line');
    await (await browser.find('rd-crop-page summary')).click();
    await isClean();
    const feed = { kind: 'rundle.preset', version: 1, title: 'Upright', size: { ratio: { w: 4, h: 5, turn: false } } };
    const { id } = await call<StoredPreset>(application, 'POST', '/api/presets', feed);
    const [set] = await call<[SetSummary]>(application, 'GET', '/api/sets');
    await call(application, 'PATCH', `/api/sets/${set.id}`, { presetIds: [id] });
    await browser.driver.get(`${application.url}/sets/${set.id}/crop?ratio=4:5&all=`);
    await browser.find('rd-crop-proposals li', 60_000);
    await isClean();
    await call(application, 'DELETE', `/api/presets/${id}`);
  });
});

describe('the other steps of a set', () => {
  it('are clean before, during and after a run', async () => {
    await openDemo('vet');
    await browser.find('.js-plotly-plot .scatterlayer .point');
    await isClean();
    await browser.click('As a table');
    await browser.says('Megapixels');
    await isClean();
    await browser.click('Plan');
    await browser.says('Which versions are wanted?');
    await isClean();
    await browser.click('Gallery 2048');
    await browser.says('files, about');
    await isClean();
    await (await browser.find('button.run')).click();
    await browser.says(/\d of 24/, 60_000);
    await isClean();
    await browser.says('23 done', 120_000);
    await isClean();
    await browser.click('Record');
    await browser.says('Save as CSV');
    await isClean();
    await browser.click('Runs');
    await browser.says('On record');
    await isClean();
    await openDemo('plan');
    await browser.click('Gallery 2048');
    await (await browser.find('button[title^="Vary "]')).click();
    await (await browser.find('rd-place-choice button')).click();
    await isClean();
    await browser.click('Hand over');
    await browser.says('all re-opened and checked');
    await isClean();
    await browser.click('Table');
    await browser.says('Made by');
    await isClean();
    await browser.click('Pictures');
    await (await browser.find('button.picture')).click();
    await browser.says('1 of 23');
    await isClean();
    await browser.click('Back to all');
    await browser.click('Deliver');
    await browser.says('Where to');
    for (const way of ['Mail', 'Web space']) {
      await browser.click(way);
      await browser.click('Add');
      await browser.says('Cancel');
      await isClean();
      await browser.click('Cancel');
    }
  });

  it('say where one is: title and heading, which the focus moves to; and a link that skips what is on every page', async () => {
    await openDemo('hand-over');
    await browser.until(async () => (await title()).includes('Emberquay'), 'the title does not name the set');
    expect(await title()).toBe('Hand over – Lantern evening at Emberquay – Rundle');
    await browser.click('Vet');
    await browser.until(async () => (await focused()).startsWith('Vet – Lantern evening'), 'the focus stayed where it was');
    expect(await title()).toBe('Vet – Lantern evening at Emberquay – Rundle');
    await browser.click('Studio');
    // The link has the same words as the heading: only the title tells that the page has changed.
    await browser.until(async () => (await title()) === 'Studio – Rundle', 'the title is still that of the page before');
    await browser.until(async () => (await focusedTag()) === 'H1', 'the focus stayed where it was');
    expect(await focused()).toBe('Studio');
    await open('/presets', 'Print copy');
    await browser.press(Key.TAB);
    expect(await focused()).toBe('Skip to the page');
    await browser.press(Key.ENTER);
    expect(await focused()).toBe('main');
  });
});

describe('standing orders', () => {
  it('are clean with none, while one is written down, and with what came', async () => {
    await open('/standing-orders', 'No folder is watched yet');
    await browser.click('Watch a folder');
    await browser.click(masters);
    await browser.says('Watch this folder');
    await isClean();
    await browser.click('Watch this folder');
    await browser.click('Phone 480');
    await isClean();
    await browser.click('Watch it from now on');
    await browser.says('Nothing came today');
    await browser.click('What came');
    await browser.says('it lay there when the order was made', 60_000);
    await isClean();
    await browser.click('Change');
    await isClean();
    await browser.click('Cancel');
    await browser.click('End it');
    await isClean();
    await browser.click('End for good');
    await browser.says('No folder is watched yet');
  });
});

describe('presets, the studio and what is not there', () => {
  it('are clean, also while values are edited', async () => {
    await open('/presets', 'Print copy');
    await isClean();
    for (const title of ['Gallery 2048', 'Blog column 850']) await (await browser.find(`input[aria-label="Select ${title}"]`)).click();
    await browser.click('Compare');
    await browser.click('Put together');
    await browser.find('rd-differences table');
    await isClean();
    await browser.click('Select none');
    await browser.click('Gallery 2048');
    await browser.find('rd-value');
    await isClean();
    await browser.click('Versions');
    await browser.says('The first one.');
    await browser.click('What is this?');
    await isClean();
    await browser.click('Versions');
    const values = By.css('rd-value > button');
    const count = (await browser.driver.findElements(values)).length;
    expect(count).toBeGreaterThan(25);
    const kinds = new Set<string>();
    for (let at = 0; at < count; at++) {
      const value = (await browser.driver.findElements(values))[at];
      if (!value) break;
      const name = await value.getAttribute('aria-label');
      // Its name says the field and holds what is seen.
      expect(name).toContain(await value.getText());
      const before = await browser.driver.executeScript<string>(SENTENCES);
      await value.click();
      let kind: string | null = null;
      // A flip has changed its words; anything else has become an editor.
      await browser.until(async () => {
        kind = await browser.driver.executeScript<string | null>(OPEN_EDITOR);
        return kind !== null || (await browser.driver.executeScript<string>(SENTENCES)) !== before;
      }, `${name} did nothing`);
      if (kind && !kinds.has(kind)) {
        kinds.add(kind);
        // A list opens with its field: it is looked at open.
        if ((kind as string).startsWith('NZ-SELECT')) await browser.find('nz-option-item');
        await isClean();
      }
      if (kind) await browser.until(() => browser.driver.executeScript(IN_EDITOR), `${name} did not take the focus`);
      await browser.press(Key.ESCAPE);
      await browser.until(
        async () => (await browser.driver.findElements(By.css('rd-value input, rd-value nz-select'))).length === 0,
        `the editor of ${name} did not close`,
      );
    }
    expect(kinds.size).toBeGreaterThanOrEqual(3);
    await open('/watermarks', 'A logo');
    await (await browser.find('input[aria-label="Text of a new watermark"]')).sendKeys('© Me');
    await browser.find('.make img');
    await isClean();
    await browser.click('A logo');
    await isClean();
    await open('/workers', 'Files a minute');
    await isClean();
    await open('/studio', 'Longest side');
    await isClean();
    await open('/nowhere', 'There is no page');
    await isClean();
    await open('/sets/00000000-0000-4000-8000-000000000000/gather', 'This set cannot be shown');
    await isClean();
  });
});
