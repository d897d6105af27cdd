import { copyFileSync, mkdirSync, readdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { Application } from './application';
import type { MasterPage, SetSummary, StoredPreset } from '@rundle/core';
import { By, Key } from 'selenium-webdriver';
import { Browser } from './browser';
import { call } from './new-set';

/*
 * Makes one picture of each main view for docs/screenshots, from the demo set.
 */

const folder = fileURLToPath(new URL('../../docs/screenshots/', import.meta.url));
mkdirSync(folder, { recursive: true });
const masters = fileURLToPath(new URL('../../demo/masters', import.meta.url));
/** A folder for what is watched and what comes of it, called as a studio might. */
const STUDIO = '/tmp/lanternfold';
rmSync(STUDIO, { recursive: true, force: true });
mkdirSync(join(STUDIO, 'incoming'), { recursive: true });
const application = await Application.start(masters, undefined, { RUNDLE_ROOTS: STUDIO, RUNDLE_WRITE_ROOTS: STUDIO });
const browser = await Browser.open();
const picture = async (name: string) => {
  await browser.driver.sleep(900); // thumbnails and fonts
  await browser.picture(join(folder, `${name}.png`));
};
try {
  await browser.driver.get(application.url);
  await browser.click('Lantern evening');
  // The covers of the list are there once all pictures have been read.
  await browser.until(async () => (await browser.all('rd-master-card img')).length === 23, 'not all were read', 120_000);
  await browser.driver.get(`${application.url}/sets`);
  await picture('sets');
  await browser.click('Lantern evening');
  await browser.says('24 pictures');
  const cards = await browser.all('rd-master-card');
  await cards[1]!.click();
  await browser.press('+', 't');
  await browser.type('hero', Key.ENTER);
  await cards[3]!.click();
  await browser.press('-');
  await cards[1]!.click();
  await picture('gather');
  // Nothing is left out of the run that the next pictures show.
  await (await browser.all('rd-master-card'))[3]!.click();
  await browser.press('-');
  await browser.click('Plan');
  await browser.click('Gallery 2048');
  await browser.click('Blog column 850');
  await browser.says('46 files, about');
  await browser.until(async () => !(await browser.text()).includes('being weighed'), 'the pictures were never weighed', 120_000);
  await picture('plan');
  await browser.click('Vet');
  await browser.find('.js-plotly-plot .scatterlayer .point');
  await picture('vet');
  await browser.click('Plan');
  await (await browser.find('button.run')).click();
  await browser.says(/1[0-9] of 48/, 120_000);
  await picture('run');
  await browser.click('Workers');
  await browser.says('makes files of');
  await picture('workers');
  await browser.driver.navigate().back();
  await browser.says('46 done', 240_000);
  const presets = await call<StoredPreset[]>(application, 'GET', '/api/presets');
  const idOf = (title: string) => presets.find(({ preset }) => preset.title === title)?.id ?? '';
  await call(application, 'POST', '/api/standing-orders', {
    title: 'Quay gallery',
    folder: join(STUDIO, 'incoming'),
    deeper: false,
    presetIds: ['Gallery 2048', 'Blog column 850'].map(idOf),
    place: { kind: 'folder', path: join(STUDIO, 'gallery') },
    takeExisting: false,
  });
  await browser.driver.get(`${application.url}/standing-orders`);
  const some = readdirSync(masters).filter((name) => /^LFS_0[45]..\.jpg$/.test(name));
  for (const name of some.slice(0, 5)) copyFileSync(join(masters, name), join(STUDIO, 'incoming', name));
  await browser.says('5 pictures today; 10 of 10 done', 120_000);
  await browser.click('What came');
  await browser.says('Gathered and run');
  await picture('standing-orders');
  await browser.driver.get(`${application.url}/sets`);
  await (await browser.find(By.xpath("//main//a[contains(., 'Lantern evening')]"))).click();
  await browser.click('Proof');
  await browser.click('Smoothest');
  await browser.says(/Quality 80\s+\d+ KB\s+[a-z\s]+now/, 60_000);
  await (await browser.find('[data-tile="Quality 85"]')).click();
  await browser.driver.sleep(8000); // all weights
  await picture('proof-strip');
  await browser.click('Look closely');
  await browser.says('pixel for pixel as in the file', 60_000);
  await browser.click('Side by side');
  await browser.click('2:1');
  await browser.driver.sleep(2500);
  await picture('proof-close');
  await browser.click('Hand over');
  await browser.says('46 files');
  await browser.driver.sleep(4000); // small pictures are made at the first look
  await picture('hand-over');
  await browser.click('Deliver');
  await browser.click('Web space');
  await browser.click('Try it with the made-up web space');
  await browser.says('Quay Pages');
  await browser.click('Gallery page');
  await (await browser.find('rd-deliver button[type=submit]')).click();
  await browser.says(/: \d+ sent/, 60_000);
  await (await browser.find('#web-folder')).sendKeys('originals');
  await browser.click('Files');
  await browser.says('46 files, 7');
  await (await browser.find('rd-deliver button[type=submit]')).click();
  await browser.says('46 sent', 60_000);
  await browser.click('Gallery page');
  await browser.says(/made for them, [\d.]+ MB$/m);
  await picture('deliver');
  const own = await browser.driver.getWindowHandle();
  await browser.click('See it first');
  await browser.until(async () => (await browser.driver.getAllWindowHandles()).length === 2, 'no gallery opens');
  const [page] = (await browser.driver.getAllWindowHandles()).filter((handle) => handle !== own);
  await browser.driver.switchTo().window(page!);
  await browser.resize(1280, 800);
  await browser.find('.picture-page img');
  await picture('gallery');
  await browser.driver.close();
  await browser.driver.switchTo().window(own);
  await browser.driver.get(`${application.url}/storage`);
  await browser.says('in use');
  await browser.find('.js-plotly-plot .bars .point');
  await picture('storage');
  await browser.driver.get(`${application.url}/presets`);
  await browser.says('Print copy 4000');
  await (await browser.find('input[aria-label="Select Gallery 2048"]')).click();
  await (await browser.find('input[aria-label="Select Print copy 4000"]')).click();
  await browser.click('Compare');
  await picture('presets');
  await browser.click('Gallery 2048');
  await browser.says('Long edge');
  await browser.says('pixel for pixel as in the file', 60_000);
  await picture('preset');
  await browser.driver.get(`${application.url}/studio`);
  await picture('studio');

  const feed = { kind: 'rundle.preset', version: 1, title: 'Feed portrait', size: { px: 1350, ratio: { w: 4, h: 5, turn: false } } };
  const { id } = await call<StoredPreset>(application, 'POST', '/api/presets', feed);
  const set = (await call<SetSummary[]>(application, 'GET', '/api/sets')).find(({ title }) => title.startsWith('Lantern'));
  await call(application, 'PATCH', `/api/sets/${set!.id}`, { presetIds: [id] });
  await browser.driver.get(`${application.url}/sets/${set!.id}/crop?ratio=4:5&all=&from=plan`);
  await browser.says(/Accept all \d+/, 120_000);
  await browser.until(async () => !(await browser.text()).includes('being analysed'), 'not all were analysed', 180_000);
  await picture('proposals');
  const { masters: all } = await call<MasterPage>(application, 'GET', `/api/sets/${set!.id}/masters`);
  const quay = all.find(({ fileName }) => fileName === 'LFS_0412.jpg')!;
  const crop = { x: 0.22, y: 0.15, w: 0.4, h: 0.75, angle: 2.5 };
  await call(application, 'PUT', `/api/sets/${set!.id}/marks`, { marks: [{ masterId: quay.id, overrides: { crop } }] });
  await browser.driver.get(`${application.url}/sets/${set!.id}/crop?picture=${quay.id}&from=gather`);
  await browser.says('Output sizes');
  await browser.driver.sleep(2500); // the larger picture
  await picture('crop');

  const triptych = {
    kind: 'rundle.preset',
    version: 1,
    title: 'Triptych 24 × 10 in',
    notes: 'Three panels of 8 × 10 in, for a wall.',
    size: { fit: 'cover', width: 24, height: 10, unit: 'in', ppi: 150, turn: false, enlarge: true },
    panels: { columns: 3, rows: 1 },
    name: { parts: [{ part: 'original' }, { part: 'text', text: '_panel-' }, { part: 'column' }] },
  };
  const { id: triptychId } = await call<StoredPreset>(application, 'POST', '/api/presets', triptych);
  await call(application, 'PUT', `/api/sets/${set!.id}/marks`, { marks: [{ masterId: quay.id, overrides: { crop: null } }] });
  await browser.driver.get(`${application.url}/presets/${triptychId}`);
  await (await browser.find(By.xpath("//button[@class='rung'][normalize-space()='Print']"))).click();
  await browser.says('3 panels of', 60_000);
  await browser.press('w');
  await browser.until(async () => (await browser.all('rd-print-lines .panel')).length === 3, 'no lines over the picture', 60_000);
  await picture('panels');
} finally {
  await browser.close();
  await application.stop();
  rmSync(STUDIO, { recursive: true, force: true });
}
