import { execFileSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Raster, UnsharpMask } from '@rundle/core';
import { unsharpMask } from '@rundle/core';
import sharp from 'sharp';
import { afterAll, describe, expect, it } from 'vitest';
import { endExifTool } from '../src/read/exiftool';
import { doneOf, folder, preset, render, testPicture } from './pictures';

afterAll(endExifTool);

const dir = folder();
const keep = (more: Parameters<typeof preset>[0] = {}) =>
  preset({ size: { fit: 'original' }, sharpen: null, colour: { space: 'keep' }, ...more });
const raw = async (path: string) => {
  const { space, depth, icc } = await sharp(path).metadata();
  const opened = sharp(path, { ignoreIcc: true });
  const own = space === 'cmyk' ? opened.pipelineColourspace('cmyk').toColourspace('cmyk') : opened.toColourspace(space ?? 'srgb');
  const { data, info } = await own.raw({ depth: depth === 'ushort' ? 'ushort' : 'uchar' }).toBuffer({ resolveWithObject: true });
  return { data, channels: info.channels, icc, space };
};

describe('colours that are kept', () => {
  it.each([
    ['grey', 'b-w', 8, 'tiff'],
    ['grey', 'b-w', 8, 'png'],
    ['grey', 'grey16', 16, 'tiff'],
    ['grey', 'grey16', 16, 'png'],
    ['cmyk', 'cmyk', 8, 'tiff'],
    ['cmyk', 'cmyk', 16, 'tiff'],
  ] as const)('of a %s master (%s, %i bits) are the same numbers and the same profile in %s', async (model, space, bits, type) => {
    const master = join(dir, `${model}-${bits}-${type}.tif`);
    const icc = model === 'grey' ? greyProfile() : 'cmyk';
    const picture = testPicture(240, 160);
    const inks = model === 'cmyk' ? picture.withIccProfile('cmyk').toColourspace('cmyk') : picture.toColourspace(space).withIccProfile(icc);
    await inks.tiff({ compression: 'none' }).toFile(master);
    if (model === 'cmyk' && bits === 16) execFileSync('convert-im6.q16', [master, '-depth', '16', master]);
    const before = await raw(master);
    const [output] = await doneOf(master, join(dir, `${model}-${bits}-${type}`), [keep({ file: { type, bits, compression: 'none' } })]);
    const after = await raw(output!.path);
    expect(after.channels).toBe(model === 'grey' ? 1 : 4);
    expect(Buffer.compare(after.icc!, before.icc!)).toBe(0);
    expect(Buffer.compare(after.data, before.data)).toBe(0);
  });

  it('come out as JPEG that an outside reader knows, with marks and borders in the master’s own inks', async () => {
    const master = join(dir, 'print.jpg');
    await testPicture(300, 200).withIccProfile('cmyk').toColourspace('cmyk').jpeg({ quality: 98 }).toFile(master);
    const [jpeg] = await doneOf(master, join(dir, 'jpeg'), [
      keep({ file: { type: 'jpeg', quality: 95 }, border: { px: 10, colour: '#ffffff' } }),
    ]);
    expect(execFileSync('identify-im6.q16', ['-format', '%w %h %[colorspace]', jpeg!.path], { encoding: 'utf8' })).toBe('320 220 CMYK');
    const { data } = await raw(jpeg!.path);
    for (const ink of data.subarray(0, 4)) expect(ink).toBeLessThan(3); // white is bare paper
    const mark = { watermark: 'name', place: 'centre' as const, size: 0.5, opacity: 1, margin: 0 };
    const watermark = { kind: 'text' as const, text: 'X', colour: '#000000', typeface: 'sans', edge: 'none', adapt: false } as const;
    const [marked] = await doneOf(
      master,
      join(dir, 'marked'),
      [keep({ file: { type: 'tiff', compression: 'none' }, mark })],
      undefined,
      watermark,
    );
    const [plain] = await doneOf(master, join(dir, 'plain'), [keep({ file: { type: 'tiff', compression: 'none' } })]);
    const [dark, light] = [await raw(marked!.path), await raw(plain!.path)];
    const inks = (values: Buffer) => values.reduce((sum, ink) => sum + ink, 0);
    expect(inks(dark.data)).toBeGreaterThan(inks(light.data)); // black letters take ink
  });

  it('are refused where nothing could carry them', async () => {
    const master = join(dir, 'inks.tif');
    await testPicture(120, 80).toColourspace('cmyk').tiff().toFile(master);
    const stripped = join(dir, 'bare.tif');
    execFileSync('convert-im6.q16', [master, '-strip', stripped]);
    expect(await render(stripped, join(dir, 'refused'), [keep({ file: { type: 'tiff' } })])).toMatchObject([
      { status: 'failed', error: { code: 'no-profile-to-keep', field: 'colour.space' } },
    ]);
  });
});

/* The formula of the preset file, evaluated directly: sigma in px, d on luma, added to grey and subtracted from inks. */
describe('sharpening of grey and inks', () => {
  const how: UnsharpMask = { amount: 0.8, radius: 1, threshold: 0.01 };
  const direct = ({ width, height, channels, pixels }: Raster): number[] => {
    const value = (x: number, y: number, c: number) =>
      pixels[(Math.min(height - 1, Math.max(0, y)) * width + Math.min(width - 1, Math.max(0, x))) * channels + c]! / 65_535;
    const luma = (x: number, y: number) => {
      if (channels === 1) return value(x, y, 0);
      const [c, m, yellow, k] = [0, 1, 2, 3].map((ink) => value(x, y, ink)) as [number, number, number, number];
      return 0.2126 * (1 - c) * (1 - k) + 0.7152 * (1 - m) * (1 - k) + 0.0722 * (1 - yellow) * (1 - k);
    };
    const reach = 3;
    const weight = (i: number, j: number) => Math.exp(-(i * i + j * j) / 2);
    let total = 0;
    for (let i = -reach; i <= reach; i++) for (let j = -reach; j <= reach; j++) total += weight(i, j);
    const out: number[] = [];
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        let mean = 0;
        for (let i = -reach; i <= reach; i++) for (let j = -reach; j <= reach; j++) mean += (weight(i, j) / total) * luma(x + i, y + j);
        const d = luma(x, y) - mean;
        const add = Math.abs(d) >= how.threshold ? how.amount * d : 0;
        for (let c = 0; c < channels; c++) out.push(Math.min(1, Math.max(0, value(x, y, c) + (channels === 4 ? -add : add))));
      }
    return out;
  };

  it.each([1, 4] as const)('follows the formula (%i channels)', (channels) => {
    const [width, height] = [23, 17];
    const pixels = Uint16Array.from({ length: width * height * channels }, (_, at) => (at * 7919 * (1 + (at % 13))) % 65_536);
    const image: Raster<Uint16Array> = { width, height, channels, pixels };
    const expected = direct(image);
    unsharpMask(image, how);
    const off = expected.map((value, at) => Math.abs(value * 65_535 - image.pixels[at]!));
    expect(Math.max(...off)).toBeLessThan(2);
  });
});

let grey: string | undefined;
function greyProfile(): string {
  if (grey) return grey;
  grey = join(dir, 'grey.icc');
  writeFileSync(grey, greyIcc());
  return grey;
}

/** The least profile of grey that ICC.1:2022 allows (8.5 monochrome display): white point and a curve of 2.2. */
function greyIcc(): Buffer {
  const text = (value: string) => {
    const body = Buffer.alloc(28 + 2 * value.length);
    body.write('mluc', 0, 'latin1');
    body.writeUInt32BE(1, 8);
    body.writeUInt32BE(12, 12);
    body.write('enUS', 16, 'latin1');
    body.writeUInt32BE(2 * value.length, 20);
    body.writeUInt32BE(28, 24);
    [...value].forEach((letter, at) => body.writeUInt16BE(letter.charCodeAt(0), 28 + 2 * at));
    return body;
  };
  const white = Buffer.from('58595a20000000000000f6d6000100000000d32d', 'hex'); // D50, s15Fixed16
  const curve = Buffer.from('63757276000000000000000102330000', 'hex'); // u8Fixed8 2.2
  const parts: [string, Buffer][] = [
    ['desc', text('Grey 2.2')],
    ['cprt', text('None')],
    ['wtpt', white],
    ['kTRC', curve],
  ];
  const padded = parts.map(([name, body]) => [name, Buffer.concat([body, Buffer.alloc((4 - (body.length % 4)) % 4)])] as const);
  const header = Buffer.alloc(128);
  const table = Buffer.alloc(4 + 12 * parts.length);
  table.writeUInt32BE(parts.length);
  let at = 128 + table.length;
  padded.forEach(([name, body], index) => {
    table.write(name, 4 + 12 * index, 'latin1');
    table.writeUInt32BE(at, 8 + 12 * index);
    table.writeUInt32BE(body.length, 12 + 12 * index);
    at += body.length;
  });
  header.writeUInt32BE(at, 0);
  header.writeUInt32BE(0x04200000, 8);
  header.write('mntrGRAYXYZ ', 12, 'latin1');
  header.write('acsp', 36, 'latin1');
  header.write('0000f6d6000100000000d32d', 68, 'hex');
  return Buffer.concat([header, table, ...padded.map(([, body]) => body)]);
}
