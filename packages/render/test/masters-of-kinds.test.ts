import { execFileSync } from 'node:child_process';
import { copyFileSync, readFileSync, truncateSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { iccProfileOf, masterFindings, type MasterFacts, type Raster } from '@rundle/core';
import sharp, { type Sharp } from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { decode, decodeRows, decodeSmall } from '../src/read/decode';
import { endExifTool, exifTool } from '../src/read/exiftool';
import { readFacts } from '../src/read/facts';
import { unpacked } from '../src/types/psd/packed';
import { doneOf, folder, outsideTags, preset, testPicture } from './pictures';
import { rawFile } from './raw-file';

/*
 * Masters of types that the decoder does not know by itself, made by Debian's heif-enc (libheif), cjxl (libjxl) and ImageMagick, and compared
 * with what the outside tools read of them.
 */

const dir = folder();
const at = (name: string) => join(dir, name);
afterAll(endExifTool);
beforeAll(async () => {
  writeFileSync(at('p3.icc'), iccProfileOf('display-p3'));
  const p3 = testPicture(300, 200).withIccProfile(at('p3.icc'));
  await p3.clone().png().toFile(at('p3.png'));
  await testPicture(300, 200).toColourspace('rgb16').withIccProfile(at('p3.icc')).png().toFile(at('deep.png'));
  // The small profile for print that comes with the decoder.
  await testPicture(300, 200).toColourspace('cmyk').withIccProfile('cmyk').tiff().toFile(at('inks.tif'));
  await testPicture(310, 210).toColourspace('b-w').png().toFile(at('grey-page.png'));
  await p3.clone().jpeg({ quality: 100, chromaSubsampling: '4:4:4' }).toFile(at('p3.jpg'));
  const tags = { 'EXIF:Artist': 'Orla Vessby', 'XMP-dc:Title': 'Fog – ünlit', 'EXIF:Model': 'K 1' };
  await exifTool().write(at('p3.jpg'), tags, { writeArgs: ['-overwrite_original'] });
});

const magick = (...args: string[]) => execFileSync('/usr/bin/convert-im6.q16', args, { maxBuffer: 1e9 });
/** What ImageMagick reads of the flattened picture, in 16 bits, the low byte first. */
const outside = (path: string, kind: 'rgb' | 'gray' | 'cmyk') => {
  const bytes = magick(`${path}[0]`, '-depth', '16', '-endian', 'LSB', `${kind}:-`);
  return new Uint16Array(bytes.buffer, bytes.byteOffset, bytes.length / 2);
};
const deep = ({ pixels }: Raster) => (pixels instanceof Uint16Array ? pixels : Uint16Array.from(pixels, (value) => value * 257));
const farthest = (one: ArrayLike<number>, other: ArrayLike<number>) => {
  expect(one.length).toBe(other.length);
  let most = 0;
  for (let index = 0; index < one.length; index++) most = Math.max(most, Math.abs(one[index]! - other[index]!));
  return most;
};
const readWhole = async (path: string): Promise<[MasterFacts, Raster]> => {
  const facts = await readFacts(path);
  return [facts, await decode(path, facts, '#ffffff')];
};

describe('a PSD', () => {
  const make = (name: string, from: string, ...how: string[]) => magick(from, ...how, at(name));

  it.each([
    ['rgb.psd', 'p3.png', 'rgb', 8, ['-compress', 'RLE'], 'Display P3'],
    ['plain.psd', 'p3.png', 'rgb', 8, ['-compress', 'None'], 'Display P3'],
    ['deep.psd', 'deep.png', 'rgb', 16, [], 'Display P3'],
    ['large.psb', 'p3.png', 'rgb', 8, ['-compress', 'RLE'], 'Display P3'],
    ['grey.psd', 'p3.png', 'gray', 8, ['-colorspace', 'Gray', '+profile', 'icc', '-compress', 'RLE'], null],
    ['inks.psd', 'inks.tif', 'cmyk', 8, ['-compress', 'RLE'], 'Chemical proof'],
  ] as const)('%s has the pixels, bits and profile that are in it', async (name, from, kind, bits, how, profile) => {
    make(name, at(from), ...how);
    const [facts, picture] = await readWhole(at(name));
    const model = { rgb: 'rgb', gray: 'grey', cmyk: 'cmyk' }[kind];
    expect(facts).toMatchObject({
      format: 'psd',
      width: 300,
      height: 200,
      bits,
      colourModel: model,
      profile,
      alpha: false,
      orientation: 1,
    });
    expect(farthest(deep(picture), outside(at(name), kind))).toBe(0);
  });

  it('with layers is its flattened picture; what is clear, or was selected, is left aside', async () => {
    magick(at('p3.png'), '(', '-size', '40x30', 'xc:red', ')', '(', '-clone', '0', '-alpha', 'set', ')', at('layers.psd'));
    const [facts, picture] = await readWhole(at('layers.psd'));
    expect(facts).toMatchObject({ width: 300, height: 200, alpha: false, channels: 3 });
    expect(farthest(deep(picture), outside(at('layers.psd'), 'rgb'))).toBe(0);
  });

  it('that cannot be read says why, and what to do', async () => {
    const said = async (name: string) =>
      readFacts(at(name)).then(
        () => '',
        (error: unknown) => String(error),
      );
    make('rgb.psd', at('p3.png'), '-compress', 'RLE');
    const whole = readFileSync(at('rgb.psd'));
    const broken = (name: string, change: (bytes: Buffer) => Buffer | void) => {
      const bytes = Buffer.from(whole);
      writeFileSync(at(name), change(bytes) ?? bytes);
    };
    broken('lab.psd', (bytes) => void bytes.writeUInt16BE(9, 24));
    broken('float.psd', (bytes) => void bytes.writeUInt16BE(32, 22));
    broken('huge.psd', (bytes) => void bytes.writeUInt32BE(2_000_000, 18));
    broken('short.psd', (bytes) => bytes.subarray(0, bytes.length - 1000));
    // An image resource that says that the flattened picture is not real (ID 1057), before all others.
    broken('layers-only.psd', (bytes) => {
      const block = Buffer.concat([Buffer.from('8BIM'), Buffer.from([0x04, 0x21, 0, 0, 0, 0, 0, 5, 0, 0, 0, 1, 0, 0])]);
      const head = Buffer.from(bytes.subarray(0, 34));
      head.writeUInt32BE(bytes.readUInt32BE(30) + block.length, 30);
      return Buffer.concat([head, block, bytes.subarray(34)]);
    });
    expect(await said('lab.psd')).toContain('in Lab mode. Convert it to RGB');
    expect(await said('float.psd')).toContain('32 bits per channel');
    expect(await said('huge.psd')).toContain('150 megapixels');
    expect(await said('short.psd')).toContain('damaged or cut off');
    expect(await said('layers-only.psd')).toContain('saved without its flattened picture');
  });

  it('is unpacked as the worked example of TIFF says', () => {
    // Apple Technical Note TN1023, "Understanding PackBits".
    const packed = Buffer.from('FEAA028000 2AFDAA0380002A22F7AA'.replace(/ /g, ''), 'hex');
    expect(unpacked(packed, 24).toString('hex').toUpperCase()).toBe('AAAAAA80002AAAAAAAAA80002A22AAAAAAAAAAAAAAAAAAAA');
    expect(() => unpacked(packed, 23)).toThrow('longer');
    expect(() => unpacked(packed, 25)).toThrow('shorter');
  });
});

describe('a TIFF', () => {
  const small = () => testPicture(40, 30).png().toFile(at('small.png'));
  const make = (name: string, ...how: string[]) => magick(at('p3.png'), ...how, at(name));

  it.each([
    ['colour by colour', 'plane.tif', ['-interlace', 'plane', '-compress', 'LZW']],
    ['in tiles', 'tiles.tif', ['-define', 'tiff:tile-geometry=64x64']],
    ['with JPEG inside', 'jpeg.tif', ['-compress', 'JPEG', '-quality', '95']],
    ['packed by runs', 'runs.tif', ['-compress', 'RLE']],
    ['of 16 bits, the high byte first', 'high.tif', ['-depth', '16', '-endian', 'MSB']],
    ['of 32 bits', 'long.tif', ['-depth', '32']],
    ['of fractions', 'float.tif', ['-depth', '32', '-define', 'quantum:format=floating-point']],
    ['of short fractions', 'half.tif', ['-depth', '16', '-define', 'quantum:format=floating-point']],
    ['of a palette', 'palette.tif', ['-type', 'Palette']],
  ] as const)('%s has the pixels that are in it', async (_, name, how) => {
    make(name, ...how);
    const [facts, picture] = await readWhole(at(name));
    expect(facts).toMatchObject({ format: 'tiff', width: 300, height: 200, pages: 1, profile: 'Display P3' });
    expect(facts.fractions).toBe(/float|half/.test(name));
    expect(farthest(deep(picture), outside(at(name), 'rgb')) / 257).toBeLessThanOrEqual(1);
    // The small picture for looking at is of the same numbers.
    const mean = (raster: Raster) => deep(raster).reduce((sum, value) => sum + value, 0) / raster.pixels.length / 257;
    const small = await decodeSmall(at(name), facts, { width: 150, height: 100 });
    expect(Math.abs(mean(small) - mean(picture))).toBeLessThan(1);
  });

  it('of smaller and smaller versions is the whole one', async () => {
    await sharp(at('p3.png')).keepIccProfile().tiff({ pyramid: true, tile: true, tileWidth: 64, tileHeight: 64 }).toFile(at('pyramid.tif'));
    expect((await sharp(at('pyramid.tif')).metadata()).pages).toBeGreaterThan(2);
    expect(await readFacts(at('pyramid.tif'))).toMatchObject({ width: 300, height: 200, pages: 1, page: 0 });
  });

  it('of several pages is the first one that is no thumbnail, with its own profile, in every way of reading', async () => {
    await small();
    magick(at('small.png'), at('p3.png'), at('grey-page.png'), at('pages.tif'));
    const [facts, picture] = await readWhole(at('pages.tif'));
    expect(facts).toMatchObject({ width: 300, height: 200, pages: 2, page: 1, profile: 'Display P3' });
    expect(farthest(deep(picture), outside(at('p3.png'), 'rgb'))).toBe(0);
    const rows = await decodeRows(at('pages.tif'), facts, 50, 10);
    expect(farthest(rows.pixels, picture.pixels.subarray(300 * 50 * 3, 300 * 60 * 3))).toBe(0);
    const [made] = await doneOf(at('pages.tif'), at('out-pages'), [preset({ size: { px: 150 } })]);
    expect(made).toMatchObject({ width: 150, height: 100 });
    // Or the one that is chosen; of one that there is not, the first.
    expect(await readFacts(at('pages.tif'), 2)).toMatchObject({ width: 310, height: 210, pages: 2, page: 2, colourModel: 'grey' });
    expect(await readFacts(at('pages.tif'), 9)).toEqual(facts);
  });

  it.each([
    [['-interlace', 'plane', '-define', 'tiff:tile-geometry=64x64'], /laid out in a way that is not read here/],
    [['-compress', 'LZMA'], /not read here \(LZMA compression\)\. Save it again with LZW or ZIP/],
    [['-colorspace', 'Lab'], /Lab of 8 bits/],
  ])('that cannot be read says why, and what to do', async (how, words) => {
    make('other.tif', ...how);
    await expect(readFacts(at('other.tif')).then((facts) => decode(at('other.tif'), facts, '#ffffff'))).rejects.toThrow(words);
  });
});

describe('an AVIF', () => {
  it.each([8, 10] as const)('of %s bits has the pixels that libheif reads', async (bitdepth) => {
    const name = at(`${bitdepth}.avif`);
    await sharp(at('p3.png')).avif({ bitdepth, quality: 90 }).toFile(name);
    const [facts, picture] = await readWhole(name);
    expect(facts).toMatchObject({ format: 'avif', bits: bitdepth === 8 ? 8 : 16 });
    execFileSync('/usr/bin/heif-convert', [name, `${name}.png`], { stdio: 'ignore' });
    expect(farthest(deep(picture), outside(`${name}.png`, 'rgb')) / 257).toBeLessThanOrEqual(1);
  });
});

describe('a HEIC', () => {
  const encode = (name: string, from: string[], ...how: string[]) =>
    execFileSync('/usr/bin/heif-enc', ['-q', '90', ...how, '-o', at(name), ...from], { stdio: 'ignore' });
  const own = (name: string) => {
    execFileSync('/usr/bin/heif-convert', [at(name), at(`${name}.png`)], { stdio: 'ignore' });
    return sharp(at(`${name}.png`), { ignoreIcc: true });
  };

  it('has the pixels, profile and metadata that are in it, and its preset’s files', async () => {
    encode('p3.heic', [at('p3.jpg')]);
    const [facts, picture] = await readWhole(at('p3.heic'));
    expect(facts).toMatchObject({ format: 'heic', width: 300, height: 200, bits: 8, profile: 'Display P3', orientation: 1 });
    expect(facts).toMatchObject({ rights: { creator: 'Orla Vessby' }, camera: 'K 1' });
    expect(farthest(picture.pixels, await own('p3.heic').raw().toBuffer())).toBe(0);
    const [made] = await doneOf(at('p3.heic'), at('out'), [preset({ size: { px: 150 } })]);
    expect(made).toMatchObject({ width: 150, height: 100 });
    expect(outsideTags(made!.path)).toMatchObject({ 'IFD0:Artist': 'Orla Vessby', 'XMP-dc:Title': 'Fog – ünlit' });
  });

  it('of 10 bits keeps them', async () => {
    encode('ten.heic', [at('deep.png')], '-b', '10', '-p', 'chroma=444', '--matrix_coefficients=0', '-L');
    const [facts, picture] = await readWhole(at('ten.heic'));
    expect(facts).toMatchObject({ bits: 16, colourModel: 'rgb' });
    const { data } = await sharp(at('deep.png'), { ignoreIcc: true })
      .toColourspace('rgb16')
      .raw({ depth: 'ushort' })
      .toBuffer({ resolveWithObject: true });
    // Two steps of 10 bits; half a step of 8 would be 128, and there are more levels than those of 8 bits.
    expect(farthest(picture.pixels, new Uint16Array(data.buffer, data.byteOffset, data.length / 2))).toBeLessThanOrEqual(127);
    expect(new Set(picture.pixels).size).toBeGreaterThan(300);
  });

  it.each([
    [1, 'irot', (upright: Sharp) => upright.rotate(270)],
    [2, 'irot', (upright: Sharp) => upright.rotate(180)],
    [3, 'irot', (upright: Sharp) => upright.rotate(90)],
    [1, 'imir', (upright: Sharp) => upright.flop()],
  ] as const)('that is turned (%s) by its box %s is upright, whatever EXIF says', async (value, box, upright) => {
    const name = `${box}-${value}`;
    copyFileSync(at('p3.jpg'), at(`${name}.jpg`));
    await exifTool().write(at(`${name}.jpg`), { 'EXIF:Orientation#': 6 }, { writeArgs: ['-overwrite_original'] });
    encode(`${name}.heic`, [at(`${name}.jpg`)]);
    // The encoder writes no such box: one that tells the bits becomes it (ISO/IEC 23008-12, 6.5.6, 6.5.10 and 6.5.12).
    const bytes = readFileSync(at(`${name}.heic`));
    const place = bytes.indexOf('pixi');
    bytes.write(box, place);
    bytes[place + 4] = value;
    writeFileSync(at(`${name}.heic`), bytes);
    const [facts, picture] = await readWhole(at(`${name}.heic`));
    const { data, info } = await upright(sharp(at(`${name}.jpg`), { ignoreIcc: true }))
      .raw()
      .toBuffer({ resolveWithObject: true });
    expect(facts).toMatchObject({ width: info.width, height: info.height, orientation: 1 });
    expect(picture).toMatchObject({ width: info.width, height: info.height });
    let sum = 0;
    for (let index = 0; index < data.length; index++) sum += Math.abs(data[index]! - picture.pixels[index]!);
    expect(sum / data.length).toBeLessThan(4);
  });

  it('of several pictures is its main one; one that is cut off says so', async () => {
    await testPicture(120, 80).png().toFile(at('small.png'));
    encode('two.heic', [at('small.png'), at('p3.png')]);
    expect(await readFacts(at('two.heic'))).toMatchObject({ width: 120, height: 80, pages: 1 });
    copyFileSync(at('two.heic'), at('cut.heic'));
    truncateSync(at('cut.heic'), 900);
    await expect(readFacts(at('cut.heic'))).rejects.toThrow(/damaged or cut off/);
  });
});

describe('a JPEG XL', () => {
  const encode = (name: string, from: string, ...how: string[]) => execFileSync('/usr/bin/cjxl', [at(from), at(name), '--quiet', ...how]);
  const own = (name: string) => {
    execFileSync('/usr/bin/djxl', [at(name), at(`${name}.ppm`), '--quiet']);
    return outside(at(`${name}.ppm`), 'rgb');
  };

  it.each([
    ['lossless.jxl', 'p3.png', 8, ['-d', '0']],
    ['deep.jxl', 'deep.png', 16, ['-d', '0']],
    ['lossy.jxl', 'p3.png', 8, ['-d', '1']],
    ['from-jpeg.jxl', 'p3.jpg', 8, ['-j', '1']],
  ] as const)('%s has the pixels, bits and profile that are in it', async (name, from, bits, how) => {
    encode(name, from, ...how);
    const [facts, picture] = await readWhole(at(name));
    expect(facts).toMatchObject({ format: 'jxl', width: 300, height: 200, bits, profile: 'Display P3', orientation: 1 });
    expect(farthest(deep(picture), own(name)) / 257).toBeLessThanOrEqual(1);
  });

  it('that is cut off says so', async () => {
    encode('cut.jxl', 'p3.png', '-d', '1');
    truncateSync(at('cut.jxl'), 3000);
    await expect(readFacts(at('cut.jxl'))).rejects.toThrow(/damaged or cut off/);
  });
});

describe('a raw file', () => {
  const jpeg = (width: number, height: number) => testPicture(width, height).jpeg().toBuffer();

  it('is the full-size JPEG in it, whatever that is called there, upright', async () => {
    const [large, small] = [await jpeg(600, 400), await jpeg(160, 120)];
    writeFileSync(at('first.dng'), rawFile([small, large], [608, 404]));
    writeFileSync(at('last.dng'), rawFile([large, small], [608, 404]));
    for (const name of ['first.dng', 'last.dng']) {
      const [facts, picture] = await readWhole(at(name));
      expect(facts).toMatchObject({ format: 'raw', width: 400, height: 600, orientation: 6, bits: 8, camera: 'Farhaven K 1' });
      expect(masterFindings(facts, name).map(({ message }) => message)).toContain(
        'The camera’s own JPEG, 400 x 600, is used; the raw data are not developed.',
      );
      const upright = await sharp(large).rotate(90).raw().toBuffer();
      expect(farthest(picture.pixels, upright)).toBe(0);
    }
  });

  it.each([
    ['a preview alone', async () => [await jpeg(160, 120)], /developed first: the picture in it has only 160 x 120 px/],
    ['none', () => Promise.resolve([]), /developed first: no finished picture is in it/],
  ])('with %s has to be developed first', async (_, pictures, words) => {
    writeFileSync(at('preview.nef'), rawFile(await pictures(), [608, 404]));
    await expect(readFacts(at('preview.nef'))).rejects.toThrow(words);
  });
});
