import { join } from 'node:path';
import { type PresetInput, StudioDetails } from '@rundle/core';
import fc from 'fast-check';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { endExifTool } from '../src/read/exiftool';
import { Sampler } from '../src/sample/sampler';
import type { SampleTask } from '../src/sample/sample';
import { folder, pictureOf, preset, sampleTask, testPicture } from './pictures';

/*
 * What is kept from one measurement must never be taken for what the next one needs: whatever was measured before, a file weighs what it weighs
 * when nothing was measured before it.
 */

const dir = folder();
const MASTERS = ['clear.png', 'wide.jpg', 'inks.jpg'] as const;
const never = new AbortController().signal;

const WISHES: readonly Partial<PresetInput>[] = [
  {},
  { file: { quality: 92 } },
  { file: { type: 'webp', quality: 70 } },
  { file: { type: 'avif', quality: 50 } },
  { file: { type: 'jxl', quality: 70 } },
  { file: { type: 'png' } },
  { file: { type: 'png', bits: 16 } },
  { file: { type: 'tiff' } },
  { file: { quality: 90, ceiling: { bytes: 12_000, then: 'shrink' } } },
  { file: { quality: 90, ceiling: { bytes: 12_000, then: 'shrink' } }, metadata: { description: 'remove', rights: 'remove' } },
  { colour: { embed: false } },
  { colour: { space: 'display-p3' } },
  { colour: { dither: false, backdrop: '#336699' } },
  { metadata: { rights: 'remove', description: 'remove' } },
  { file: { type: 'original' } },
];
const STUDIOS = [StudioDetails.parse({}), StudioDetails.parse({ creator: 'Orla Vessby', credit: 'Lanternfish Studio' })];

beforeAll(async () => {
  const { data } = await testPicture(300, 220).ensureAlpha().raw().toBuffer({ resolveWithObject: true });
  data.forEach((_, at) => at % 4 === 3 && (data[at] = (at * 7) % 256));
  await sharp(data, { raw: { width: 300, height: 220, channels: 4 } })
    .png()
    .toFile(join(dir, 'clear.png'));
  await testPicture(300, 200).withIccProfile('p3').jpeg({ quality: 95 }).toFile(join(dir, 'wide.jpg'));
  await testPicture(300, 200).withIccProfile('cmyk').toColourspace('cmyk').jpeg().toFile(join(dir, 'inks.jpg'));
});
afterAll(endExifTool);

interface Asked {
  master: (typeof MASTERS)[number];
  wish: number;
  studio: number;
  judged: boolean;
}

const asked: fc.Arbitrary<Asked> = fc.record({
  master: fc.constantFrom(...MASTERS),
  wish: fc.nat(WISHES.length - 1),
  studio: fc.nat(STUDIOS.length - 1),
  judged: fc.boolean(),
});

function taskOf({ master, wish, studio, judged }: Asked): Promise<SampleTask> {
  const { file, ...more } = WISHES[wish]!;
  const value = preset(file?.type === 'original' ? { file } : { ...more, ...(file ? { file } : {}), size: { px: 200 } });
  return sampleTask(join(dir, master), value, { content: master, studio: STUDIOS[studio]!, judged });
}

/** The figures, and a judged look at a part. */
async function figuresBy(sampler: Sampler, one: Asked) {
  const task = await taskOf(one);
  const measured = await sampler.measure(task, never);
  const { judgement, quality } = pictureOf(await sampler.look(task, null));
  return { measured, judgement, quality };
}

const alone = new Map<string, Promise<unknown>>();
function figuresAlone(one: Asked): Promise<unknown> {
  const key = JSON.stringify(one);
  const known =
    alone.get(key) ??
    (async () => {
      const sampler = new Sampler(50_000_000, dir);
      return figuresBy(sampler, one).finally(() => sampler.close());
    })();
  alone.set(key, known);
  return known;
}

describe('measuring B after any A', () => {
  it('gives what measuring B alone gives: types, transparency, profiles, ceilings, metadata, studios', async () => {
    const sampler = new Sampler(50_000_000, dir);
    const check = async (one: Asked) => expect(await figuresBy(sampler, one), JSON.stringify(one)).toEqual(await figuresAlone(one));
    const transparent = (wish: number): Asked => ({ master: 'clear.png', wish, studio: 0, judged: true });
    // A transparent picture as WebP and as AVIF, then as JPEG; a type that always says its colours, then one that need not.
    for (const wish of [2, 0, 3, 0, 4, 10]) await check(transparent(wish));
    await fc.assert(
      fc.asyncProperty(fc.array(asked, { minLength: 2, maxLength: 4 }), async (all) => {
        for (const one of all) await check(one);
      }),
      { numRuns: 8 },
    );
    await sampler.close();
  });
});
