import { execFileSync } from 'node:child_process';
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { apply, ciede2000, type Lab, parseIccProfile, SPACES, toXyz, writeIccProfile, xyzToLab } from '@rundle/core';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { endExifTool, exifTool } from '../src/read/exiftool';
import { doneOf, folder, preset, testPicture } from './pictures';

/** Photographs of Debian's package mate-backgrounds. */
const PHOTOS = '/usr/share/backgrounds/mate/nature';
const DEMO_PROFILES = fileURLToPath(new URL('../../../demo/profiles/', import.meta.url));
const dir = folder();
const photo = join(dir, 'photo.tif');
afterAll(endExifTool);

/** One strip of every photograph, one below the other. */
beforeAll(async () => {
  const strips = await Promise.all(
    readdirSync(PHOTOS)
      .filter((name) => name.endsWith('.jpg'))
      .map((name) => sharp(join(PHOTOS, name)).resize(240, 60).removeAlpha().toColourspace('srgb').raw().toBuffer()),
  );
  await sharp(Buffer.concat(strips), { raw: { width: 240, height: 60 * strips.length, channels: 3 } })
    .tiff({ compression: 'none' })
    .toFile(photo);
});

/** A profile that sharp carries, taken out of a picture. */
async function builtIn(name: 'p3' | 'cmyk'): Promise<string> {
  const { icc } = await sharp(
    await testPicture(8, 8)
      .toColourspace(name === 'cmyk' ? 'cmyk' : 'srgb')
      .withIccProfile(name)
      .tiff()
      .toBuffer(),
  ).metadata();
  const path = join(dir, `${name}.icc`);
  writeFileSync(path, icc!);
  return path;
}

/** ITU-R BT.2020-2, tables 3 and 4: primaries, and the curve for 10 bits, turned round. */
function rec2020(): Promise<string> {
  const [alpha, beta] = [1.099, 0.018];
  const primaries = [
    [0.708, 0.292],
    [0.17, 0.797],
    [0.131, 0.046],
  ] as const;
  const parameters = [1 / 0.45, 1 / alpha, (alpha - 1) / alpha, 1 / 4.5, 4.5 * beta];
  const path = join(dir, 'rec2020.icc');
  writeFileSync(path, writeIccProfile({ title: 'Rec. 2020', toXyz: toXyz(primaries), parameters }));
  return Promise.resolve(path);
}

/**
 * Relative colorimetric with black-point compensation. Not precalculated (-c0): the tables that Little CMS makes for 16 bits otherwise are
 * themselves off by 1.2 to 1.6 CIEDE2000 at the 99th percentile in wide spaces such as Rec. 2020, mostly in the dark.
 */
const tificc = (from: string, to: string, input: string, output: string, ...more: string[]) =>
  execFileSync('tificc', [`-i${from}`, `-o${to}`, '-t1', '-b', '-c0', ...more, input, output], { stdio: 'ignore' });

const pixelsOf = (path: string): Promise<Buffer> => sharp(path, { ignoreIcc: true }).removeAlpha().raw({ depth: 'uchar' }).toBuffer();

function differences(a: Buffer, b: Buffer): { mean: number; p99: number } {
  const { toXyz: matrix, curves } = SPACES.srgb;
  const lab = (of: Buffer, at: number): Lab =>
    xyzToLab(apply(matrix, [0, 1, 2].map((c) => curves[0](of[at + c]! / 255)) as unknown as Lab));
  const all = Array.from({ length: a.length / 3 }, (_, pixel) => ciede2000(lab(a, 3 * pixel), lab(b, 3 * pixel))).sort((x, y) => x - y);
  return { mean: all.reduce((sum, value) => sum + value, 0) / all.length, p99: all[Math.floor(0.99 * all.length)]! };
}

describe('colours of photographs against Little CMS’s own tool (tificc of Debian’s liblcms2-utils)', () => {
  it.each<[string, () => Promise<string>, string[]]>([
    ['Adobe RGB (1998)', () => Promise.resolve(join(DEMO_PROFILES, 'compatible-with-adobe-rgb-1998.icc')), []],
    ['ROMM RGB in 16 bits', () => Promise.resolve(join(DEMO_PROFILES, 'romm-rgb.icc')), ['-w16']],
    ['Display P3', () => builtIn('p3'), []],
    ['Rec. 2020 in 16 bits', rec2020, ['-w16']],
    ['CMYK', () => builtIn('cmyk'), []],
    ['CMYK in 16 bits', () => builtIn('cmyk'), ['-w16']],
  ])('%s: CIEDE2000 0.3 on average and 1.0 at the 99th percentile, at most', async (name, find, width) => {
    const profile = await find();
    const master = join(dir, `${name}.tif`);
    const expected = join(dir, `${name} expected.tif`);
    tificc('*sRGB', profile, photo, master, '-e', ...width);
    tificc(profile, '*sRGB', master, expected, '-w8');
    const as = { size: { fit: 'original' }, sharpen: null, colour: { dither: false }, file: { type: 'png' } } as const;
    const [output] = await doneOf(master, join(dir, name), [preset(as)]);
    const { mean, p99 } = differences(await pixelsOf(output!.path), await pixelsOf(expected));
    expect(mean).toBeLessThanOrEqual(0.3);
    expect(p99).toBeLessThanOrEqual(1);
  });

  it('of Rec. 2020 are as far from the tables that the tool makes beforehand as those are from its own exact way', async () => {
    const profile = await rec2020();
    const master = join(dir, 'Rec 2020 tables.tif');
    const [exact, byTables] = [join(dir, 'exact.tif'), join(dir, 'tables.tif')];
    tificc('*sRGB', profile, photo, master, '-e', '-w16');
    tificc(profile, '*sRGB', master, exact, '-w8');
    execFileSync('tificc', [`-i${profile}`, '-o*sRGB', '-t1', '-b', '-w8', master, byTables], { stdio: 'ignore' });
    const as = { size: { fit: 'original' }, sharpen: null, file: { type: 'png' } } as const;
    const [output] = await doneOf(master, join(dir, 'Rec 2020 dithered'), [preset(as)]);
    const [ours, theirs] = [await pixelsOf(output!.path), await pixelsOf(exact)];
    const own = differences(await pixelsOf(byTables), theirs).p99;
    // Dither of 8 bits included, ours is nearer to the exact conversion than the tool's tables are.
    expect(own).toBeGreaterThan(1);
    expect(differences(ours, theirs).p99).toBeLessThan(own);
  });

  it.each(['display-p3', 'adobe-rgb', 'romm', 'rec2020'] as const)(
    'to %s and read back by the tool is the photograph again',
    async (space) => {
      const as = {
        size: { fit: 'original' },
        sharpen: null,
        colour: { space },
        file: { type: 'tiff', bits: 16, compression: 'none' },
      } as const;
      const [output] = await doneOf(photo, join(dir, space), [preset(as)]);
      const { icc } = await sharp(output!.path).metadata();
      const profile = join(dir, `${space} out.icc`);
      writeFileSync(profile, icc!);
      const back = join(dir, `${space} back.tif`);
      tificc(profile, '*sRGB', output!.path, back, '-w8');
      const { mean, p99 } = differences(await pixelsOf(back), await pixelsOf(photo));
      expect(mean).toBeLessThan(0.1);
      expect(p99).toBeLessThan(0.5);
      expect(output!.measures.gamut).toEqual({ share: 0, mean: 0, p99: 0 });
    },
  );
});

describe('ROMM RGB (ISO 22028-2) as its profile has it', () => {
  it('has the standard’s primaries of D50, and its curve', () => {
    const { matrix } = parseIccProfile(readFileSync(join(DEMO_PROFILES, 'romm-rgb.icc')));
    // ISO 22028-2:2013, table 1 (from memory): chromaticities of red, green and blue.
    const primaries = [0, 1, 2].map((c) => {
      const [x = 0, y = 0, z = 0] = matrix!.toXyz.map((row) => row[c]!);
      return [x / (x + y + z), y / (x + y + z)];
    });
    for (const [at, expected] of [
      [0.7347, 0.2653],
      [0.1596, 0.8404],
      [0.0366, 0.0001],
    ].entries())
      for (const [k, value] of expected.entries()) expect(Math.abs(primaries[at]![k]! - value)).toBeLessThan(0.001);
    // Equation 3 there: a power of 1.8 above the straight start, which ends at 16 x 0.001953.
    for (const encoded of [0.1, 0.5, 0.9]) expect(matrix!.curves[0](encoded)).toBeCloseTo(encoded ** 1.8, 3);
  });
});

describe('a master without a profile', () => {
  const colour = { r: 60, g: 200, b: 90 };
  const flat = () => sharp({ create: { width: 60, height: 40, channels: 3, background: colour } });
  const pixel = async (path: string) => [...(await pixelsOf(path)).subarray(0, 3)];
  const lossless = { size: { fit: 'original' }, sharpen: null, file: { type: 'png' } } as const;

  it('is taken for what the preset says, and for what EXIF says where it says something (DCF 2.0: R03)', async () => {
    const plain = join(dir, 'plain.jpg');
    const marked = join(dir, 'marked.jpg');
    for (const path of [plain, marked]) await flat().jpeg({ quality: 100, chromaSubsampling: '4:4:4' }).toFile(path);
    await exifTool().write(
      marked,
      { 'ExifIFD:ColorSpace#': 65_535, 'InteropIFD:InteropIndex': 'R03' },
      {
        writeArgs: ['-overwrite_original'],
      },
    );
    const assumed = (untagged: 'srgb' | 'adobe-rgb') => preset({ ...lossless, colour: { untagged } });
    const [srgb, adobe] = await doneOf(plain, join(dir, 'plain'), [assumed('srgb'), assumed('adobe-rgb')]);
    const [byExif] = await doneOf(marked, join(dir, 'marked'), [assumed('srgb')]);
    expect(await pixel(srgb!.path)).toEqual(await pixel(plain));
    expect(await pixel(byExif!.path)).toEqual(await pixel(adobe!.path));
    expect((await pixel(adobe!.path))[0]).toBeLessThan(5); // a green that sRGB cannot hold
    expect(adobe!.warnings.map(({ code }) => code)).toContain('clipped');
    expect(adobe!.measures.gamut).toMatchObject({ share: 1 });
    expect(adobe!.measures.gamut!.mean).toBeGreaterThan(1);
  });

  it('keeps its colours where the preset keeps them, with the profile that they have', async () => {
    const master = join(dir, 'p3.png');
    await flat().withIccProfile('p3').png().toFile(master);
    const before = (await sharp(master).metadata()).icc!;
    const [kept, none] = await doneOf(master, join(dir, 'kept'), [
      preset({ ...lossless, colour: { space: 'keep' } }),
      preset({ ...lossless, colour: { space: 'keep', embed: false } }),
    ]);
    expect(await pixel(kept!.path)).toEqual(await pixel(master));
    expect((await sharp(kept!.path).metadata()).icc).toEqual(before);
    expect((await sharp(none!.path).metadata()).icc).toBeUndefined();
  });
});
