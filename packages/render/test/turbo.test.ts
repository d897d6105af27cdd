import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { readFileSync, truncateSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { iccProfileOf } from '@rundle/core';
import sharp from 'sharp';
import { afterAll, expect, it } from 'vitest';
import { endExifTool } from '../src/read/exiftool';
import { withProfile } from '../src/types/jpeg/segments';
import { askForShortestTables, PROBE_FILE, PROBE_PIXELS, PROBE_QUALITY, probePicture, turboJpeg } from '../src/types/jpeg/turbo';
import { callLibraries } from '../src/types/libraries';
import { pixelFile } from '../src/write/pixel-file';
import { folder, preset, render, testPicture } from './pictures';

/*
 * Debian's libturbojpeg against the decoder and the encoder of libvips: whichever is at hand, a picture comes out the same to the last bit.
 */

const dir = folder();
afterAll(endExifTool);
// Tests of other files may run in the same program.
afterAll(() => callLibraries(false));

it('what is rendered is the same file with libturbojpeg and without it, however the master lies', async () => {
  const masters: string[] = [];
  for (const orientation of [1, 3, 6, 7]) {
    const path = join(dir, `lying-${orientation}.jpg`);
    const picture = testPicture(3601, 2403).jpeg({ quality: 90, chromaSubsampling: orientation === 3 ? '4:2:0' : '4:4:4' });
    await picture.withMetadata({ orientation }).toFile(path);
    masters.push(path);
  }
  const presets = [
    preset({ folder: 'half', size: { px: 1200 } }),
    preset({ folder: 'large', size: { px: 3000 }, file: { progressive: false } }),
  ];
  const made = async (way: string) => {
    const files: Buffer[] = [];
    for (const [at, master] of masters.entries()) {
      const results = await render(master, join(dir, `${way}-${at}`), presets);
      expect(results.map(({ status }) => status)).toEqual(['done', 'done']);
      for (const result of results) if (result.status === 'done') files.push(readFileSync(result.path));
    }
    return files;
  };
  callLibraries(false);
  expect(turboJpeg()).toBeNull();
  const without = await made('without');
  askForShortestTables();
  callLibraries();
  expect(turboJpeg()).not.toBeNull();
  const withIt = await made('with');
  withIt.forEach((file, at) => expect([at, Buffer.compare(file, without[at]!)]).toEqual([at, 0]));
});

it('is used only while it gives the bits of the libvips that outputs are made with', async () => {
  const { width, height, pixels } = probePicture();
  const made = sharp(pixels, { raw: { width, height, channels: 3 } }).jpeg({
    quality: PROBE_QUALITY,
    progressive: true,
    chromaSubsampling: '4:2:0',
  });
  const file = await made.toBuffer();
  const decoded = await sharp(file).raw().toBuffer();
  const sha256 = (bytes: Buffer) => createHash('sha256').update(bytes).digest('hex');
  expect([sha256(file), sha256(decoded)]).toEqual([PROBE_FILE, PROBE_PIXELS]);
});

it('decodes every sampling as libvips does, and gives back what it cannot', async () => {
  const png = join(dir, 'picture.png');
  await testPicture(1203, 807).png().toFile(png);
  const size = { width: 1203, height: 807 };
  const decoded = (bytes: Buffer) => turboJpeg()!.decode(bytes, size, (room) => new Uint8Array(room));
  for (const [sampling, more] of [
    ['4:4:4', []],
    ['4:2:2', []],
    ['4:4:0', []],
    ['4:1:1', []],
    ['4:2:0', ['-interlace', 'Plane']],
    ['4:2:0', ['-define', 'jpeg:optimize-coding=false']],
  ] as const) {
    const jpeg = join(dir, 'sampled.jpg');
    execFileSync('convert-im6.q16', [png, '-sampling-factor', sampling, '-quality', '83', ...more, jpeg]);
    const { data } = await sharp(jpeg).raw().toBuffer({ resolveWithObject: true });
    const own = decoded(readFileSync(jpeg));
    expect([sampling, own && Buffer.compare(own, data)]).toEqual([sampling, 0]);
  }
  const whole = await sharp(png).jpeg().toBuffer();
  expect(turboJpeg()!.decode(whole, { width: 1203, height: 806 }, (room) => new Uint8Array(room))).toBeNull();
  expect(decoded(await sharp(png).toColourspace('b-w').jpeg().toBuffer())).toBeNull();
  expect(decoded(await sharp(png).toColourspace('cmyk').jpeg().toBuffer())).toBeNull();
  writeFileSync(join(dir, 'cut.jpg'), whole);
  truncateSync(join(dir, 'cut.jpg'), whole.length - 400);
  const cut = readFileSync(join(dir, 'cut.jpg'));
  expect([decoded(cut), turboJpeg()!.readsToEnd(cut, size), turboJpeg()!.readsToEnd(whole, size)]).toEqual([null, false, true]);
});

it('encodes as libvips does, profile and all', async () => {
  const { data, info } = await testPicture(643, 431).raw().toBuffer({ resolveWithObject: true });
  const long = Buffer.concat([iccProfileOf('adobe-rgb'), Buffer.alloc(70_000, 7)]);
  long.writeUInt32BE(long.length, 0);
  for (const profile of [iccProfileOf('srgb'), long, null])
    for (const progressive of [true, false])
      for (const chromaSubsampling of ['4:4:4', '4:2:0'] as const)
        for (const quality of [1, 30, 80, 95, 100]) {
          const { file, pixels } = pixelFile({ width: info.width, height: info.height, channels: 3 }, 'rgb', 8, profile);
          pixels.set(data);
          const opened = sharp(file, { ignoreIcc: true });
          const theirs = await (profile ? opened.keepIccProfile() : opened).jpeg({ quality, progressive, chromaSubsampling }).toBuffer();
          const jpeg = turboJpeg()!.encode(info, new Uint8Array(data), quality, chromaSubsampling, progressive);
          const ours = jpeg && withProfile(jpeg, profile);
          expect([progressive, chromaSubsampling, quality, ours && Buffer.compare(ours, theirs)]).toEqual([
            progressive,
            chromaSubsampling,
            quality,
            0,
          ]);
        }
});
