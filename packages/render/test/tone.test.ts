import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { carriedPreset, NO_DECISIONS, NO_TONE, PictureTone, type PresetInput } from '@rundle/core';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { endExifTool } from '../src/read/exiftool';
import { doneOf, folder, preset, testPicture } from './pictures';

/*
 * Tone, from master to file, against ImageMagick.
 */

const dir = folder();
const at = (name: string) => join(dir, name);
const AS_PNG = { size: { fit: 'original' }, sharpen: null, file: { type: 'png' }, colour: { dither: false } } as const;
const toned = (tone: PresetInput['tone'], more: Partial<PresetInput> = {}) => preset({ ...AS_PNG, ...more, tone });
const pixels = (path: string) => sharp(path, { ignoreIcc: true }).removeAlpha().raw().toBuffer();
const magick = (...args: string[]) => execFileSync('/usr/bin/convert', args, { maxBuffer: 1e9 });

/** A flat picture: nothing of it is near black or white, and no colour near the edge of sRGB. */
async function flat(path: string): Promise<void> {
  const [width, height] = [320, 200];
  const values = Buffer.alloc(width * height * 3);
  for (let index = 0; index < width * height; index++) {
    const [x, y] = [index % width, Math.floor(index / width)];
    values.set([50 + (90 * x) / width, 60 + (70 * y) / height, 70 + 30 * Math.sin(x / 9)], 3 * index);
  }
  await sharp(values, { raw: { width, height, channels: 3 } })
    .png()
    .toFile(path);
}

beforeAll(() => flat(at('flat.png')));
afterAll(() => endExifTool());

describe('tone', () => {
  it('that changes nothing makes the same bytes as none', async () => {
    const neutral = { ...NO_TONE, local: { amount: 0, radius: 10 }, before: { amount: 0, radius: 1, threshold: 0 } };
    const web = { size: { px: 200 }, file: { type: 'jpeg' } } as const;
    const [without, with_] = await doneOf(at('flat.png'), at('neutral'), [preset({ ...web }), preset({ ...web, tone: neutral })]);
    expect(readFileSync(with_!.path).equals(readFileSync(without!.path))).toBe(true);
  });

  it('multiplies light as ImageMagick does in linear RGB', async () => {
    const [done] = await doneOf(at('flat.png'), at('exposure'), [toned({ exposure: 0.5 })]);
    const own = await pixels(done!.path);
    const theirs = magick(
      at('flat.png'),
      '-colorspace',
      'RGB',
      '-evaluate',
      'multiply',
      String(2 ** 0.5),
      '-colorspace',
      'sRGB',
      '-depth',
      '8',
      'rgb:-',
    );
    expect(own.length).toBe(theirs.length);
    expect(own.every((value, index) => Math.abs(value - theirs[index]!) <= 1)).toBe(true);
  });

  it('finds the points at the percentiles of the channels that ImageMagick separates', async () => {
    const [low, high] = [2, 1];
    const ends = (which: 'min' | 'max') =>
      [...magick(at('flat.png'), '-separate', '-evaluate-sequence', which, '-depth', '8', 'gray:-')].sort((a, b) => a - b);
    const [darkest, brightest] = [ends('min'), ends('max')];
    const [black, white] = [
      darkest[Math.ceil((low / 100) * darkest.length) - 1]!,
      brightest[Math.ceil((1 - high / 100) * brightest.length) - 1]!,
    ];
    const [done] = await doneOf(at('flat.png'), at('points'), [toned({ auto: { low, high, limit: 2 } })]);
    const [before, after] = [await pixels(at('flat.png')), await pixels(done!.path)];
    // What lay at the points is black and white, and nothing between them is.
    before.forEach((value, index) => {
      if (value <= black) expect(after[index]).toBeLessThanOrEqual(1);
      else if (value >= white) expect(after[index]).toBeGreaterThanOrEqual(254);
    });
    const made = (value: number) => after[before.indexOf(value)]!;
    expect(made(black + 4)).toBeGreaterThan(1);
    expect(made(white - 4)).toBeLessThan(254);
  });

  it('sharpens the pixels of the master before, as the Sharpness rung would at that size', async () => {
    const mask = { amount: 0.8, radius: 1.2, threshold: 0.01 };
    const [before, after] = await doneOf(at('flat.png'), at('before'), [toned({ before: mask }), preset({ ...AS_PNG, sharpen: mask })]);
    expect((await pixels(before!.path)).equals(await pixels(after!.path))).toBe(true);
  });

  it('is worked out after the conversion where only tables know the colours, and left out, with a word, where those are kept', async () => {
    await testPicture(300, 200).withIccProfile('cmyk').toColourspace('cmyk').jpeg({ quality: 95 }).toFile(at('inks.jpg'));
    const kept = { ...AS_PNG, file: { type: 'tiff' }, colour: { space: 'keep', dither: false } } as const;
    const results = await doneOf(at('inks.jpg'), at('inks'), [
      toned(null),
      toned({ exposure: 0.4 }),
      preset({ ...kept }),
      preset({ ...kept, tone: { exposure: 0.4 } }),
    ]);
    const [plain, brighter, own, same] = await Promise.all(results.map(({ path }) => pixels(path)));
    const mean = (values: Buffer) => values.reduce((sum, value) => sum + value, 0) / values.length;
    expect(mean(brighter!)).toBeGreaterThan(mean(plain!) + 8);
    expect(same!.equals(own!)).toBe(true);
    expect(results.map(({ warnings }) => warnings.some(({ code }) => code === 'tone-left-out'))).toEqual([false, false, false, true]);
  });

  it('of a picture is added to that of the preset, and gives what a preset of the sum gives', async () => {
    const own = PictureTone.parse({ exposure: 0.25, warmth: -12, contrast: 0.1 });
    const [added, sum] = await doneOf(at('flat.png'), at('added'), [
      carriedPreset(toned({ exposure: 0.25, saturation: 0.2 }), null, { ...NO_DECISIONS, tone: own }),
      toned({ exposure: 0.5, saturation: 0.2, warmth: -12, contrast: 0.1 }),
    ]);
    expect((await pixels(added!.path)).equals(await pixels(sum!.path))).toBe(true);
  });
});
