import { execFileSync } from 'node:child_process';
import { readdirSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { StudioDetails } from '@rundle/core';
import sharp, { type Sharp } from 'sharp';
import { afterAll, describe, expect, it } from 'vitest';
import { endExifTool, exifTool } from '../src/read/exiftool';
import { readFacts } from '../src/read/facts';
import { doneOf, folder, outsideTags, preset, render, testPicture } from './pictures';

afterAll(endExifTool);

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

  it.each([
    ['small', 480, 320, 240],
    ['large enough for the faster way to decode', 3600, 2400, 1500],
    ['so, and much smaller', 3600, 2400, 240],
  ])('is the same for all eight EXIF orientations, to the last bit (%s)', async (_what, width, height, px) => {
    const dir = folder();
    const upright = await testPicture(width, height).tiff({ compression: 'none' }).toBuffer();
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
    let first: Buffer | undefined;
    for (let orientation = 1; orientation <= 8; orientation++) {
      let once = upright;
      for (const step of steps[orientation] ?? []) once = await step(sharp(once)).tiff({ compression: 'none' }).toBuffer();
      const master = join(dir, `${orientation}.tif`);
      await sharp(once).withMetadata({ orientation }).tiff({ compression: 'none' }).toFile(master);
      const facts = await readFacts(master);
      expect(facts).toMatchObject({ width, height, orientation });
      const [output] = await doneOf(master, join(dir, String(orientation)), [
        preset({ size: { px }, file: { type: 'tiff', compression: 'none' } }),
      ]);
      const pixels = await sharp(output!.path).raw().toBuffer();
      first ??= pixels;
      expect(Buffer.compare(pixels, first)).toBe(0);
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
