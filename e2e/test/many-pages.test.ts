import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { By, Key } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { Application } from '../src/application';
import { Browser } from '../src/browser';
import { call, newSet } from '../src/new-set';
import { copyMixedFolder } from '../src/shared-pictures';

/*
 * Several pages of one browser. It opens six connections to a server at most (HTTP/1.1), whatever they are for.
 */

const roots = mkdtempSync(join(tmpdir(), 'rundle-roots-'));
let application: Application;
let browser: Browser;

beforeAll(async () => {
  const started = Application.start('', undefined, { RUNDLE_ROOTS: roots });
  [application, browser] = await Promise.all([started, Browser.open(), copyMixedFolder(inject('pictures'), join(roots, 'boats'))]);
});
afterAll(async () => {
  await browser?.close();
  await application?.stop();
  rmSync(roots, { recursive: true });
});

const api = <T>(method: string, path: string, body?: object) => call<T>(application, method, path, body);

/** Opens pages at addresses, each in a tab of its own, and gives their handles. */
async function tabs(...paths: string[]): Promise<string[]> {
  const handles: string[] = [];
  for (const path of paths) {
    await browser.driver.switchTo().newWindow('tab');
    await browser.resize(1280, 800);
    await browser.driver.get(`${application.url}${path}`);
    handles.push(await browser.driver.getWindowHandle());
  }
  return handles;
}

const goTo = (handle: string) => browser.driver.switchTo().window(handle);

/** How many thumbnails of the page that is in front have come. */
const pictures = () =>
  browser.driver.executeScript<number>(
    "return [...document.querySelectorAll('rd-master-card img')].filter((img) => img.complete && img.naturalWidth > 0).length",
  );

describe('eight pages of one set', () => {
  it('all show its pictures, and what is done on one is seen on all', async () => {
    const setId = await newSet(application, 'Eight pages', join(roots, 'boats'));
    const handles = await tabs(...Array.from({ length: 8 }, () => `/sets/${setId}/gather`));
    for (const handle of handles) {
      await goTo(handle);
      await browser.says('60 pictures');
      await browser.until(async () => (await pictures()) >= 10, 'the pictures did not come', 60_000);
    }
    await (await browser.find('rd-master-card')).click();
    await browser.press('4');
    for (const handle of handles) {
      await goTo(handle);
      await browser.until(
        async () => (await browser.all('rd-master-card [aria-label="4 of 5 stars"]')).length === 1,
        'the stars did not come',
      );
    }
    // A name that is given on one is the name on all, and so are the presets that are chosen.
    const [first = '', second = ''] = handles;
    for (const handle of [first, second]) {
      await goTo(handle);
      await browser.click('Plan');
      await browser.says('Which versions are wanted?');
    }
    await browser.click('Blog column 850');
    await browser.says(/\d files, about/, 60_000);
    const title = await browser.find('#set-title');
    await title.click();
    await browser.chord(Key.CONTROL, 'a');
    await title.sendKeys('Regatta', Key.TAB);
    await goTo(first);
    await browser.says(/\d files, about/, 60_000);
    await browser.until(
      async () => (await (await browser.find('#set-title')).getAttribute('value')) === 'Regatta',
      'it has another name here',
    );
    for (const handle of handles) {
      await goTo(handle);
      expect(await browser.consoleErrors()).toEqual([]);
      await browser.driver.close();
    }
    await goTo((await browser.driver.getAllWindowHandles())[0]!);
  });
});

describe('the workers', () => {
  it('are put to rest on one page, so that a run waits and it is said why, and woken on another', async () => {
    const [set] = await api<{ id: string }[]>('GET', '/api/sets');
    const [preset] = await api<{ id: string }[]>('GET', '/api/presets');
    const [mine = '', other = ''] = await tabs('/workers', '/workers');
    const [drain, wake] = ['td button[title^="It finishes"]', 'td button[title^="It takes work"]'];
    const pressAll = async (button: string) => {
      await browser.find(button);
      for (let all = await browser.all(button); all[0]; all = await browser.all(button)) {
        const before = all.length;
        await all[0].click();
        await browser.until(async () => (await browser.all(button)).length < before, `${button} did nothing`);
      }
    };
    await goTo(mine);
    await browser.says('Nothing waits', 120_000); // all have been weighed
    await pressAll(drain);
    await browser.says(/takes nothing new.*takes nothing new/s);
    await browser.driver.sleep(2500); // until each of them has heard of it
    const run = await api<{ id: string }>('POST', `/api/sets/${set!.id}/runs`, { presetIds: [preset!.id] });
    await goTo(other);
    await browser.says(/No worker takes anything new.*\d+ files of \d+ pictures are to be made/s);
    await pressAll(wake);
    await browser.says('makes files of');
    await browser.says('Nothing waits', 120_000);
    const isDone = async () => (await api<{ state: string }>('GET', `/api/runs/${run.id}`)).state === 'done';
    await browser.until(isDone, 'the run did not end', 120_000);
    // A server that stands still: what is shown is not called the present.
    for (const pid of application.children('server.js')) process.kill(pid, 'SIGSTOP');
    await browser.says(/This is how it was at \d\d:\d\d:\d\d\. The server does not answer/, 60_000);
    for (const pid of application.children('server.js')) process.kill(pid, 'SIGCONT');
    await browser.until(async () => !(await browser.text()).includes('This is how it was'), 'it is never looked at again', 60_000);
    for (const handle of [mine, other]) {
      await goTo(handle);
      expect(await browser.consoleErrors()).toEqual([]);
      await browser.driver.close();
    }
    await goTo((await browser.driver.getAllWindowHandles())[0]!);
  });
});

describe('a preset that two pages change', () => {
  it('is not overwritten: both versions are named, and nothing that was typed is lost', async () => {
    const [preset] = await api<{ id: string; version: number }[]>('GET', '/api/presets');
    const [mine = '', other = ''] = await tabs(`/presets/${preset!.id}`, `/presets/${preset!.id}`);
    const setTitle = async (handle: string, words: string) => {
      await goTo(handle);
      const title = await browser.find('#preset-title');
      await title.clear();
      await title.sendKeys(words, Key.TAB);
      await browser.says(`Save as version ${preset!.version + 1}`);
    };
    await setTitle(mine, 'Mine');
    await setTitle(other, 'The other');
    await browser.click(`Save as version ${preset!.version + 1}`);
    await browser.says(`Saved, version ${preset!.version + 1}`);
    await goTo(mine);
    await browser.says(`Version ${preset!.version + 1} was saved elsewhere, while you changed version ${preset!.version}.`);
    const value = async () => (await browser.find('#preset-title')).getAttribute('value');
    expect(await value()).toBe('Mine');
    await browser.click(`Save as version ${preset!.version + 1}`);
    await browser.says(`“The other” was saved as version ${preset!.version + 1} elsewhere`);
    expect(await value()).toBe('Mine');
    await browser.click('Save as new');
    await browser.click('Save it');
    await browser.says('Saved, version 1');
    expect(await value()).toBe('Mine');
    const titles = (await api<{ preset: { title: string } }[]>('GET', '/api/presets')).map((one) => one.preset.title);
    expect(titles).toEqual(expect.arrayContaining(['The other', 'Mine']));
    // A list that is open elsewhere has followed.
    await goTo(other);
    await browser.click('Presets');
    await browser.find(By.xpath("//*[normalize-space(.)='Mine']"));
  });
});
