import { appendFileSync, cpSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { By, Key, Origin, type WebElement } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Master, MasterPage } from '@rundle/core';
import { Application } from '../src/application';
import { Browser } from '../src/browser';
import { openNewSet } from '../src/new-set';
import { copyMixedFolder } from '../src/shared-pictures';

const roots = mkdtempSync(join(tmpdir(), 'rundle-roots-'));
const folder = join(roots, 'boats');
/** Begins with a set of the 60 pictures. */
const open = (title: string, step?: string) => openNewSet(application, browser, title, folder, step);
let application: Application;
let browser: Browser;

beforeAll(async () => {
  [application, browser] = await Promise.all([
    Application.start('', undefined, { RUNDLE_ROOTS: roots }),
    Browser.open(),
    copyMixedFolder(inject('pictures'), folder),
  ]);
});
afterAll(async () => {
  await browser?.close();
  await application?.stop();
  rmSync(roots, { recursive: true });
});

const card = (at: number) => browser.find(By.xpath(`(//rd-master-card)[${at}]`));
const clickWith = async (key: string, element: WebElement) => browser.driver.actions().keyDown(key).click(element).keyUp(key).perform();
const choose = async (select: string, option: string) => {
  await (await browser.find(By.xpath(`//nz-select[contains(normalize-space(.), '${select}')]`))).click();
  await (await browser.find(By.xpath(`//nz-option-item[normalize-space()='${option}']`))).click();
  await browser.press(Key.ESCAPE);
};
/** All pictures of the set that is open, as the server tells them. */
async function masters(): Promise<Master[]> {
  const [, setId] = /sets\/([^/]+)/.exec(await browser.driver.getCurrentUrl()) ?? [];
  const page = (await (await fetch(`${application.url}/api/sets/${setId}/masters`)).json()) as MasterPage;
  return page.masters;
}
/** Waits until the sheet shows just these. */
async function shows(isShown: (facts: NonNullable<Master['facts']>) => boolean): Promise<void> {
  const count = (await masters()).filter(({ facts }) => facts && isShown(facts)).length;
  expect(count).toBeGreaterThan(1);
  await browser.says(`– ${count} shown`);
}

describe('a photographer with a folder on the machine and a mouse', () => {
  it('finds the folder, brings it in with its sub-folders, and is told what is no picture', async () => {
    await browser.driver.get(application.url);
    await (await browser.find('#new-set')).sendKeys('Regatta', Key.ENTER);
    await browser.says('No pictures yet');
    await browser.click('From this machine');
    await browser.click(roots);
    await browser.click('boats');
    await browser.says('55 files');
    await browser.click('with its sub-folders');
    await browser.click('Bring in this folder');
    await browser.says('60 pictures');
    await browser.says('1 file did not come in');
    await browser.says('read me.txt');
    await browser.click('Put away');
    await browser.until(async () => !(await browser.text()).includes('being read'), 'not all pictures were read', 120_000);
  });

  it('draws a band around pictures, adds some, and drags them to another place', async () => {
    await open('Band');
    const [first = '', second = '', third = '', fourth = '', fifth = ''] = await browser.names();
    const from = await (await card(1)).getRect();
    const to = await (await card(3)).getRect();
    const actions = () => browser.driver.actions();
    const between = { origin: Origin.VIEWPORT, x: Math.round(from.x + from.width + 6), y: Math.round(from.y + 20) };
    const onThird = { origin: Origin.VIEWPORT, x: Math.round(to.x + 40), y: Math.round(to.y + 60), duration: 200 };
    await actions().move(between).press().move(onThird).release().perform();
    await browser.says('2 of 60 selected');
    await clickWith(Key.CONTROL, await card(5));
    await browser.says('3 of 60 selected');
    await clickWith(Key.CONTROL, await card(3));
    await browser.says('2 of 60 selected');
    // The second and the fifth go before the first, in the order in which they stood.
    await actions()
      .move({ origin: await card(2) })
      .press()
      .move({ origin: await card(1), duration: 300, x: -50 })
      .pause(500) // a busy machine tells of the way late
      .move({ origin: await card(1), duration: 300, x: -60 })
      .pause(500)
      .release()
      .perform();
    const wanted = [second, fifth, first, third, fourth];
    await browser.until(
      async () => (await browser.names()).slice(0, 5).join() === wanted.join(),
      'the pictures were not carried to their place',
    );
    await browser.click('Undo');
    await browser.until(async () => (await browser.names())[0] === first, 'the order was not undone');
    await (await card(2)).click();
    await clickWith(Key.SHIFT, await card(6));
    await browser.says('5 of 60 selected');
    await browser.click('Invert');
    await browser.says('55 of 60 selected');
    await browser.click('None');
    await browser.says('60 pictures');
  });

  it('looks at the table, sorts it, and makes that the order of the set', async () => {
    await open('Table');
    await browser.click('Table');
    await browser.click('Weight');
    await browser.says('Sorted by weight; the set keeps its own order.');
    const weights = () =>
      browser.driver.executeScript<string[]>(
        "return [...document.querySelectorAll('rd-master-table .row:not(.head) .name')].slice(0, 8).map((name) => name.textContent)",
      );
    const sorted = await weights();
    await browser.click('Make this the order of the set');
    await browser.click('Sheet');
    await browser.until(async () => (await browser.names()).slice(0, 8).join() === sorted.join(), 'the set kept its order');
    await browser.driver.navigate().refresh();
    await browser.until(async () => (await browser.names()).slice(0, 8).join() === sorted.join(), 'the order was not kept');
  });

  it('narrows the sheet by type, shape and finding, each with the others', async () => {
    await open('Filters');
    await browser.click('Show only');
    await choose('Any shape', 'Upright');
    await shows(({ width, height }) => height > width);
    await browser.says('Only upright');
    await browser.click('Show all');
    await choose('Any type', 'TIFF');
    await shows(({ format }) => format === 'tiff');
    await choose('Any shape', 'Upright');
    await shows(({ format, width, height }) => format === 'tiff' && height > width);
    await browser.click('Show all');
    await choose('Any finding', 'No colour profile');
    await shows(({ profile }) => profile === null);
    await choose('Any stars', '4 and up');
    await browser.says('No picture passes the filter');
    await browser.click('Show all');
  });

  it('sees one picture large with its facts, on the surround of their choice, and goes on to the next', async () => {
    await open('Large');
    const [first = '', second = ''] = await browser.names();
    await (await browser.find('button[data-surround="black"]')).click();
    await browser.driver
      .actions()
      .doubleClick(await card(1))
      .perform();
    await browser.until(async () => (await (await browser.find('rd-facts-panel h2')).getText()) === first, 'not this one’s facts');
    const stage = await browser.find('rd-facts-panel .picture');
    expect(await stage.getCssValue('background-color')).toMatch(/rgba?\((\d+), \1, \1|rgba?\(1\d, 1\d, 1\d/);
    await browser.press(Key.ARROW_RIGHT);
    await browser.until(async () => (await (await browser.find('rd-facts-panel h2')).getText()) === second, 'not the next one’s facts');
    await browser.until(
      async () => (await browser.driver.executeScript<number>("return document.querySelector('rd-facts-panel img').naturalWidth")) > 1000,
      'the picture is not large',
    );
    await browser.press(Key.ESCAPE);
    await browser.until(async () => (await browser.all('rd-facts-panel')).length === 0, 'the facts did not close');
  });

  it('finds pictures by their dot in the chart', async () => {
    await open('Chart', 'vet');
    await browser.find('.js-plotly-plot .scatterlayer .point');
    const legend = '.js-plotly-plot .legend .traces:last-of-type .legendtext';
    const profile = await (await browser.find(legend)).getText();
    const dot = await browser.find('.js-plotly-plot .scatterlayer .trace:last-of-type .point');
    await browser.driver.actions().move({ origin: dot }).pause(200).click().perform();
    await browser.says(/– [1-9]\d* shown/);
    const found = await browser.names();
    const profiles = (await masters())
      .filter(({ fileName }) => found.includes(fileName))
      .map(({ facts }) => facts?.profile ?? 'no profile');
    expect(new Set(profiles)).toEqual(new Set([profile]));
    await browser.click('Show all');
  });

  it('writes down a receiver’s house rules, is told of a number that is none, and holds the set against them', async () => {
    await open('Held against');
    await browser.click('Studio');
    await browser.find('rd-house-rules li');
    const receivers = async () => (await browser.all('rd-house-rules li')).length;
    const before = await receivers();
    await browser.click('Write down another receiver');
    await browser.until(async () => (await receivers()) === before + 1, 'no other receiver was written down');
    const field = async (label: string) => browser.find(By.xpath(`(//rd-house-rules//li)[last()]//label[contains(., '${label}')]//input`));
    const name = await browser.find(By.xpath("(//rd-house-rules//li)[last()]//input[@aria-label='Name of the receiver']"));
    await name.sendKeys(Key.chord(Key.CONTROL, 'a'), 'Harbour Gazette', Key.TAB);
    await (await field('Short side at least')).sendKeys('3000', Key.TAB);
    await (await field('Weight at most')).sendKeys('plenty', Key.TAB);
    await browser.says('“plenty” is no number');
    await browser.until(async () => (await (await field('Weight at most')).getAttribute('value')) === '', 'the refused value stayed');
    await browser.driver.navigate().refresh();
    await browser.until(async () => (await (await field('Short side at least')).getAttribute('value')) === '3000', 'it was not kept');
    await browser.click('Sets');
    await browser.click('Held against');
    await browser.click('Vet');
    await browser.find('.js-plotly-plot .scatterlayer .point'); // by then the list of receivers has come, too
    await choose('no receiver', 'Harbour Gazette');
    await browser.says('Harbour Gazette asks for 3000');
  });

  it('is told when masters have changed or gone, and takes them out', async () => {
    const changing = join(roots, 'changing');
    cpSync(folder, changing, { recursive: true });
    await openNewSet(application, browser, 'Changing', changing);
    const gone = 'boats 1.jpg';
    rmSync(join(changing, gone));
    appendFileSync(join(changing, 'boats 3.jpg'), 'more');
    await browser.driver.navigate().refresh();
    await browser.says('The file is not there any more');
    await browser.click('Vet');
    await browser.says(/Cannot be read\s+2 pictures/);
    await (await browser.find('[data-code="unreadable"]')).findElement(By.xpath(".//button[contains(.,'Show in Gather')]")).click();
    await browser.until(async () => (await browser.names()).includes(gone), 'the picture that has gone is not told of');
    await browser.press('a');
    await browser.press(Key.DELETE);
    await browser.says('58 pictures');
  });

  it('finds the set again by its name, and puts it into the archive', async () => {
    await open('First day');
    const title = await browser.find('#set-title');
    await title.click();
    await browser.chord(Key.CONTROL, 'a');
    await title.sendKeys('Regatta, second day', Key.ENTER);
    await browser.click('Sets');
    await browser.says('Regatta, second day');
    await (await browser.find('input[aria-label="Find a set"]')).sendKeys('THIRD');
    await browser.says('No set is called like that here');
    await (await browser.find('input[aria-label="Find a set"]')).clear();
    await (await browser.find('input[aria-label="Find a set"]')).sendKeys('SECOND');
    await (await browser.find(By.xpath("//li[contains(., 'second day')]//button[normalize-space()='Archive']"))).click();
    await browser.says('Archive 1');
    expect(await browser.consoleErrors()).toEqual([]);
  });
});
