import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Sharp, TiffOptions } from 'sharp';
import { afterAll, expect, it } from 'vitest';
import { endExifTool } from '../src/read/exiftool';
import { readFacts } from '../src/read/facts';
import { askForShortestTables } from '../src/types/jpeg/turbo';
import { callLibraries } from '../src/types/libraries';
import { openTiffRows } from '../src/types/tiff/rows';
import { folder, preset, render, testPicture } from './pictures';

/*
 * Debian's libtiff against the decoder of libvips: whichever is at hand, a large TIFF of 16 bits comes out the same to the last bit.
 */

const dir = folder();
afterAll(endExifTool);
// As all programs do that call them, and before any does: its outputs are JPEGs.
askForShortestTables();
// Tests of other files may run in the same program.
afterAll(() => callLibraries(false));

const deep = (): Sharp => testPicture(3601, 2403).linear(1.03, -0.7).toColourspace('rgb16');

async function master(name: string, options: TiffOptions, picture = deep()): Promise<string> {
  await picture.tiff(options).toFile(join(dir, name));
  return join(dir, name);
}

/** What ImageMagick makes of a TIFF. */
function rewritten(path: string, name: string, ...options: string[]): string {
  execFileSync('convert-im6.q16', ['-limit', 'memory', '2GiB', path, ...options, join(dir, name)]);
  return join(dir, name);
}

it('what is rendered is the same file with libtiff and without it, however the master is packed, and a broken one is told alike', async () => {
  const plain = await master('plain.tif', { compression: 'none' });
  const masters = [
    await master('lzw.tif', { compression: 'lzw', predictor: 'horizontal' }),
    rewritten(plain, 'big-endian.tif', '-endian', 'MSB', '-compress', 'Zip'),
    rewritten(plain, 'one-strip.tif', '-define', 'tiff:rows-per-strip=2403', '-compress', 'LZW'),
  ];
  const broken = await master('broken.tif', { compression: 'deflate', predictor: 'horizontal' });
  const bytes = readFileSync(broken);
  writeFileSync(broken, bytes.fill(0x55, bytes.length / 2, bytes.length / 2 + 5000));
  const presets = [
    preset({ folder: 'half', size: { px: 1200 } }),
    preset({ folder: 'square', size: { px: 2000, ratio: { w: 1, h: 1 }, light: 'linear' } }),
  ];
  const made = async (way: string) => {
    const files: Buffer[] = [];
    for (const [at, path] of masters.entries())
      for (const result of await render(path, join(dir, `${way}-${at}`), presets)) {
        if (result.status === 'failed') throw new Error(JSON.stringify([path, result.error]));
        files.push(readFileSync(result.path));
      }
    const refused = await render(broken, join(dir, `${way}-broken`), presets);
    return { files, told: refused.map((result) => (result.status === 'failed' ? result.error : result.status)) };
  };
  callLibraries(false);
  const without = await made('without');
  expect(openTiffRows(plain, await readFacts(plain))).toBeNull();
  callLibraries();
  for (const path of masters) {
    const opened = openTiffRows(path, await readFacts(path));
    expect([path, opened !== null]).toEqual([path, true]);
    opened?.close();
  }
  const withIt = await made('with');
  expect(withIt.files).toHaveLength(masters.length * presets.length);
  withIt.files.forEach((file, at) => expect([at, Buffer.compare(file, without.files[at]!)]).toEqual([at, 0]));
  expect(without.told.every((told) => typeof told === 'object')).toBe(true);
  expect(withIt.told).toEqual(without.told);
});

it('leaves to libvips what it does not read', async () => {
  callLibraries();
  const plain = join(dir, 'plain.tif');
  for (const path of [
    await master('tiled.tif', { compression: 'none', tile: true }),
    await master('of-bytes.tif', { compression: 'none' }, testPicture(3601, 2403)),
    await master('grey.tif', { compression: 'none' }, deep().toColourspace('grey16')),
    rewritten(plain, 'planes.tif', '-interlace', 'Plane'),
  ])
    expect([path, openTiffRows(path, await readFacts(path))]).toEqual([path, null]);
  expect(openTiffRows(plain, { page: 0, width: 3601, height: 2402 })).toBeNull();
  expect(openTiffRows(plain, { page: 1, width: 3601, height: 2403 })).toBeNull();
});
