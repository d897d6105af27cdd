import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, truncateSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { resample, StudioDetails } from '@rundle/core';
import sharp, { type Sharp } from 'sharp';
import { afterAll, describe, expect, it } from 'vitest';
import { endExifTool, exifTool } from '../src/read/exiftool';
import { decode } from '../src/read/decode';
import { readFacts } from '../src/read/facts';
import { folder, outsideTags, preset, render, testPicture } from './pictures';

afterAll(endExifTool);

const PROFILES = fileURLToPath(new URL('../../../demo/profiles/', import.meta.url));
const doneOf = async (...call: Parameters<typeof render>) => {
  const results = await render(...call);
  return results.map((result) => {
    if (result.status !== 'done') throw new Error(JSON.stringify(result));
    return result;
  });
};

describe('an output', () => {
  it('has the size, type, profile, resolution and credit that were asked for, says an outside reader', async () => {
    const dir = folder();
    const master = join(dir, 'master.jpg');
    await testPicture(1500, 1000).withIccProfile('srgb').jpeg({ quality: 95 }).toFile(master);
    await exifTool().write(
      master,
      { Artist: 'Orla Vessby', GPSLatitude: 40, GPSLatitudeRef: 'N', Rating: 4 },
      { writeArgs: ['-overwrite_original'] },
    );
    const before = readFileSync(master);
    const studio = StudioDetails.parse({ copyrightHolder: 'Studio Lanternfold – Emberquay', terms: 'Web only' });
    const presets = [preset({ size: { px: 600, ppi: 240 } }), preset({ size: { px: 300 }, file: { progressive: false, chroma: '4:4:4' } })];
    const [large, small] = await doneOf(master, dir, presets, studio);
    expect(large).toMatchObject({ width: 600, height: 400, quality: 80 });
    const identify = execFileSync('identify-im6.q16', ['-format', '%w %h %[colorspace] %[profile:icc] %Q', large!.path], {
      encoding: 'utf8',
    });
    expect(identify).toBe('600 400 sRGB sRGB 80');
    const tags = outsideTags(large!.path);
    expect(tags).toMatchObject({
      'IFD0:Artist': 'Orla Vessby',
      'IPTC:By-line': 'Orla Vessby',
      'XMP-dc:Creator': 'Orla Vessby',
      'IFD0:Copyright': '© Studio Lanternfold – Emberquay',
      'IPTC:CopyrightNotice': '© Studio Lanternfold – Emberquay',
      'XMP-dc:Rights': '© Studio Lanternfold – Emberquay',
      'XMP-xmpRights:UsageTerms': 'Web only',
      'IFD0:XResolution': 240,
      'JFIF:XResolution': 240,
      'File:EncodingProcess': 'Progressive DCT, Huffman coding',
    });
    expect(Object.keys(tags).filter((tag) => /GPS|Rating|IFD0:Model|DateTimeOriginal/.test(tag))).toEqual([]);
    expect(tags).toMatchObject({ 'ExifIFD:ColorSpace': 'sRGB' });
    expect(outsideTags(small!.path)).toMatchObject({
      'File:EncodingProcess': 'Baseline DCT, Huffman coding',
      'File:YCbCrSubSampling': 'YCbCr4:4:4 (1 1)',
    });
    expect(statSync(large!.path).size).toBe(large!.bytes);
    expect(readFileSync(master)).toEqual(before);
    expect(readdirSync(join(dir, 'web')).sort()).toEqual(['out-0.jpg', 'out-1.jpg']);
  });

  it('is the same for all eight EXIF orientations, but for the rounding of turned passes', async () => {
    const dir = folder();
    const upright = await testPicture(480, 320).png().toBuffer();
    // EXIF 2.32, tag 0x0112: what the stored picture is, from the upright one, in single steps.
    const steps: Record<number, ((image: Sharp) => Sharp)[]> = {
      1: [],
      2: [(image) => image.flop()],
      3: [(image) => image.rotate(180)],
      4: [(image) => image.flip()],
      5: [(image) => image.rotate(90), (image) => image.flop()],
      6: [(image) => image.rotate(-90)],
      7: [(image) => image.rotate(-90), (image) => image.flop()],
      8: [(image) => image.rotate(90)],
    };
    let first: Uint8Array | Uint16Array | undefined;
    for (let orientation = 1; orientation <= 8; orientation++) {
      let once = upright;
      for (const step of steps[orientation] ?? []) once = await step(sharp(once)).png().toBuffer();
      const master = join(dir, `${orientation}.png`);
      await sharp(once).withMetadata({ orientation }).png().toFile(master);
      const facts = await readFacts(master);
      expect(facts).toMatchObject({ width: 480, height: 320, orientation });
      const { pixels } = resample(await decode(master, facts, '#ffffff'), { width: 240, height: 160 }, 'lanczos3');
      first ??= pixels;
      const difference = Math.max(...pixels.map((value, index) => Math.abs(value - first![index]!)));
      expect(difference).toBe(0);
    }
  });

  it('stays under its ceiling: by quality, by shrinking, or not at all', async () => {
    const dir = folder();
    const master = join(dir, 'busy.png');
    await sharp({ create: { width: 900, height: 600, channels: 3, background: '#777', noise: { type: 'gaussian', mean: 128, sigma: 40 } } })
      .png()
      .toFile(master);
    const under = (bytes: number, then: 'shrink' | 'exceed' | 'fail') =>
      preset({ size: { px: 900 }, file: { quality: 90, ceiling: { bytes, floor: 50, then } } });
    const [quality, shrunk, exceeded, failed] = await render(master, dir, [
      under(330_000, 'shrink'),
      under(60_000, 'shrink'),
      under(60_000, 'exceed'),
      under(60_000, 'fail'),
    ]);
    expect(quality).toMatchObject({ status: 'done', width: 900, warnings: [] });
    expect(quality).toHaveProperty(
      'bytes',
      expect.toSatisfy((bytes: number) => bytes <= 330_000 && bytes > 280_000),
    );
    expect(shrunk).toMatchObject({ status: 'done', warnings: [{ code: 'shrunk' }] });
    expect(shrunk).toHaveProperty(
      'bytes',
      expect.toSatisfy((bytes: number) => bytes <= 60_000),
    );
    expect(exceeded).toMatchObject({ status: 'done', quality: 50, width: 900, warnings: [{ code: 'over-ceiling' }] });
    expect(failed).toMatchObject({ status: 'failed', error: { code: 'over-ceiling' } });
  });

  it('75 weighs about 30 % less than 90 (common practice, no source; wide tolerance)', async () => {
    const dir = folder();
    const base = fileURLToPath(new URL('../../../demo/base/jetty-planks.jpg', import.meta.url));
    const [q75, q90] = await doneOf(
      base,
      dir,
      [75, 90].map((quality) => preset({ size: { px: 1200 }, file: { quality, chroma: '4:2:0' } })),
    );
    expect(q75!.bytes / q90!.bytes).toBeGreaterThan(0.5);
    expect(q75!.bytes / q90!.bytes).toBeLessThan(0.8);
  });
});

describe('colours', () => {
  const PATCHES = [
    [200, 100, 50],
    [64, 128, 192],
    [128, 128, 128],
    [30, 60, 20],
    [220, 210, 180],
    [140, 60, 110],
  ];

  it.each(['compatible-with-adobe-rgb-1998.icc', 'romm-rgb.icc'])(
    'of %s come out as Little CMS converts them (Debian liblcms2-utils)',
    async (profile) => {
      const dir = folder();
      const master = join(dir, 'patches.png');
      const pixels = Buffer.from(PATCHES.flatMap((rgb) => Array.from({ length: 40 * 40 }, () => rgb).flat()));
      await sharp(pixels, { raw: { width: 40, height: 40 * PATCHES.length, channels: 3 } })
        .png()
        .toFile(master);
      await exifTool().write(master, {}, { writeArgs: ['-overwrite_original', `-ICC_Profile<=${join(PROFILES, profile)}`] });
      const plain = preset({
        size: { fit: 'original' },
        sharpen: null,
        colour: { dither: false },
        file: { quality: 100, chroma: '4:4:4' },
      });
      const [output] = await doneOf(master, dir, [plain]);
      const out = await sharp(output!.path).raw().toBuffer();
      // -t1: relative colorimetric, -b: black-point compensation, -n: bare numbers, one colour per line
      const said = execFileSync('transicc', ['-i', join(PROFILES, profile), '-o', '*sRGB', '-t1', '-b', '-n'], {
        input: `${PATCHES.map((rgb) => rgb.join(' ')).join('\n')}\n`,
        encoding: 'utf8',
      });
      const expected = said
        .trim()
        .split('\n')
        .map((line) => line.trim().split(/\s+/).map(Number));
      // transicc does not clip: what lies outside 0-255 cannot be held by sRGB.
      for (const [index, rgb] of expected.entries()) {
        const at = (40 * (40 * index + 20) + 20) * 3;
        for (let channel = 0; channel < 3; channel++)
          expect(Math.abs(out[at + channel]! - Math.min(255, Math.max(0, rgb[channel]!)))).toBeLessThanOrEqual(2); // JPEG costs a step
      }
    },
  );

  it('of print, grey and untagged masters come out in sRGB', async () => {
    const dir = folder();
    const paths = ['cmyk.jpg', 'grey.png', 'alpha.png', 'deep.tif'].map((name) => join(dir, name));
    const picture = () => testPicture(300, 200);
    await picture().toColourspace('cmyk').withIccProfile('cmyk').jpeg({ quality: 95 }).toFile(paths[0]!);
    await picture().toColourspace('b-w').png().toFile(paths[1]!);
    await picture().ensureAlpha(0.5).png().toFile(paths[2]!);
    await picture().toColourspace('rgb16').tiff({ compression: 'lzw' }).toFile(paths[3]!);
    const kinds = [];
    for (const [index, path] of paths.entries()) {
      const { colourModel, bits, alpha } = await readFacts(path);
      kinds.push({ colourModel, bits, alpha });
      const [output] = await doneOf(path, join(dir, String(index)), [preset({ size: { px: 150 } })]);
      expect(await sharp(output!.path).metadata()).toMatchObject({ width: 150, height: 100, space: 'srgb', channels: 3 });
    }
    expect(kinds).toMatchObject([{ colourModel: 'cmyk' }, { colourModel: 'grey' }, { alpha: true }, { bits: 16 }]);
    // The print colours come back near to where they started: inks cannot hold all of them.
    const [print] = await doneOf(paths[0]!, join(dir, 'again'), [preset({ size: { fit: 'original' }, sharpen: null })]);
    const { channels } = await sharp(print!.path).stats();
    const { channels: origin } = await picture().stats();
    for (const [index, { mean }] of channels.entries()) expect(Math.abs(mean - origin[index]!.mean)).toBeLessThan(25);
  });
});

describe('what cannot be rendered', () => {
  it('fails alone, with a reason, and leaves nothing behind', async () => {
    const dir = folder();
    const cut = join(dir, 'cut.jpg');
    await testPicture(1200, 800).jpeg().toFile(cut);
    truncateSync(cut, 30_000);
    const results = await render(cut, dir, [preset()]);
    expect(results).toMatchObject([{ status: 'failed', error: { code: 'damaged', file: 'cut.jpg' } }]);
    expect(existsSync(join(dir, 'web'))).toBe(false);
    writeFileSync(join(dir, 'empty.jpg'), '');
    writeFileSync(join(dir, 'text.jpg'), 'this is no picture at all');
    await expect(readFacts(join(dir, 'empty.jpg'))).rejects.toMatchObject({ problem: { code: 'empty' } });
    await expect(readFacts(join(dir, 'text.jpg'))).rejects.toMatchObject({ problem: { code: 'unreadable' } });
    await expect(readFacts(join(dir, 'nowhere.jpg'))).rejects.toMatchObject({ problem: { code: 'missing' } });
  });

  it('never replaces a file that nobody said may go', async () => {
    const dir = folder();
    const master = join(dir, 'master.jpg');
    await testPicture(200, 100).jpeg().toFile(master);
    mkdirSync(join(dir, 'web'));
    writeFileSync(join(dir, 'web/out-0.jpg'), 'somebody else’s');
    expect(await render(master, dir, [preset()])).toMatchObject([{ status: 'failed', error: { code: 'exists' } }]);
    expect(readFileSync(join(dir, 'web/out-0.jpg'), 'utf8')).toBe('somebody else’s');
    expect(readdirSync(join(dir, 'web'))).toEqual(['out-0.jpg']);
  });
});
