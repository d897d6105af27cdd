import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { allWeighings, expectedBytes, isAvifWeighed, type MasterFacts, type WeightPreset } from '@rundle/core';
import { afterAll, expect, it } from 'vitest';
import { endExifTool } from '../src/read/exiftool';
import { readFacts } from '../src/read/facts';
import { makeProxy, smallPicture } from '../src/proxy';
import { weighFine, weighSmall } from '../src/weigh';
import { preset, render, testPicture } from './pictures';

const dir = mkdtempSync(join(tmpdir(), 'rundle-weigh-'));
afterAll(async () => {
  await endExifTool();
  rmSync(dir, { recursive: true });
});

/** Wider than the goals of the bench, which holds a hundred pictures against many outputs: here it is whether the parts fit together. */
const WITHIN = { small: 2, fine: 1.6 };

it('parts of a picture tell what its outputs weigh', async () => {
  const wanted: WeightPreset[] = [];
  const presets = [
    preset({ size: { px: 1500 } }),
    preset({ size: { px: 1500 }, file: { quality: 92 } }),
    preset({ size: { px: 900 }, file: { quality: 55 }, sharpen: null }),
    preset({ size: { px: 900 }, file: { type: 'webp', quality: 70 } }),
    preset({ size: { px: 700 }, file: { type: 'avif', quality: 55 } }),
  ];
  wanted.push(...presets);
  for (const name of ['jetty-planks', 'fog-morning']) {
    const path = new URL(`../../../demo/base/${name}.jpg`, import.meta.url).pathname;
    const facts = await readFacts(path);
    const { proxy } = await makeProxy(path, facts, join(dir, `${name}.jpg`));
    const weighings = await weighSmall((await smallPicture(path, facts)).raster);
    const small: MasterFacts = { ...facts, proxy, weighings };
    const fine: MasterFacts = { ...small, weighings: allWeighings(weighings, await weighFine(path, facts)) };
    // Without AVIF the others are expected as well.
    const others: MasterFacts = { ...small, weighings: allWeighings(weighings, await weighFine(path, facts, false)) };
    expect([isAvifWeighed(small), isAvifWeighed(others), isAvifWeighed(fine)]).toEqual([false, false, true]);
    const outputs = await render(path, join(dir, name), presets);
    for (const [index, output] of outputs.entries()) {
      if (output.status !== 'done') throw new Error(JSON.stringify(output));
      const off = (of: MasterFacts) => Math.abs(Math.log(expectedBytes(of, output, wanted[index]!) / output.bytes));
      expect(off(small), `${name}, ${index}, small`).toBeLessThan(Math.log(WITHIN.small));
      expect(off(fine), `${name}, ${index}, fine`).toBeLessThan(Math.log(WITHIN.fine));
      if (wanted[index]!.file.type !== 'avif') expect(off(others)).toBeCloseTo(off(fine), 10);
    }
  }
});

it('grey, transparent and very small pictures can be weighed, too', async () => {
  const grey = join(dir, 'grey.png');
  await testPicture(1400, 900).greyscale().toColourspace('b-w').png().toFile(grey);
  const clear = join(dir, 'clear.png');
  await testPicture(900, 1300).ensureAlpha(0.5).png().toFile(clear);
  const tiny = join(dir, 'tiny.jpg');
  await testPicture(9, 5).jpeg().toFile(tiny);
  for (const path of [grey, clear, tiny]) {
    const facts = await readFacts(path);
    const all = allWeighings(await weighSmall((await smallPicture(path, facts)).raster), await weighFine(path, facts));
    expect(all.length).toBeGreaterThan(0);
    expect(expectedBytes({ ...facts, weighings: all }, { width: 600, height: 400 }, preset({}))).toBeGreaterThan(1000);
  }
});
