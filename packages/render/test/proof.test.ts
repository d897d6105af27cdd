import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { DIFFERENCES, differenceOf, type Preset, type PresetInput, type SampleView, StudioDetails } from '@rundle/core';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { endExifTool } from '../src/read/exiftool';
import type { SampleTask } from '../src/sample/sample';
import { Sampler } from '../src/sample/sampler';
import { doneOf, pictureOf, preset, sampleTask, testPicture } from './pictures';

let dir: string;
let sampler: Sampler;
let photograph: string;
let sky: string;
beforeAll(async () => {
  dir = mkdtempSync(join(tmpdir(), 'rundle-proof-'));
  sampler = new Sampler(100_000_000, dir);
  photograph = join(dir, 'photograph.jpg');
  await testPicture(1200, 800).jpeg({ quality: 96 }).toFile(photograph);
  sky = join(dir, 'sky.png');
  const pixels = Uint16Array.from({ length: 900 * 600 * 3 }, (_, at) => {
    const [x, y, c] = [Math.floor(at / 3) % 900, Math.floor(at / 2700), at % 3];
    return 257 * ([70, 110, 165][c]! + y / 18 + x / 90);
  });
  await sharp(pixels, { raw: { width: 900, height: 600, channels: 3 } })
    .toColourspace('rgb16')
    .png()
    .toFile(sky);
});
afterAll(async () => {
  await sampler.close();
  await endExifTool();
  rmSync(dir, { recursive: true });
});

const PART: SampleView = { kind: 'part', x: 0.5, y: 0.5, size: { width: 240, height: 200 } };
const studio = StudioDetails.parse({ credit: 'Lanternfish Studio' });
const taskOf = (master: string, value: Preset, more: Partial<SampleTask> = {}): Promise<SampleTask> =>
  sampleTask(master, value, { studio, judged: true, view: PART, ...more });
const lookAt = async (master: string, file: PresetInput['file'], more: Partial<PresetInput> = {}) =>
  pictureOf(await sampler.look(await taskOf(master, preset({ size: { px: 800 }, file, ...more })), null)).judgement!;
const never = new AbortController().signal;
let runs = 0;

describe('a measured file', () => {
  it.each<PresetInput['file']>([
    { quality: 35 },
    { quality: 92, progressive: false },
    { quality: 60, chroma: '4:4:4' },
    { type: 'webp', quality: 70 },
    { type: 'avif', quality: 50 },
    { quality: 90, ceiling: { bytes: 60_000 } },
    { match: 0.985 },
  ])('of %o weighs what a run delivers, to the byte', async (file) => {
    const value = preset({ size: { px: 800 }, file });
    const task = await taskOf(photograph, value);
    const measured = await sampler.measure(task, never);
    const [output] = await doneOf(photograph, join(dir, `run-${++runs}`), [value], task.studio);
    expect(measured).toMatchObject({ bytes: output!.bytes, width: output!.width, height: output!.height, quality: output!.quality });
    expect(measured.judgement!.likeness).toBeGreaterThan(0.8);
    expect(measured.judgement!.likeness).toBeLessThan(1);
    if (file?.match) expect(measured.judgement!.likeness).toBeGreaterThanOrEqual(file.match);
  });

  it('is judged by its type: another quality is another judgement, and a type without loss has none', async () => {
    const differences: number[] = [];
    for (const quality of [30, 60, 90, 98]) {
      const { judgement } = await sampler.measure(await taskOf(photograph, preset({ size: { px: 700 }, file: { quality } })), never);
      differences.push(judgement!.difference);
    }
    expect(differences).toEqual(differences.toSorted((a, b) => b - a));
    const words = differences.map((difference) => DIFFERENCES.indexOf(differenceOf(difference)));
    expect(words[0]).toBeGreaterThan(words[3]!);
    const png = await sampler.measure(await taskOf(photograph, preset({ size: { px: 700 }, file: { type: 'png' } })), never);
    expect(png).toMatchObject({ judgement: null, quality: null });
  });
});

describe('a judged part', () => {
  it('has the chroma of the whole file, which the part alone would not tell', async () => {
    const master = join(dir, 'neon.png');
    // Neon lines fill the left half, which decides for the whole; the part that is looked at is even.
    const pixels = Uint8Array.from({ length: 600 * 400 * 3 }, (_, at) => {
      const [x, y, c] = [Math.floor(at / 3) % 600, Math.floor(at / 1800), at % 3];
      const isLine = x < 300 && (x + y) % 3 === 0;
      return isLine ? [255, 0, 90][c]! : [70 + y / 4, 90, 120][c]!;
    });
    await sharp(pixels, { raw: { width: 600, height: 400, channels: 3 } })
      .png()
      .toFile(master);
    const value = preset({ size: { px: 600 }, sharpen: null, file: { quality: 70 } });
    const view: SampleView = { kind: 'part', x: 0.8, y: 0.5, size: { width: 120, height: 100 } };
    const tile = await sampler.look(await taskOf(master, value, { view }), null);
    expect(tile.expected).toEqual([]);
    const [output] = await doneOf(master, join(dir, 'neon'), [value]);
    expect((await sharp(output!.path).metadata()).chromaSubsampling).toBe('4:4:4');
    const inFile = await sharp(output!.path).extract(tile.shown).raw().toBuffer();
    expect(Buffer.compare(await sharp(tile.png).removeAlpha().raw().toBuffer(), inFile)).toBe(0);
  });

  it('of a sky has steps and blocks at low quality and none at high, and none when nobody asked', async () => {
    const [coarse, fine] = [await lookAt(sky, { quality: 20 }), await lookAt(sky, { quality: 95 })];
    expect(coarse.banding).toBeGreaterThan(0.02);
    expect(fine.banding).toBeLessThan(0.005);
    expect(fine.blocks).toBe(0);
    expect(coarse.difference).toBeGreaterThan(4 * fine.difference);
    // Its own pixels are compared, not those of the picture for the screen, which is made in the same memory.
    expect((await lookAt(photograph, { quality: 98 })).difference).toBeLessThan(0.01);
    const unasked = await sampler.look(await taskOf(sky, preset({ size: { px: 800 } }), { judged: false }), null);
    expect(pictureOf(unasked).judgement).toBeNull();
    // WebP has blocks of several sizes, and smooths their borders.
    expect((await lookAt(sky, { type: 'webp', quality: 30 })).blocks).toBeNull();
  });
});
