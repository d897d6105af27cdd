import { execFileSync } from 'node:child_process';
import { mkdirSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { type MasterPage, type RunDetail, type SetDetail, type StoredPreset, type PlanView } from '@rundle/core';
import { buildSync } from 'esbuild';
import sharp from 'sharp';
import { Application } from '../../e2e/src/application';
import { Browser } from '../../e2e/src/browser';
import { call as callOf } from '../../e2e/src/new-set';
import { atRest, figureRow, median, ROOT, work } from './measure';
import type { Row } from './report';

/*
 * The run sheet: how soon it follows a change, whether it scrolls smoothly, and whether the time that it foretells is true.
 */

const EDGES = [2048, 1280, 850, 480, 1920, 1600, 1024, 320];

export async function plan(): Promise<Row[]> {
  const { whole, changed } = inCore();
  const rows = [
    figureRow('2,000 x 4 outputs planned in the core, the first time (ms)', whole, 'reported', () => true),
    figureRow('The same after one preset has changed, median (ms)', changed, '<= 30', (ms) => ms <= 30),
  ];
  const folder = join(work, 'plan-masters');
  mkdirSync(folder);
  const base = readdirSync(join(ROOT, 'demo/base'));
  const small = await Promise.all(
    base.map((name) =>
      sharp(join(ROOT, 'demo/base', name))
        .resize(700)
        .jpeg({ quality: 90 })
        .toBuffer(),
    ),
  );
  for (let at = 0; at < 2000; at++) writeFileSync(join(folder, `p-${String(at).padStart(4, '0')}.jpg`), small[at % small.length]!);
  const few = join(work, 'plan-few');
  mkdirSync(few);
  for (let at = 0; at < 100; at++) writeFileSync(join(few, `p-${at}.jpg`), small[at % small.length]!);
  process.env['RUNDLE_ROOTS'] = work;
  const application = await Application.start('');
  const browser = await Browser.open();
  try {
    const call = <T>(method: string, path: string, body?: object) => callOf<T>(application, method, path, body);
    const presets: StoredPreset[] = [];
    for (const px of EDGES)
      presets.push(
        await call('POST', '/api/presets', {
          kind: 'rundle.preset',
          version: 1,
          title: `Edge ${px}`,
          size: { px },
          folder: `edge-${px}`,
          existing: 'replace',
        }),
      );
    const setOf = async (title: string, path: string, count: number, columns: number): Promise<string> => {
      const { id } = await call<SetDetail>('POST', '/api/sets', { title });
      await call('POST', `/api/sets/${id}/masters/from-machine`, { path, deeper: false });
      for (;;) {
        const { masters, total } = await call<MasterPage>('GET', `/api/sets/${id}/masters?from=${count - 1}&count=1`);
        if (total === count && masters[0]?.state === 'ready') break;
        await new Promise((resolve) => setTimeout(resolve, 500));
      }
      await call('PATCH', `/api/sets/${id}`, { presetIds: presets.slice(0, columns).map(({ id: presetId }) => presetId) });
      return id;
    };
    const hundred = await setOf('A hundred', few, 100, 4);
    const thousands = await setOf('Two thousand', folder, 2000, 4);
    // The first plan has them weighed in the background; while that goes on, both cores are busy with it.
    for (const id of [hundred, thousands])
      await call('POST', `/api/sets/${id}/plan`, { presetIds: presets.slice(0, 4).map(({ id: presetId }) => presetId) });
    await atRest(call);
    for (const [id, what, goal] of [
      [hundred, '100 x 4', 300],
      [thousands, '2,000 x 4', 200],
    ] as const) {
      const times = await followed(browser, `${application.url}/sets/${id}/plan`, presets[3]!);
      rows.push(
        figureRow(
          `A changed preset to its cells of an open run sheet of ${what}, median (ms)`,
          median(times),
          `<= ${goal}`,
          (ms) => ms <= goal,
        ),
      );
    }
    await call('PATCH', `/api/sets/${thousands}`, { presetIds: presets.map(({ id }) => id) });
    const longest = [];
    for (let time = 0; time < 3; time++) longest.push(await scrolled(browser, `${application.url}/sets/${thousands}/plan`));
    rows.push(
      figureRow(
        'Longest task of the page while a run sheet of 2,000 x 8 scrolls by, median of three times (ms)',
        median(longest),
        '<= 50',
        (ms) => ms <= 50,
      ),
    );
    rows.push(
      figureRow(
        'Expected time of a run against the real one, the second of its kind',
        await foretold(call, hundred, presets),
        '0.67 to 1.5',
        (ratio) => ratio >= 0.67 && ratio <= 1.5,
      ),
    );
    return rows;
  } finally {
    await browser.close();
    await application.stop();
  }
}

/** Plans in the core alone: the first time, and after one preset has changed; see plan-core.ts. */
function inCore(): { whole: number; changed: number } {
  const outfile = join(work, 'plan-core.mjs');
  const alias = { '@rundle/core': join(ROOT, 'packages/core/src/index.ts') };
  buildSync({ entryPoints: [join(ROOT, 'bench/src/plan-core.ts')], outfile, alias, bundle: true, platform: 'node', format: 'esm' });
  const [whole, changed] = JSON.parse(execFileSync(process.execPath, [outfile], { encoding: 'utf8' })) as [number, number];
  return { whole, changed };
}

/** Changes a preset again and again, and tells how long it takes until the head of its column says so, in ms. */
async function followed(browser: Browser, url: string, preset: StoredPreset): Promise<number[]> {
  await browser.driver.get(url);
  await browser.says(/\d files, about/, 60_000);
  await browser.driver.sleep(4000);
  const times: number[] = [];
  for (let time = 0; time < 7; time++) {
    times.push(
      await browser.driver.executeAsyncScript<number>(
        `
        const [presetId, body, done] = arguments;
        const head = [...document.querySelectorAll('rd-run-sheet [role=columnheader] button')].find((one) => one.textContent.includes(body.title));
        const before = head.textContent;
        const begun = performance.now();
        const look = () => (head.textContent !== before ? done(performance.now() - begun) : requestAnimationFrame(look));
        void fetch('/api/presets/' + presetId, { method: 'PUT', body: JSON.stringify(body), headers: { 'content-type': 'application/json' } });
        look();`,
        preset.id,
        { ...preset.preset, size: { ...preset.preset.size, px: 330 + 40 * time } },
      ),
    );
    await browser.driver.sleep(1200);
  }
  return times;
}

/** Scrolls through the whole run sheet and tells the longest task of the page's thread (Long Tasks API, W3C; shorter ones than 50 ms are none). */
async function scrolled(browser: Browser, url: string): Promise<number> {
  await browser.driver.get(url);
  await browser.says(/\d files, about/, 60_000);
  await browser.driver.sleep(5000);
  return browser.driver.executeAsyncScript<number>(`
    const done = arguments[arguments.length - 1];
    let longest = 0;
    new PerformanceObserver((list) => { for (const { duration } of list.getEntries()) longest = Math.max(longest, duration); })
      .observe({ type: 'longtask' });
    const sheet = document.querySelector('rd-run-sheet .scroll');
    const step = () => {
      const before = sheet.scrollTop;
      sheet.scrollTop += 220;
      if (sheet.scrollTop > before) requestAnimationFrame(step);
      else setTimeout(() => done(longest), 500);
    };
    requestAnimationFrame(step);`);
}

/** Runs once so that the machine's pace is known, then says how the time that a plan foretells compares with what the run takes. */
async function foretold(
  call: <T>(method: string, path: string, body?: object) => Promise<T>,
  setId: string,
  presets: readonly StoredPreset[],
): Promise<number> {
  const run = async (presetIds: string[]): Promise<number> => {
    const { id } = await call<RunDetail>('POST', `/api/sets/${setId}/runs`, { presetIds });
    for (;;) {
      const { state, startedAt, finishedAt } = await call<RunDetail>('GET', `/api/runs/${id}`);
      if (state === 'done') return Date.parse(finishedAt!) - Date.parse(startedAt);
      await new Promise((resolve) => setTimeout(resolve, 300));
    }
  };
  const ids = (from: number, to: number) => presets.slice(from, to).map(({ id }) => id);
  await run(ids(0, 4));
  await new Promise((resolve) => setTimeout(resolve, 6000)); // paces are kept for 5 s
  const { timeMs } = await call<PlanView>('POST', `/api/sets/${setId}/plan`, { presetIds: ids(4, 8) });
  return timeMs / (await run(ids(4, 8)));
}
