import { execFileSync } from 'node:child_process';
import { readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { jpegXlDistance, lumaOf, msSsim } from '@rundle/core';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { endExifTool, exifTool } from '../src/read/exiftool';
import { doneOf, folder, outsideTags, preset, render, testPicture } from './pictures';

/*
 * JPEG XL files are read here by djxl of Debian's libjxl-tools, called as a user would, and by Debian's exiftool.
 */

const dir = folder();
const master = join(dir, 'master.jpg');
afterAll(endExifTool);
beforeAll(async () => {
  await testPicture(900, 600).withIccProfile('srgb').jpeg({ quality: 96, chromaSubsampling: '4:4:4' }).toFile(master);
  const tags = { 'EXIF:Artist': 'Orla Vessby', 'XMP-dc:Title': 'Fog – ünlit', 'EXIF:GPSLatitude': 40, 'EXIF:GPSLatitudeRef': 'N' };
  await exifTool().write(master, tags, { writeArgs: ['-overwrite_original'] });
});

/** The picture that djxl makes of a file, in its own colours. */
function decoded(path: string): { png: string; profile: Buffer } {
  execFileSync('/usr/bin/djxl', [path, `${path}.png`, `--orig_icc_out=${path}.icc`, '--quiet']);
  return { png: `${path}.png`, profile: readFileSync(`${path}.icc`) };
}

async function rgb(path: string) {
  const { data, info } = await sharp(path, { ignoreIcc: true }).removeAlpha().raw().toBuffer({ resolveWithObject: true });
  return { width: info.width, height: info.height, pixels: new Uint8Array(data) };
}

const as = (file: object, more: object = {}) => preset({ size: { px: 450, ppi: 240 }, file: { type: 'jxl', ...file }, ...more });
const lossless = preset({ size: { px: 450 }, file: { type: 'png' } });

describe('a JPEG XL', () => {
  it('is what outside readers say it is, with its metadata and without what was removed', async () => {
    const [output] = await doneOf(master, join(dir, 'plain'), [as({})]);
    const tags = outsideTags(output!.path);
    expect(tags).toMatchObject({
      'File:FileType': 'JXL',
      'IFD0:Artist': 'Orla Vessby',
      'XMP-dc:Title': 'Fog – ünlit',
      'IFD0:XResolution': 240,
    });
    expect(JSON.stringify(tags)).not.toContain('GPSLatitude"');
    expect(await sharp(decoded(output!.path).png).metadata()).toMatchObject({ width: 450, height: 300, depth: 'uchar' });
    expect(output).toMatchObject({ width: 450, height: 300, quality: 80, bytes: statSync(output!.path).size });
  });

  it('looks like the unencoded picture, the more the higher its quality, and gets heavier with it', async () => {
    const [png, ...files] = await doneOf(master, join(dir, 'ladder'), [
      lossless,
      ...[30, 55, 75, 90, 100].map((quality) => as({ quality })),
    ]);
    const before = lumaOf(await rgb(png!.path));
    const scores = await Promise.all(files.map(async ({ path }) => msSsim(before, lumaOf(await rgb(decoded(path).png)))));
    const weights = files.map(({ bytes }) => bytes);
    expect(scores).toEqual(scores.toSorted((a, b) => a - b));
    expect(weights).toEqual(weights.toSorted((a, b) => a - b));
    expect(scores.at(-1)).toBeGreaterThan(0.998);
  });

  it.each(['display-p3', 'adobe-rgb'] as const)('carries the colours of %s', async (space) => {
    const [png, output] = await doneOf(master, join(dir, space), [
      { ...lossless, colour: { ...lossless.colour, space } },
      as({ quality: 100 }, { colour: { space, embed: false } }),
    ]);
    // ImageMagick converts both by the profiles they carry; were one of them wrong, they would differ by far more than the loss.
    const srgb = (path: string) => {
      execFileSync('convert-im6.q16', [path, '-profile', '/usr/share/color/icc/sRGB.icc', '-depth', '8', `${path}.srgb.png`]);
      return rgb(`${path}.srgb.png`);
    };
    const [expected, found] = [await srgb(png!.path), await srgb(decoded(output!.path).png)];
    const mean = expected.pixels.reduce((sum, value, at) => sum + Math.abs(value - found.pixels[at]!), 0) / expected.pixels.length;
    expect(mean).toBeLessThan(1.5);
  });

  it('finds the lowest quality that matches, also where its decoder cannot keep the colours', async () => {
    const [png, found] = await doneOf(master, join(dir, 'match'), [lossless, as({ match: 0.985 })]);
    const [below] = await doneOf(master, join(dir, 'below'), [as({ quality: found!.quality! - 1 })]);
    const before = lumaOf(await rgb(png!.path));
    expect(msSsim(before, lumaOf(await rgb(decoded(found!.path).png)))).toBeGreaterThanOrEqual(0.985);
    expect(msSsim(before, lumaOf(await rgb(decoded(below!.path).png)))).toBeLessThan(0.985);
    // Its curve is that of CIE L*, for which JPEG XL has no short form.
    const lstar = join(dir, 'lstar.jpg');
    await sharp(master).keepIccProfile().withIccProfile('/usr/share/color/icc/LStar-RGB.icc').jpeg({ quality: 96 }).toFile(lstar);
    const [kept] = await doneOf(lstar, join(dir, 'kept'), [as({ match: 0.985 }, { colour: { space: 'keep' } })]);
    expect(Math.abs(kept!.quality! - found!.quality!)).toBeLessThan(15);
    expect(decoded(kept!.path).profile.equals(readFileSync('/usr/share/color/icc/LStar-RGB.icc'))).toBe(true);
  });

  it('stays under its ceiling', async () => {
    const bytes = 9000;
    const [output] = await doneOf(master, join(dir, 'ceiling'), [as({ quality: 90, ceiling: { bytes, floor: 5, then: 'fail' } })]);
    expect(statSync(output!.path).size).toBeLessThanOrEqual(bytes);
    expect(statSync(output!.path).size).toBeGreaterThan(0.85 * bytes);
    expect(output!.quality).toBeLessThan(90);
  });

  it('keeps transparency', async () => {
    const half = join(dir, 'half.png');
    const pixels = Buffer.from(Array.from({ length: 100 * 80 }, (_, at) => (at % 100 < 50 ? [200, 40, 40, 255] : [0, 0, 0, 0])).flat());
    await sharp(pixels, { raw: { width: 100, height: 80, channels: 4 } })
      .png()
      .toFile(half);
    const [output] = await doneOf(half, join(dir, 'half'), [as({}, { size: { px: 50 } })]);
    const { channels, depth } = await sharp(decoded(output!.path).png).metadata();
    expect([channels, depth]).toEqual([4, 'uchar']);
  });

  it('fails with the name of the package where its programs are missing', async () => {
    vi.stubEnv('PATH', dir);
    const [result] = await render(master, join(dir, 'missing'), [as({})]);
    vi.unstubAllEnvs();
    expect(result).toMatchObject({
      status: 'failed',
      error: { code: 'type-not-writable', message: expect.stringContaining('libjxl-tools') as string },
    });
  });
});

it('its distances are those of libjxl at the ends and where the formula changes', () => {
  // 90 is 1.0, "visually lossless", and 30 is 6.4 in both branches of JxlEncoderDistanceFromQuality (from memory).
  expect([100, 90, 30].map(jpegXlDistance)).toEqual([0.1, 1, 6.4]);
  const all = Array.from({ length: 100 }, (_, at) => jpegXlDistance(at + 1));
  expect(all).toEqual(all.toSorted((a, b) => b - a));
});
