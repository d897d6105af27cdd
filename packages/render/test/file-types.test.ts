import { execFileSync } from 'node:child_process';
import { readFileSync, statSync, utimesSync } from 'node:fs';
import { join } from 'node:path';
import { lumaOf, msSsim, type Preset, type Watermark } from '@rundle/core';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { endExifTool, exifTool } from '../src/read/exiftool';
import { doneOf, folder, outsideTags, preset, render, testPicture } from './pictures';

const dir = folder();
const master = join(dir, 'master.jpg');
afterAll(endExifTool);
beforeAll(async () => {
  await testPicture(900, 600).withIccProfile('srgb').jpeg({ quality: 96, chromaSubsampling: '4:4:4' }).toFile(master);
  const tags = {
    'EXIF:Artist': 'Orla Vessby',
    'XMP-dc:Title': 'Fog – ünlit',
    'EXIF:GPSLatitude': 40,
    'EXIF:GPSLatitudeRef': 'N',
    'IPTC:City': 'Emberquay',
    'EXIF:DateTimeOriginal': '2026:06:20 21:40:00',
    'EXIF:OffsetTimeOriginal': '+02:00',
  };
  await exifTool().write(master, tags, { writeArgs: ['-overwrite_original'] });
});

const rgb = async (path: string) => {
  const { data, info } = await sharp(path, { ignoreIcc: true })
    .removeAlpha()
    .toColourspace('srgb')
    .raw()
    .toBuffer({ resolveWithObject: true });
  return { width: info.width, height: info.height, pixels: new Uint8Array(data) };
};

describe('every file type', () => {
  const IPTC = ['jpeg', 'png', 'tiff'];
  it.each<[Preset['file']['type'], Partial<Preset['file']>, object]>([
    ['jpeg', { progressive: false }, { 'JFIF:XResolution': 240, 'File:EncodingProcess': 'Baseline DCT, Huffman coding' }],
    ['webp', {}, { 'File:FileType': expect.stringContaining('WEBP') as string }],
    ['avif', {}, { 'File:FileType': 'AVIF' }],
    ['png', {}, { 'PNG:BitDepth': 8, 'PNG-pHYs:PixelsPerUnitX': 9449 }],
    ['png', { bits: 16 }, { 'PNG:BitDepth': 16 }],
    ['tiff', { compression: 'none' }, { 'IFD0:Compression': 'Uncompressed', 'IFD0:BitsPerSample': '8 8 8' }],
    ['tiff', { compression: 'lzw' }, { 'IFD0:Compression': 'LZW' }],
    ['tiff', { compression: 'zip', bits: 16 }, { 'IFD0:Compression': 'Adobe Deflate', 'IFD0:BitsPerSample': '16 16 16' }],
  ])('%s %j is what outside readers say it is, with its metadata and resolution', async (type, file, expected) => {
    const [output] = await doneOf(master, join(dir, `${type} ${JSON.stringify(file)}`), [
      preset({ size: { px: 300, ppi: 240 }, file: { type, ...file } }),
    ]);
    const tags = outsideTags(output!.path);
    const iptc = IPTC.includes(type) ? { 'IPTC:By-line': 'Orla Vessby', 'IPTC:ObjectName': 'Fog – ünlit' } : {};
    expect(tags).toMatchObject({
      ...expected,
      ...iptc,
      'IFD0:Artist': 'Orla Vessby',
      'XMP-dc:Title': 'Fog – ünlit',
      'IFD0:XResolution': 240,
    });
    expect(tags['ICC_Profile:ProfileDescription'] ?? tags['ICC-header:ProfileClass']).toBeDefined();
    expect(JSON.stringify(tags)).not.toMatch(/Emberquay|GPSLatitude"/);
    const read = await sharp(output!.path).metadata();
    expect(read).toMatchObject({ width: 300, height: 200, depth: file.bits === 16 ? 'ushort' : 'uchar' });
    if (type !== 'avif')
      expect(execFileSync('identify-im6.q16', ['-regard-warnings', '-format', '%w x %h', output!.path], { encoding: 'utf8' })).toBe(
        '300 x 200',
      );
  });

  it('16 bits keep more than 8: a slow gradient has more levels', async () => {
    const gradient = join(dir, 'gradient.tif');
    const pixels = Uint16Array.from({ length: 600 * 60 * 3 }, (_, at) => 20_000 + (Math.floor(at / 3) % 600));
    await sharp(pixels, { raw: { width: 600, height: 60, channels: 3 } })
      .toColourspace('rgb16')
      .tiff({ compression: 'none' })
      .toFile(gradient);
    const as = (bits: 8 | 16) => preset({ size: { px: 300 }, sharpen: null, file: { type: 'tiff', bits } });
    const [eight, sixteen] = await doneOf(gradient, join(dir, 'gradient'), [as(8), as(16)]);
    const levels = async (path: string) => {
      const { data } = await sharp(path, { ignoreIcc: true })
        .toColourspace('rgb16')
        .raw({ depth: 'ushort' })
        .toBuffer({ resolveWithObject: true });
      return new Set(new Uint16Array(data.buffer, data.byteOffset, data.length / 2)).size;
    };
    expect(await levels(eight!.path)).toBeLessThanOrEqual(6);
    expect(await levels(sixteen!.path)).toBeGreaterThan(250);
  });
});

describe('quality', () => {
  it.each([20, 50, 75, 90])(
    '%f has the quantisation tables of ITU-T T.81, annex K, scaled as the Independent JPEG Group does',
    async (quality) => {
      const [output] = await doneOf(master, join(dir, `q${quality}`), [preset({ size: { px: 200 }, file: { quality } })]);
      // T.81 table K.1 and K.2, first row of each (from memory), in the zigzag order of a DQT segment's first entries.
      const K1 = { 0: 16, 1: 11, 2: 12, 3: 14, 4: 12, 5: 10, 6: 16, 7: 14 };
      const K2 = { 0: 17, 1: 18, 2: 18, 3: 24, 4: 21, 5: 24, 6: 47, 7: 26 };
      const scale = quality < 50 ? 5000 / quality : 200 - 2 * quality;
      const tables = quantisationTables(readFileSync(output!.path));
      for (const [table, base] of [
        [tables[0], K1],
        [tables[1], K2],
      ] as const)
        for (const [at, value] of Object.entries(base))
          expect(table![Number(at)]).toBe(Math.max(1, Math.min(255, Math.floor((value * Math.floor(scale) + 50) / 100))));
    },
  );

  it.each(['jpeg', 'webp'] as const)('is the lowest that matches the unencoded picture (%s)', async (type) => {
    const as = (file: object) => preset({ size: { px: 450 }, file: { type, chroma: '4:4:4', ...file } });
    const [found, lossless] = await doneOf(master, join(dir, `match ${type}`), [
      as({ match: 0.985 }),
      preset({ size: { px: 450 }, file: { type: 'png' } }),
    ]);
    const [below] = await doneOf(master, join(dir, `below ${type}`), [as({ quality: found!.quality! - 1 })]);
    const before = lumaOf(await rgb(lossless!.path));
    expect(msSsim(before, lumaOf(await rgb(found!.path)))).toBeGreaterThanOrEqual(0.985);
    expect(msSsim(before, lumaOf(await rgb(below!.path)))).toBeLessThan(0.985);
  });

  it.each(['webp', 'avif'] as const)('goes down until the whole file is under its ceiling (%s)', async (type) => {
    const bytes = 9000;
    const [output] = await doneOf(master, join(dir, `ceiling ${type}`), [
      preset({ size: { px: 500 }, file: { type, quality: 90, ceiling: { bytes, floor: 5, then: 'fail' } } }),
    ]);
    expect(statSync(output!.path).size).toBeLessThanOrEqual(bytes);
    expect(output!.quality).toBeLessThan(90);
  });
});

/** The tables of a JPEG's DQT segments (ITU-T T.81, B.2.4.1), in zigzag order. */
function quantisationTables(jpeg: Buffer): number[][] {
  const tables: number[][] = [];
  for (let at = 2; jpeg[at + 1] !== 0xda; at += 2 + jpeg.readUInt16BE(at + 2)) {
    if (jpeg[at + 1] !== 0xdb) continue;
    const end = at + 2 + jpeg.readUInt16BE(at + 2);
    for (let from = at + 4; from < end; from += 65) tables[jpeg[from]! & 15] = [...jpeg.subarray(from + 1, from + 65)];
  }
  return tables;
}

describe('transparency', () => {
  it('is kept where the type can hold it, and laid over the preset’s backdrop where not', async () => {
    const path = join(dir, 'half.png');
    const pixels = Buffer.from(Array.from({ length: 100 * 80 }, (_, at) => (at % 100 < 50 ? [200, 40, 40, 255] : [0, 0, 0, 0])).flat());
    await sharp(pixels, { raw: { width: 100, height: 80, channels: 4 } })
      .png()
      .toFile(path);
    const [png, webp, jpeg] = await doneOf(path, join(dir, 'half'), [
      preset({ size: { px: 50 }, sharpen: null, file: { type: 'png' }, border: { px: 2, colour: '#00ff00' } }),
      preset({ size: { px: 50 }, sharpen: null, file: { type: 'webp' } }),
      preset({ size: { px: 50 }, sharpen: null, colour: { backdrop: '#0000ff' }, file: { quality: 100, chroma: '4:4:4' } }),
    ]);
    const at = async (file: string, x: number, y: number) => [
      ...(await sharp(file).ensureAlpha().extract({ left: x, top: y, width: 1, height: 1 }).raw().toBuffer()),
    ];
    expect(await at(png!.path, 0, 0)).toEqual([0, 255, 0, 255]);
    expect(await at(png!.path, 12, 20)).toEqual([200, 40, 40, 255]);
    expect((await at(png!.path, 45, 20))[3]).toBe(0);
    expect((await at(webp!.path, 45, 20))[3]).toBe(0);
    const [r = 0, g = 0, b = 0] = await at(jpeg!.path, 45, 20);
    expect(r < 4 && g < 4 && b > 250).toBe(true);
    // The colour right at the edge is still the picture's, not mixed with what is hidden under the clear part.
    const edge = await at(png!.path, 26, 20);
    expect(edge[0]! > 190 || edge[3] === 0).toBe(true);
  });
});

const PLAIN = { typeface: 'sans', edge: 'none', adapt: false } as const;

describe('a watermark', () => {
  const drawn = async (watermark: Watermark, mark: object = {}) => {
    const as = preset({
      size: { px: 400 },
      sharpen: null,
      file: { type: 'png' },
      mark: { watermark: 'it', place: 'bottom-right', margin: 0, size: 0.5, opacity: 1, ...mark },
    });
    const grey = join(dir, 'grey.png');
    await sharp({ create: { width: 400, height: 300, channels: 3, background: '#404040' } })
      .png()
      .toFile(grey);
    const [result] = await render(grey, join(dir, `mark ${Math.random()}`), [as], undefined, watermark);
    return result!;
  };
  const svg = (inside: string): Watermark => ({
    kind: 'svg',
    data: Buffer.from(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 20 10">${inside}</svg>`),
    dark: null,
  });

  it('is drawn where it belongs, in its colour, and nowhere else', async () => {
    const result = await drawn(svg('<rect width="20" height="10" fill="#ff8000"/>'), { opacity: 0.5 });
    if (result.status !== 'done') throw new Error(JSON.stringify(result));
    const { pixels } = await rgb(result.path);
    const pixel = (x: number, y: number) => [...pixels.subarray((y * 400 + x) * 3, (y * 400 + x) * 3 + 3)];
    for (const [x, y] of [
      [399, 299],
      [251, 226], // 150 x 75 px at the bottom right
    ] as const)
      pixel(x, y).forEach((value, c) => expect(Math.abs(value - [159.5, 96, 32][c]!)).toBeLessThan(1));
    expect(pixel(248, 290)).toEqual([64, 64, 64]);
  });

  it('can be a line of text, the same on every machine', async () => {
    const result = await drawn({ kind: 'text', text: '© Ærø – Lanternfold', colour: '#ffffff', ...PLAIN }, { size: 1, place: 'centre' });
    if (result.status !== 'done') throw new Error(JSON.stringify(result));
    const { pixels } = await rgb(result.path);
    const bright = pixels.filter((value) => value > 200).length / 3;
    expect(bright).toBeGreaterThan(300);
    expect(bright).toBeLessThan(6000);
    expect(await drawn({ kind: 'text', text: '漢', colour: '#ffffff', ...PLAIN })).toMatchObject({
      status: 'failed',
      error: { code: 'watermark-letters' },
    });
  });

  it.each([
    ['<script>alert(1)</script>', 'script'],
    ['<rect onload="x()" width="3" height="3"/>', 'onload'],
    ['<image href="https://example.org/x.png" width="3" height="3"/>', 'reference'],
    ['<image xmlns:x="http://www.w3.org/1999/xlink" x:href="file:///etc/passwd" width="3" height="3"/>', 'reference'],
    ['<rect style="fill:url(http://example.org/#a)" width="3" height="3"/>', 'reference'],
    ['<style>@import "x.css";</style>', 'import'],
    ['<foreignObject><b>x</b></foreignObject>', 'foreignObject'],
    ['<rect style="fill:u\\72l(http://example.org/#a)" width="3" height="3"/>', 'an escaped sign in style'],
    ['<style>@\\69mport "x.css";</style>', 'an escaped sign in <style>'],
    [nested(9), 'more than 50000 elements'],
    ['<g id="a"><use href="#b"/></g><g id="b"><use href="#a"/></g>', 'uses itself'],
    [`${'<g>'.repeat(300)}${'</g>'.repeat(300)}`, 'deep in others'],
  ])('that is an SVG with %s is refused', async (inside, word) => {
    const result = await drawn(svg(inside));
    expect(result).toMatchObject({
      status: 'failed',
      error: { code: 'watermark-unsafe', message: expect.stringContaining(word) as string },
    });
  });

  it('that is no picture is refused', async () => {
    expect(await drawn({ kind: 'png', data: Buffer.from('no picture'), dark: null })).toMatchObject({
      error: { code: 'watermark-unreadable' },
    });
    expect(
      await drawn({ kind: 'svg', data: Buffer.from('<!DOCTYPE svg [<!ENTITY a SYSTEM "file:///etc/passwd">]><svg/>'), dark: null }),
    ).toMatchObject({ error: { code: 'watermark-unsafe' } });
  });
});

/** Elements that use others ten times, which use others: 10 to the power of their number. */
function nested(levels: number): string {
  const uses = (of: number) => `<use href="#l${of}"/>`.repeat(10);
  const level = (at: number) => `<g id="l${at}">${at === 0 ? '<rect width="1" height="1"/>' : uses(at - 1)}</g>`;
  return `<defs>${Array.from({ length: levels }, (_, at) => level(at)).join('')}</defs>${uses(levels - 1)}`;
}

describe('the time of a file', () => {
  it('is that of the capture or of the master, if asked', async () => {
    utimesSync(master, new Date('2026-07-01T10:00:00Z'), new Date('2026-07-01T10:00:00Z'));
    const as = (fileTime: 'now' | 'capture' | 'master') => preset({ size: { px: 100 }, metadata: { fileTime } });
    const outputs = await doneOf(master, join(dir, 'times'), [as('now'), as('capture'), as('master')]);
    const [now, capture, kept] = outputs.map(({ path }) => statSync(path).mtime);
    expect(Date.now() - now!.getTime()).toBeLessThan(60_000);
    expect(capture!.toISOString()).toBe('2026-06-20T19:40:00.000Z');
    expect(kept!.toISOString()).toBe('2026-07-01T10:00:00.000Z');
  });
});
