import { join } from 'node:path';
import fc from 'fast-check';
import {
  type CarriedPreset,
  carriedPreset,
  type Crop,
  NO_DECISIONS,
  partPreset,
  type PresetInput,
  type SampleView,
  type Watermark,
} from '@rundle/core';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { endExifTool } from '../src/read/exiftool';
import type { SampleTask } from '../src/sample/sample';
import { Sampler } from '../src/sample/sampler';
import { doneOf, folder, preset, sampleTask, testPicture } from './pictures';

const dir = folder();
const at = (name: string) => join(dir, name);
const MARK: Watermark = { kind: 'text', text: 'Vessby', colour: '#f0e0d0', typeface: 'serif', edge: 'shadow', adapt: true };
const sampler = new Sampler(200_000_000);

/** Masters of every kind that the engine goes about differently. */
const MASTERS = {
  small: 'small.jpg',
  upright: 'upright.jpg',
  large: 'large.jpg',
  deep: 'deep.tif',
  clear: 'clear.png',
  grey: 'grey.jpg',
  inks: 'inks.jpg',
} as const;
type MasterName = keyof typeof MASTERS;

beforeAll(async () => {
  const jpeg = { quality: 92, chromaSubsampling: '4:4:4' };
  await testPicture(700, 460).jpeg(jpeg).toFile(at(MASTERS.small));
  await testPicture(700, 460).withMetadata({ orientation: 6 }).jpeg(jpeg).toFile(at(MASTERS.upright));
  await testPicture(3600, 2400).withIccProfile('p3').withMetadata({ orientation: 8 }).jpeg(jpeg).toFile(at(MASTERS.large));
  await testPicture(500, 620).toColourspace('rgb16').tiff({ compression: 'none' }).toFile(at(MASTERS.deep));
  const { data } = await testPicture(420, 300).ensureAlpha().raw().toBuffer({ resolveWithObject: true });
  data.forEach((_, index) => index % 4 === 3 && (data[index] = (index * 7) % 256));
  await sharp(data, { raw: { width: 420, height: 300, channels: 4 } })
    .png()
    .toFile(at(MASTERS.clear));
  await testPicture(500, 380).toColourspace('b-w').jpeg(jpeg).toFile(at(MASTERS.grey));
  await testPicture(420, 300).withIccProfile('cmyk').toColourspace('cmyk').jpeg(jpeg).toFile(at(MASTERS.inks));
});
afterAll(async () => {
  await sampler.close();
  await endExifTool();
});

const taskOf = (name: MasterName, value: CarriedPreset, view: SampleView): Promise<SampleTask> =>
  sampleTask(at(MASTERS[name]), value, { content: name, watermark: value.mark && MARK, view });

/** Pixels of a file in its own numbers, perhaps of a part of it. */
async function pixelsOf(file: string | Buffer, part?: { left: number; top: number; width: number; height: number }) {
  const opened = sharp(file, { ignoreIcc: true });
  const deep = (await opened.metadata()).depth === 'ushort';
  const cut = part ? opened.extract(part) : opened;
  return cut.raw({ depth: deep ? 'ushort' : 'uchar' }).toBuffer();
}

const sizes: fc.Arbitrary<PresetInput['size']> = fc.oneof(
  fc.record({ px: fc.integer({ min: 60, max: 900 }), kernel: fc.constantFrom('lanczos3' as const, 'cubic' as const, 'nearest' as const) }),
  fc.record({ px: fc.integer({ min: 60, max: 500 }), light: fc.constant('linear' as const) }),
  fc.record({
    fit: fc.constant('cover' as const),
    width: fc.integer({ min: 80, max: 400 }),
    height: fc.integer({ min: 80, max: 400 }),
    anchor: fc.constantFrom('detail' as const, 'top' as const, 'centre' as const),
    enlarge: fc.constant(true),
  }),
  fc.constant({ fit: 'original' as const }),
);
const files: fc.Arbitrary<PresetInput['file']> = fc.oneof(
  fc.record({
    type: fc.constant('jpeg' as const),
    quality: fc.integer({ min: 20, max: 100 }),
    chroma: fc.constantFrom('4:2:0' as const, '4:4:4' as const),
    progressive: fc.boolean(),
  }),
  fc.record({ type: fc.constant('png' as const), bits: fc.constantFrom(8 as const, 16 as const) }),
  fc.record({ type: fc.constant('tiff' as const), bits: fc.constantFrom(8 as const, 16 as const) }),
);
const share = fc.double({ min: -0.8, max: 0.8, noNaN: true });
const presets = fc.record({
  size: sizes,
  tone: fc.option(
    fc.record({
      exposure: share,
      saturation: share,
      contrast: share,
      auto: fc.option(fc.constant({})),
      local: fc.option(fc.record({ amount: share, radius: fc.integer({ min: 1, max: 12 }) })),
      before: fc.option(fc.constant({ amount: 0.6 }), { freq: 4 }),
    }),
  ),
  file: files,
  colour: fc.record({ space: fc.constantFrom('srgb' as const, 'adobe-rgb' as const), dither: fc.boolean() }),
  sharpen: fc.option(
    fc.record({
      amount: fc.double({ min: 0, max: 3, noNaN: true }),
      radius: fc.double({ min: 0.3, max: 3, noNaN: true }),
      threshold: fc.constantFrom(0, 0.02),
    }),
  ),
  mark: fc.option(
    fc.record({
      watermark: fc.constant('any'),
      place: fc.constantFrom('centre' as const, 'bottom-right' as const, 'top-left' as const),
      margin: fc.constant(0.05),
      size: fc.double({ min: 0.1, max: 0.9, noNaN: true }),
      opacity: fc.constant(0.6),
    }),
  ),
  panels: fc.option(
    fc.record({ columns: fc.integer({ min: 1, max: 3 }), rows: fc.integer({ min: 1, max: 3 }), overlap: fc.constantFrom(0, 7) }),
  ),
  canvas: fc.option(
    fc.record({
      width: fc.integer({ min: 1, max: 70 }),
      unit: fc.constant('px' as const),
      fill: fc.constantFrom('mirror', 'soft-mirror', 'stretch', '#203040'),
      opacity: fc.constantFrom(1, 0.5),
      marks: fc.boolean(),
    }),
  ),
  border: fc.option(fc.record({ px: fc.integer({ min: 1, max: 60 }), colour: fc.constantFrom('#ffffff', '#203040') })),
});
const crops = fc.option(
  fc.record({
    x: fc.double({ min: 0, max: 0.5, noNaN: true }),
    y: fc.double({ min: 0, max: 0.5, noNaN: true }),
    w: fc.double({ min: 0.3, max: 1, noNaN: true }),
    h: fc.double({ min: 0.3, max: 1, noNaN: true }),
    angle: fc.constantFrom(0, 0, -3.7, 20),
  }),
);
const places = fc.record({
  kind: fc.constant('part' as const),
  x: fc.double({ min: 0, max: 1, noNaN: true }),
  y: fc.double({ min: 0, max: 1, noNaN: true }),
  size: fc.record({ width: fc.integer({ min: 1, max: 260 }), height: fc.integer({ min: 1, max: 260 }) }),
});

describe('a sample', () => {
  let run = 0;
  const sameAsFile = async (name: MasterName, input: Partial<PresetInput>, view: SampleView, crop: Crop | null = null) => {
    // One of its panels, where it is divided.
    const value = carriedPreset(partPreset(preset(input), input.panels ? 'r1c1' : ''), null, { ...NO_DECISIONS, crop });
    const task = await taskOf(name, value, view);
    const sample = await sampler.look(task, null);
    expect(sample.expected).toEqual([]);
    const [output] = await doneOf(task.master, at(`run-${run++}`), [value], undefined, MARK);
    expect(sample.output).toEqual({ width: output!.width, height: output!.height });
    const [seen, inFile] = [await pixelsOf(sample.png), await pixelsOf(output!.path, sample.shown)];
    expect(seen.length).toBe(inFile.length);
    expect(Buffer.compare(seen, inFile)).toBe(0);
  };

  it('has the pixels of the file that a run writes, bit for bit, wherever it is cut', async () => {
    const names = fc.constantFrom<MasterName>('small', 'upright', 'deep', 'clear', 'grey', 'inks');
    await fc.assert(
      fc.asyncProperty(names, presets, places, crops, (name, input, view, crop) => sameAsFile(name, input, view, crop)),
      { numRuns: 40 },
    );
  });

  it('does so for large masters, which are decoded at another height', async () => {
    await fc.assert(
      fc.asyncProperty(presets, places, crops, (input, view, crop) =>
        sameAsFile('large', { ...input, size: { px: 700 + (run % 7) * 300 } }, view, crop),
      ),
      { numRuns: 8 },
    );
  });
});
