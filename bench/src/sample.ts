import { join } from 'node:path';
import type { SetSummary, StoredPreset } from '@rundle/core';
import { By, Key } from 'selenium-webdriver';
import { Application } from '../../e2e/src/application';
import { Browser } from '../../e2e/src/browser';
import { figureRow, percentile, ROOT } from './measure';
import type { Row } from './report';

/*
 * The live sample of a 24-megapixel master, in the real application and the real browser: from the key press that ends a value to the picture on
 * the page, and to the weight of the whole file.
 */

/** Changes of each kind. */
const CHANGES = 30;

export async function liveSample(): Promise<Row[]> {
  const application = await Application.start(join(ROOT, 'demo/masters'));
  // As wide and high that the picture has 800 x 600 px and a little more.
  const browser = await Browser.open(1380, 920);
  try {
    const get = async <T>(path: string) => (await (await fetch(`${application.url}${path}`)).json()) as T;
    const [set] = await get<SetSummary[]>('/api/sets');
    await browser.until(
      async () =>
        (await get<{ masters: { state: string }[] }>(`/api/sets/${set!.id}/masters`)).masters.every(({ state }) => state !== 'arriving'),
      'not all were read',
      120_000,
    );
    const presets = await get<StoredPreset[]>('/api/presets');
    const preset = presets.find(({ preset: { title } }) => title === 'Gallery 2048');
    await browser.driver.get(`${application.url}/presets/${preset!.id}`);
    await browser.says('pixel for pixel as in the file', 60_000);
    await browser.driver.executeScript(WATCH);
    const stage = await browser.driver.executeScript<string>(
      "const r = document.querySelector('.stage img'); return r.naturalWidth + ' × ' + r.naturalHeight",
    );

    // Fixed chroma: then a changed quality is shown as it is in the file at once.
    await choose(browser, 'Chroma', '4:2:0');
    await browser.driver.sleep(2000);
    const values = await changed(browser, 'Quality', (at) => 60 + (at % 30), 'picture');
    const sizes = await changed(browser, 'Edge length', (at) => 1500 + 16 * at, 'picture');
    const weights = await changed(browser, 'Quality', (at) => 50 + (at % 30), 'weight');
    const cold: number[] = [];
    // Pictures that have not been looked at: the decoded master is not there yet.
    for (const place of ['2', '3']) {
      await browser.driver.sleep(2500);
      cold.push(await timed(browser, () => browser.press(place), 'picture'));
    }
    // A run of everything beside it, by all workers: what is being set goes first.
    await (await browser.find('.thumb')).click();
    await browser.driver.sleep(3000);
    const alone = percentile(await changed(browser, 'Quality', (at) => 61 + (at % 30), 'picture'), 0.5);
    const presetIds = presets.slice(0, 4).map(({ id }) => id);
    const headers = { 'content-type': 'application/json' };
    const run = await fetch(`${application.url}/api/sets/${set!.id}/runs`, {
      method: 'POST',
      headers,
      body: JSON.stringify({ presetIds }),
    });
    const { id: runId } = (await run.json()) as { id: string };
    await browser.driver.sleep(4000);
    const beside = percentile(await changed(browser, 'Quality', (at) => 60 + (at % 30), 'picture'), 0.5);
    const { state } = await get<{ state: string }>(`/api/runs/${runId}`);
    if (state !== 'running') throw new Error('The run was over before its figures were taken.');
    return [
      figureRow(
        'A changed value beside a run that keeps all workers busy, as many times as long as alone',
        beside / alone,
        '<= 2',
        (times) => times <= 2,
      ),
      figureRow(
        `A changed value to the picture, ${stage} px of a 24-megapixel master, median (ms)`,
        percentile(values, 0.5),
        '<= 100',
        (ms) => ms <= 100,
      ),
      figureRow('The same, 95 of 100 changes (ms)', percentile(values, 0.95), '<= 400', (ms) => ms <= 400),
      figureRow(
        'A changed pixel size to the picture, the decoded master kept, median (ms)',
        percentile(sizes, 0.5),
        '<= 450',
        (ms) => ms <= 450,
      ),
      figureRow('Another master of 24 megapixels, not decoded yet, to the picture (ms)', Math.max(...cold), '<= 900', (ms) => ms <= 900),
      figureRow(
        'A changed quality to the weight of the whole JPEG of 2,048 px, median (ms)',
        percentile(weights, 0.5),
        '<= 1000',
        (ms) => ms <= 1000,
      ),
    ];
  } finally {
    await browser.close();
    await application.stop();
  }
}

/** Notes when a key is pressed, when the picture changes and is on the page, and when a weight is no guess any more. */
const WATCH = `
  window.seen = { key: 0, picture: 0, weight: 0 };
  addEventListener('keydown', () => { window.seen = { key: performance.now(), picture: 0, weight: 0 }; }, true);
  new MutationObserver(() => {
    const weight = document.querySelector('.figures strong:nth-of-type(2)');
    requestAnimationFrame(() => {
      const at = performance.now();
      const image = document.querySelector('.stage img');
      if (image.src !== window.last) { window.last = image.src; window.seen.picture ||= at; }
      if (weight && !weight.textContent.includes('about')) { if (window.guessed) window.seen.weight ||= at; window.guessed = false; } else window.guessed = true;
    });
  }).observe(document.querySelector('rd-live-sample'), { subtree: true, childList: true, attributes: true, characterData: true });
  window.last = document.querySelector('.stage img').src;
`;

async function changed(browser: Browser, field: string, value: (at: number) => number, until: 'picture' | 'weight'): Promise<number[]> {
  const times: number[] = [];
  for (let at = 0; at < CHANGES; at++) {
    await (await browser.find(By.xpath(`//rd-value/button[starts-with(@aria-label, '${field}:')]`))).click();
    await browser.type(String(value(at)));
    times.push(await timed(browser, () => browser.press(Key.ENTER), until));
    await browser.driver.sleep(until === 'picture' ? 60 : 300);
  }
  return times;
}

/** From a key press to what follows, ms. */
async function timed(browser: Browser, act: () => Promise<void>, until: 'picture' | 'weight'): Promise<number> {
  await act();
  const times = () => browser.driver.executeScript<{ key: number; picture: number; weight: number }>('return window.seen');
  await browser.until(async () => (await times())[until] > 0, `no ${until} came`, 30_000);
  const { key, ...came } = await times();
  return came[until] - key;
}

async function choose(browser: Browser, field: string, option: string): Promise<void> {
  await (await browser.find(By.xpath(`//rd-value/button[starts-with(@aria-label, '${field}:')]`))).click();
  await (await browser.find(By.xpath(`//nz-option-item[normalize-space(.)='${option}']`))).click();
}
