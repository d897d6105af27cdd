import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { HandOverView, MasterPage, StoredPreset } from '@rundle/core';
import { Key } from 'selenium-webdriver';
import sharp from 'sharp';
import { afterAll, beforeAll, expect, inject, it } from 'vitest';
import { Application } from '../src/application';
import { Browser } from '../src/browser';
import { Ladder } from '../src/ladder';
import { call, newSet } from '../src/new-set';
import { copyDemoMasters } from '../src/shared-pictures';

/*
 * Somebody brightens two pictures of a set, and then all of them a little, sees what clips, and runs it.
 */

const roots = mkdtempSync(join(tmpdir(), 'rundle-roots-'));
let application: Application;
let browser: Browser;
let setId: string;
let preset: StoredPreset;

beforeAll(async () => {
  const started = Application.start('', undefined, { RUNDLE_ROOTS: roots });
  [application, browser] = await Promise.all([started, Browser.open(), copyDemoMasters(inject('pictures'), join(roots, 'evening'))]);
  setId = await newSet(application, 'Evening', join(roots, 'evening'));
  preset = (await call<StoredPreset[]>(application, 'GET', '/api/presets')).find((one) => one.preset.title === 'Blog column 850')!;
});
afterAll(async () => {
  await browser?.close();
  await application?.stop();
  rmSync(roots, { recursive: true });
});

const ladder = new Ladder(() => browser);
const view = () => call<HandOverView>(application, 'GET', `/api/sets/${setId}/outputs`);

/** Runs the preset, and waits for its end. @returns how bright each output is, 0-255, by its master */
async function brightness(): Promise<Map<string, number>> {
  const { id } = await call<{ id: string }>(application, 'POST', `/api/sets/${setId}/runs`, { presetIds: [preset.id] });
  const state = async () => (await call<{ state: string }>(application, 'GET', `/api/runs/${id}`)).state;
  await browser.until(async () => (await state()) === 'done', 'the run did not end', 200_000);
  const means = (await view()).outputs.map(async ({ id: outputId, masterId }) => {
    const file = Buffer.from(await (await fetch(`${application.url}/api/outputs/${outputId}/file`)).arrayBuffer());
    const { channels } = await sharp(file).greyscale().stats();
    return [masterId, channels[0]!.mean] as const;
  });
  return new Map(await Promise.all(means));
}

it('two pictures are brightened by key, then all of them in the preset; what clips is told, and files are as bright', async () => {
  const before = await brightness();
  await browser.driver.get(`${application.url}/sets/${setId}/gather`);
  await browser.find('rd-master-card');
  await (await browser.all('rd-master-card'))[1]!.click();
  await browser.press(Key.ENTER);
  await browser.find('rd-picture-tone .own');
  await browser.press('.', '.', '.');
  await browser.says('Tone +0.5 EV');
  await browser.until(async () => (await browser.all('rd-toned-picture img.stale')).length === 0, 'its tone was never shown', 60_000);
  // Straight after it, before anything is known of the next picture: it is the one that is meant.
  await browser.press(Key.ARROW_RIGHT, '.', '.', '.', '.', ',');
  const decided = async () => {
    const { masters } = await call<MasterPage>(application, 'GET', `/api/sets/${setId}/masters`);
    return masters.filter(({ overrides }) => overrides.tone).map(({ id, overrides }) => ({ id, exposure: overrides.tone!.exposure }));
  };
  const kept = async () => (await decided()).map(({ exposure }) => exposure).join(' ');
  await browser.until(async () => (await kept()) === '0.5 0.5', 'it was not kept', 60_000);

  // The small editor keeps its keys: arrows stay in the field, what cannot be becomes the nearest that can, Escape closes no more than it.
  const name = await (await browser.find('#facts-title')).getText();
  await (await browser.find('rd-picture-tone .own')).click();
  const field = await browser.find('#tone-warmth');
  await field.sendKeys(Key.chord(Key.CONTROL, 'a'), '900', Key.ARROW_LEFT, Key.TAB);
  await browser.until(async () => (await field.getAttribute('value')) === '90', 'it was not brought into its range');
  await field.sendKeys(Key.chord(Key.CONTROL, 'a'), '0', Key.TAB, Key.ESCAPE);
  await browser.until(async () => (await browser.all('rd-picture-tone .values')).length === 0, 'the editor did not close');
  expect(await (await browser.find('#facts-title')).getText()).toBe(name);
  await browser.until(async () => (await kept()) === '0.5 0.5', 'another value was changed');

  // Back on the sheet steps are taken back, and done again.
  await browser.press(Key.ESCAPE);
  for (let step = 0; step < 3; step++) await browser.chord(Key.CONTROL, 'z');
  await browser.until(async () => /0.667/.test(await kept()), 'nothing was undone', 60_000);
  for (let step = 0; step < 3; step++) await browser.chord([Key.CONTROL, Key.SHIFT], 'z');
  await browser.until(async () => (await kept()) === '0.5 0.5', 'it was not done again', 60_000);
  const two = new Set((await decided()).map(({ id }) => id));

  const after = await brightness();
  for (const [id, mean] of after)
    if (two.has(id)) expect(mean).toBeGreaterThan(before.get(id)! + 5);
    else expect(mean).toBe(before.get(id));

  // The whole set, a little: the histogram tells what clips.
  await browser.driver.get(`${application.url}/presets/${preset.id}`);
  await browser.says('The finished file', 60_000);
  await ladder.rung('Tone');
  await browser.says(/Of the picture made small: [\d.]+ % at black/, 60_000);
  await ladder.choose('Tone', 'A third of a stop brighter');
  await browser.says('With its tone', 60_000);
  await ladder.set('Exposure', '1.5', '+1.5 EV');
  await browser.says(/at white; before [\d.]+ % at black, [\d.]+ % at white/, 60_000);
  const atWhite = /([\d.]+) % at white; before [\d.]+ % at black, ([\d.]+) % at white/.exec((await browser.text()).replace(/\s+/g, ' '))!;
  expect(Number(atWhite[1])).toBeGreaterThan(Number(atWhite[2]));
  await ladder.set('Exposure', '0.2', '+0.2 EV');
  await browser.click('See it over the set');
  await browser.until(async () => (await browser.all('rd-tone-over-set .place img')).length >= 20, 'the set was not shown', 120_000);
  // Keys that leaf through the set leave the bench behind it as it is.
  const strip = () => browser.driver.executeScript("return [...document.querySelectorAll('.thumb')].map((one) => one.ariaLabel).join()");
  const behind = await strip();
  await browser.press(Key.PAGE_DOWN, 'w');
  await browser.driver.actions().keyDown('b').perform();
  await browser.says('Without the tone');
  await browser.driver.actions().keyUp('b').perform();
  expect([await strip(), (await browser.all('.stage.whole')).length]).toEqual([behind, 0]);
  await browser.click('Back to the preset');
  await browser.click('Save as version 2');
  await browser.says('Saved, version 2', 60_000);
  const all = await brightness();
  for (const [id, mean] of all) expect(mean).toBeGreaterThan(after.get(id)!);
});
