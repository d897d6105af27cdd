import { spawnSync } from 'node:child_process';
import { appendFileSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type Delivery, type MasterPage, Preset, type Run, type SetSummary, type StandInsView, type StoredPreset } from '@rundle/core';
import { HtmlValidate } from 'html-validate';
import { By, Key } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { violations } from '../src/accessibility';
import { Application } from '../src/application';
import { Browser } from '../src/browser';
import { SEEN_PICTURES, type SeenPicture, zipNames } from '../src/gallery-page';
import { allRead, call } from '../src/new-set';
import { copyDemoMasters } from '../src/shared-pictures';

const masters = mkdtempSync(join(tmpdir(), 'rundle-demo-'));
const written = mkdtempSync(join(tmpdir(), 'rundle-written-'));
let application: Application;
let browser: Browser;
let setId: string;

beforeAll(async () => {
  await copyDemoMasters(inject('pictures'), masters);
  application = await Application.start(masters, undefined, { RUNDLE_WRITE_ROOTS: written });
  browser = await Browser.open();
  const sets = await call<SetSummary[]>(application, 'GET', '/api/sets');
  setId = sets[0]!.id;
  await allRead(application, setId);
  const presets = await call<StoredPreset[]>(application, 'GET', '/api/presets');
  const own = { kind: 'rundle.preset', version: 1, existing: 'replace' };
  const small = Preset.parse({ ...own, title: 'Small AVIF', folder: 'avif', size: { px: 480 }, file: { type: 'avif' } });
  const made = await call<StoredPreset>(application, 'POST', '/api/presets', small);
  const named = ['Gallery 2048', 'Blog column 850'].map((title) => presets.find(({ preset }) => preset.title === title)!.id);
  const { id } = await call<Run>(application, 'POST', `/api/sets/${setId}/runs`, { presetIds: [...named, made.id] });
  await browser.until(
    async () => (await call<Run>(application, 'GET', `/api/runs/${id}`)).state === 'done',
    'the run does not end',
    240_000,
  );
});
afterAll(async () => {
  await browser.close();
  expect(await application.stop()).toBe(0);
  for (const folder of [masters, written]) rmSync(folder, { recursive: true });
});

const open = (way = '') => browser.driver.get(`${application.url}/sets/${setId}/hand-over${way && `?way=${way}`}`);
const fill = async (css: string, text: string) => {
  const field = await browser.find(css);
  await field.clear();
  await field.sendKeys(text);
};
const deliver = async () => {
  const button = await browser.find('rd-deliver button[type=submit]');
  await browser.until(() => button.isEnabled(), 'nothing can be delivered');
  await button.click();
};
/** Selects pictures by their names, from one place to before another. */
const selectCards = async (from: number, to: number) => {
  await browser.until(async () => (await browser.all('.cards .name')).length >= to, 'the pictures are not shown');
  for (const name of (await browser.all('.cards .name')).slice(from, to)) await name.click();
};
/** Chooses from a list of the form. */
const choose = async (list: string, words: string) => {
  await (await browser.find(By.xpath(`//nz-select[.//input[@aria-label="${list}"]]`))).click();
  await (await browser.find(By.xpath(`//nz-option-item[normalize-space()='${words}']`))).click();
};
const newest = async () => (await call<Delivery[]>(application, 'GET', `/api/sets/${setId}/deliveries`))[0]!;
const standIns = () => call<StandInsView>(application, 'GET', '/api/receivers/stand-ins');

describe('a newcomer', () => {
  it('looks through what came out, whole and at 100 %, and marks it by key', async () => {
    await open();
    await browser.says(/69 files, [\d.]+ MB from [\d.]+ MB, all re-opened and checked/);
    await browser.until(
      () =>
        browser.driver.executeScript<boolean>(
          `const all = [...document.querySelectorAll('button.picture img')].slice(0, 6); return all.length === 6 && all.every((one) => one.complete && one.naturalWidth > 100);`,
        ),
      'outputs have no small pictures',
      30_000,
    );
    await (await browser.find('button.picture')).click();
    await browser.says('1 of 23');
    const width = () =>
      browser.driver.executeScript<number[]>(
        `const one = document.querySelector('.stage img'); return [one.clientWidth, one.naturalWidth];`,
      );
    await browser.until(async () => (await width())[1]! > 0, 'the picture does not come');
    await browser.press('z');
    await browser.until(async () => (await width())[0] === (await width())[1], 'it is not shown pixel for pixel');
    await browser.press('\uE014', '4'); // arrow right
    await browser.says('2 of 23');
    await browser.until(
      async () => (await browser.all('[aria-label="4 stars"][aria-pressed="true"]')).length > 0,
      'the stars were not given',
    );
    // By mouse, too; and what the keys do is told on the picture.
    await browser.click('Pick');
    await browser.find('rd-file-viewer button.on');
    await browser.click('Pick');
    await browser.press('?', '?');
    await browser.says('the preset before, the next one');
    await browser.press('\uE00C');
    await browser.says('By picture');
  });

  it('sees what another preset would make of the three best, and has it made', async () => {
    await open();
    await browser.says('By picture');
    await selectCards(3, 6);
    await browser.says('3 pictures selected');
    await browser.click('Pick');
    await browser.click('None');
    await browser.says('Make the 3 best with');
    await (await browser.find('.send-on')).click();
    await (await browser.find(By.xpath("//nz-option-item[normalize-space()='Phone 480']"))).click();
    await browser.says(/makes 3 files, about \d+ KB: phone\//);
    await browser.click('Make them');
    await browser.says('72 files', 60_000);
    await browser.says('Phone 480');
  });

  it('publishes a gallery to the made-up web space, and opens it there', async () => {
    await open('deliver');
    await browser.click('Web space');
    await browser.click('Try it with the made-up web space');
    await browser.says('Quay Pages');
    await browser.click('Gallery page');
    await fill('#web-folder', 'lantern evening');
    await deliver();
    await browser.says(/\d+ files and 10 made for them, [\d.]+ MB: \d+ sent/, 60_000);
    await browser.driver.get((await (await browser.saying('Open it')).getAttribute('href')) ?? '');
    await browser.says('The last race of the day');
    await browser.until(
      () =>
        browser.driver.executeScript<boolean>(
          `return [...document.images].slice(0, 4).every((one) => one.complete && one.naturalWidth > 100);`,
        ),
      'the pictures do not come',
    );
    await (await browser.find('li a')).click();
    await browser.find('.pswp--open.pswp--ui-visible');
    // While it opens, keys do nothing yet.
    await browser.until(async () => {
      await browser.press('\uE014');
      return /([2-9]|1\d) \/ 23/.test(await browser.text());
    }, 'the key does not turn the page');
    expect(await browser.consoleErrors()).toEqual([]);
  });

  it('mails seven pictures in two messages to the made-up box', async () => {
    await open();
    await browser.says('By picture');
    await selectCards(0, 7);
    await browser.says('7 pictures selected');
    await browser.driver.findElement(By.xpath("//div[contains(@class, 'ways')]/button[contains(., 'Deliver')]")).click();
    await browser.click('Mail');
    await browser.click('Try it with the made-up mail server');
    await browser.says('Emberquay Post');
    await fill('#mail-to', 'desk@emberquay.example');
    await browser.click('only the selected pictures (7)');
    for (const title of ['Blog column 850', 'Small AVIF', 'Phone 480'])
      await (await browser.find(By.xpath(`//label[contains(., '${title}')]`))).click();
    const heaviest = await heaviestSelected();
    await fill('#mail-limit', String(Math.ceil(heaviest * 10) / 10));
    await browser.says(/7 files, [\d.]+ \w+, in 2 messages/);
    await deliver();
    await browser.says(/7 mailed in 2 messages/, 60_000);
    await browser.driver.get((await standIns()).mailBox!);
    await browser.says('Lantern evening at Emberquay, 2 of 2');
    expect(await browser.all('article')).toHaveLength(2);
    expect(await browser.all('article li')).toHaveLength(7);
  });

  it('copies a delivery to a folder, changes a file there, and has it found', async () => {
    await open('deliver');
    await browser.click('Folder');
    const folder = join(written, 'delivery');
    await fill('#to-folder', folder);
    await browser.click('Files');
    await browser.click('a list that proves them');
    if (await (await browser.find('input[name=onlySelected]')).isSelected()) await browser.click('only the selected pictures');
    await deliver();
    await browser.says('copied, checked by their hashes', 60_000);
    expect((await newest()).state).toBe('done');
    const verify = () => spawnSync(process.execPath, ['dist/rundle.js', 'verify', folder], { encoding: 'utf8' }).stdout;
    expect(verify()).toMatch(/(\d+) of \1 files are as delivered\./);
    const [victim = ''] = readdirSync(join(folder, 'gallery-2048'));
    appendFileSync(join(folder, 'gallery-2048', victim), 'x');
    expect(verify()).toContain(victim);
  });
});

describe('a gallery for a client', () => {
  it('is seen first as it will be, with words typed where a picture has none', async () => {
    // A file that tells nothing: the page tells no more of its picture.
    const bare = {
      kind: 'rundle.preset',
      version: 1,
      title: 'Bare',
      folder: 'bare',
      size: { px: 300 },
      metadata: { description: 'remove' },
    };
    const { id } = await call<StoredPreset>(application, 'POST', '/api/presets', Preset.parse(bare));
    const { masters: all } = await call<MasterPage>(application, 'GET', `/api/sets/${setId}/masters`);
    const run = await call<Run>(application, 'POST', `/api/sets/${setId}/runs`, { presetIds: [id], masterIds: [all[2]!.id] });
    await browser.until(async () => (await call<Run>(application, 'GET', `/api/runs/${run.id}`)).state === 'done', 'the run does not end');
    await open('deliver');
    for (const label of ['ZIP', 'Bare']) await (await browser.find(By.xpath(`//label[normalize-space()='${label}']`))).click();
    await browser.click('Gallery page');
    await choose('Chapters', 'a chapter per day');
    await choose('Downloads', 'each picture and all as a ZIP');
    await choose('Title picture', 'the first picture as title');
    await choose('Language of the page', 'in Dutch');
    await browser.says(/\d+ pictures? ha(?:s|ve) no title and no description/);
    await (await browser.find('.untold summary')).click();
    await (await browser.find('.untold input')).sendKeys('Fog over the quay', Key.TAB);
    await browser.says('1 typed here');
    const own = await browser.driver.getWindowHandle();
    await browser.click('See it first');
    await browser.until(async () => (await browser.driver.getAllWindowHandles()).length === 2, 'no window opens');
    const [page] = (await browser.driver.getAllWindowHandles()).filter((handle) => handle !== own);
    await browser.driver.switchTo().window(page!);
    await browser.says(/Alle 23 foto’s downloaden\s+ZIP/);
    expect(await (await browser.find('h2')).getText()).toMatch(/^\w+dag \d+ juni 2026$/);
    expect(await browser.all('img[alt="Fog over the quay"]')).toHaveLength(1);
    const [zip, picture] = await browser.driver.executeAsyncScript<number[][]>(
      `const done = arguments[0]; const head = async (css) => [...new Uint8Array(await (await fetch(document.querySelector(css).href)).arrayBuffer()).slice(0, 2)];
       Promise.all([head('.all a'), head('.picture-page a')]).then(done);`,
    );
    expect([zip, picture]).toEqual([
      [0x50, 0x4b],
      [0xff, 0xd8],
    ]);
  });

  it('has an address for each picture, by which it is opened and left', async () => {
    const hash = () => browser.driver.executeScript<string>('return location.hash');
    await (await browser.find('.picture-page a')).click();
    await browser.find('.pswp--open.pswp--ui-visible');
    await browser.until(async () => /^#picture-/.test(await hash()), 'the picture has no address');
    const first = await hash();
    await browser.until(async () => {
      await browser.press('\uE014');
      return (await hash()) !== first;
    }, 'the next one has none');
    expect(await browser.driver.executeScript('return getComputedStyle(document.querySelector(".pswp__bg")).opacity')).toBe('1');
    expect(await (await browser.find('.pswp a[download]')).getAttribute('href')).toMatch(/\.jpg$/);
    await browser.driver.navigate().back();
    await browser.until(async () => (await browser.all('.pswp')).length === 0, 'going back does not close it');
    expect(await hash()).toBe('');
    // Opened by its address, and left by its button: the page stands there, at no picture's address.
    await browser.driver.executeScript(`location.hash = ${JSON.stringify(first)}; location.reload();`);
    await browser.find('.pswp--open.pswp--ui-visible');
    await browser.until(async () => {
      await browser.press('\uE00C');
      return (await browser.all('.pswp')).length === 0;
    }, 'it does not close');
    await browser.until(async () => (await hash()) === '', 'the address of the picture stays');
    expect(await browser.consoleErrors()).toEqual([]);
  });

  it('shows its pictures without scripts, too', async () => {
    const page = await browser.driver.getCurrentUrl();
    await browser.scripts(false);
    await browser.driver.get(page);
    expect(await browser.driver.findElements(By.css('.picture-page img'))).toHaveLength(23);
    await browser.driver.findElement(By.css('.picture-page a')).click();
    await browser.until(async () => /\.jpg$/.test(await browser.driver.getCurrentUrl()), 'its link leads nowhere');
    await browser.scripts(true);
    await browser.consoleErrors(); // a picture alone has no icon
    await browser.driver.close();
    const [own] = await browser.driver.getAllWindowHandles();
    await browser.driver.switchTo().window(own!);
  });

  it('says at its field what is missing, once it is to go', async () => {
    await browser.click('Mail');
    await fill('#mail-to', ' ');
    await deliver();
    const to = await browser.find('#mail-to');
    expect(await to.getAttribute('aria-invalid')).toBe('true');
    expect(await browser.driver.executeScript('return document.activeElement.id')).toBe('mail-to');
    await browser.says('Write down at least one address.');
  });
});

/** MB that two messages of the selected pictures take: a little more than half of them. */
async function heaviestSelected(): Promise<number> {
  const { bytes, files } = await browser.driver.executeAsyncScript<{ bytes: number; files: number }>(
    `const done = arguments[0];
     const words = () => /(\\d+) files?, ([\\d.]+) (KB|MB), in \\d+ messages?/.exec(document.body.innerText);
     const look = () => { const w = words(); if (w && w[1] === '7') done({ files: 7, bytes: Number(w[2]) * (w[3] === 'MB' ? 1e6 : 1e3) }); else setTimeout(look, 100); };
     look();`,
  );
  expect(files).toBe(7);
  return Math.max(1, (bytes * 1.37 * 0.62) / 1e6);
}

/** Each layout has another look, and other chapters. */
const OF_LAYOUT = {
  grid: { look: 'black', chapters: 'none' },
  rows: { look: 'white', chapters: 'day' },
  column: { look: 'grey', chapters: 'tag' },
} as const;

describe.each(['grid', 'rows', 'column'] as const)('a gallery in a %s', (layout) => {
  const page = () => `file://${join(written, layout)}/index.html`;

  it('works from disk: the smallest sufficient files, no shift, no fault, nothing from elsewhere', async () => {
    const body = {
      way: { kind: 'folder', path: join(written, layout) },
      content: {},
      gallery: {
        layout,
        title: `Lanterns in a ${layout}`,
        text: 'One.\n\nTwo.',
        photographer: 'Orla Vessby',
        footer: 'For private use.',
        cover: 'first',
        downloads: 'all',
        ...OF_LAYOUT[layout],
      },
    };
    const { id } = await call<Delivery>(application, 'POST', `/api/sets/${setId}/deliveries`, body);
    await browser.until(
      async () => (await call<Delivery>(application, 'GET', `/api/deliveries/${id}`)).state === 'done',
      'it is not delivered',
      60_000,
    );
    await browser.consoleErrors(); // what came late of the page before is not this one's
    for (const window of [360, 800, 1440])
      for (const density of window === 800 ? [1, 2, 3] : [1, 2]) {
        await browser.resize(window, 800, density);
        await browser.driver.get(page());
        const shown = await browser.driver.executeAsyncScript<SeenPicture[]>(SEEN_PICTURES);
        expect(shown).toHaveLength(23);
        for (const { width, widths, took, loaded } of shown) {
          const rising = widths.toSorted((a, b) => a - b);
          // A bar for scrolling takes up to 15 px of the window, of which the page does not know beforehand.
          const sufficient = [width, width + 16].map((slot) => rising.find((one) => one >= Math.floor(slot * density)) ?? rising.at(-1));
          expect(sufficient, `${loaded} at ${window} px, density ${density}: stands ${width} px wide`).toContain(took);
        }
        const shift = await browser.driver.executeAsyncScript<number>(
          `const done = arguments[0]; new PerformanceObserver((list) => done(list.getEntries().reduce((sum, one) => sum + one.value, 0))).observe({ type: 'layout-shift', buffered: true }); setTimeout(() => done(0), 500);`,
        );
        expect(shift).toBe(0);
      }
    expect(await browser.consoleErrors()).toEqual([]);
    expect(await violations(browser)).toEqual([]);
    await browser.consoleErrors(); // axe-core wants to read the style sheets once more, which browsers refuse for files
    await browser.resize(1280, 800);
  });

  it('is valid HTML that names no other place', async () => {
    const html = readFileSync(join(written, layout, 'index.html'), 'utf8');
    const validator = new HtmlValidate({ extends: ['html-validate:standard'] });
    const report = await validator.validateString(html);
    expect(report.results.flatMap(({ messages }) => messages.map(({ ruleId, message, line }) => `${line}: ${ruleId}: ${message}`))).toEqual(
      [],
    );
    for (const file of readdirSync(join(written, layout), { recursive: true, encoding: 'utf8' }).filter((name) =>
      /index\.html$|gallery\.(?:css|js)$|page\.css$/.test(name),
    ))
      expect(readFileSync(join(written, layout, file), 'utf8')).not.toMatch(/https?:\/\//);
    const zipped = await zipNames(join(written, layout, 'pictures.zip'));
    expect(zipped).toHaveLength(23);
    expect(new Set(zipped).size).toBe(23);
  });
});
