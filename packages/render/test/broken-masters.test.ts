import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { type MasterFormat, ProblemError } from '@rundle/core';
import sharp from 'sharp';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { seeded } from '../../../e2e/src/storm/random';
import { decode } from '../src/read/decode';
import { endExifTool } from '../src/read/exiftool';
import { readFacts } from '../src/read/facts';
import { folder, testPicture } from './pictures';
import { rawFile } from './raw-file';

/** Variants of each, and of those for which a program is started each time; 10,000 with RUNDLE_FUZZ=10000, as docs/reliability.md tells of. */
const FUZZ = process.env['RUNDLE_FUZZ'];
const VARIANTS = Number(FUZZ ?? 300);
const STARTED = Number(FUZZ ?? 100);
const BY_PROGRAM = ['heic', 'jxl'];

const dir = folder();
const at = (name: string) => join(dir, name);
afterAll(endExifTool);

const run = (program: string, ...args: string[]) => execFileSync(program, args, { stdio: 'ignore' });
const sound: Partial<Record<MasterFormat, string>> = { heic: 'a.heic', jxl: 'a.jxl', psd: 'a.psd', tiff: 'a.tif', raw: 'a.dng' };
beforeAll(async () => {
  await testPicture(48, 32).withIccProfile('p3').png().toFile(at('a.png'));
  run('/usr/bin/heif-enc', '-q', '60', '-o', at('a.heic'), at('a.png'));
  run('/usr/bin/cjxl', at('a.png'), at('a.jxl'), '--quiet');
  run('/usr/bin/convert-im6.q16', at('a.png'), '-compress', 'RLE', at('a.psd'));
  await sharp(at('a.png')).tiff({ compression: 'lzw', pyramid: true, tile: true, tileWidth: 16, tileHeight: 16 }).toFile(at('a.tif'));
  writeFileSync(at('a.dng'), rawFile([await testPicture(48, 32).jpeg().toBuffer()], [50, 34]));
});

/** Breaks a file as disks, lines and people do: cut off, single bytes, whole numbers, parts that are gone, doubled or nothing. */
function broken(file: Buffer, random: () => number): Buffer {
  const below = (limit: number) => Math.floor(random() * limit);
  const bytes = Buffer.from(file);
  // Most of what matters stands at the beginning.
  const place = () => (random() < 0.6 ? below(Math.min(600, bytes.length)) : below(bytes.length));
  switch (below(6)) {
    case 0:
      return bytes.subarray(0, below(bytes.length));
    case 1:
      for (let times = 1 + below(12); times > 0; times--) bytes[place()] = below(256);
      return bytes;
    case 2: {
      const where = Math.min(place(), bytes.length - 4);
      bytes.writeUInt32BE([0, 1, 0xffff_ffff, 0x7fff_ffff, 0x8000_0000, 65_535][below(6)]!, Math.max(0, where));
      return bytes;
    }
    case 3: {
      const where = place();
      return Buffer.concat([bytes.subarray(0, where), bytes.subarray(where + 1 + below(64))]);
    }
    case 4: {
      const where = place();
      const part = bytes.subarray(where, where + 1 + below(200));
      return Buffer.concat([bytes.subarray(0, where), part, bytes.subarray(where)]);
    }
    default:
      return bytes.fill(0, place(), place());
  }
}

it.each(Object.entries(sound).map(([format, name]) => [BY_PROGRAM.includes(format) ? STARTED : VARIANTS, format, name] as const))(
  '%d broken variants of a %s are each read, or refused with what to do',
  { timeout: 3_600_000 },
  async (count, format, name) => {
    const random = seeded(7);
    const whole = readFileSync(at(name));
    const seed = await readFacts(at(name));
    expect([seed.format, ...[seed.width, seed.height].sort()]).toEqual([format, 32, 48]);
    const ends = { read: 0, refused: 0 };
    for (let left = count; left > 0; left--) {
      const path = at(`variant-${left % 2}.${format}`);
      writeFileSync(path, broken(whole, random));
      try {
        const facts = await readFacts(path);
        const picture = await decode(path, facts, '#ffffff');
        // As it lies, or upright.
        expect([facts.width, facts.height].sort()).toEqual([picture.width, picture.height].sort());
        ends.read++;
      } catch (error) {
        if (!(error instanceof ProblemError)) throw error;
        expect(['damaged', 'unreadable', 'too-large', 'empty']).toContain(error.problem.code);
        expect(error.problem.message).toMatch(/\. (?:[A-Z][^.]+\.)+$|[A-Z][^.]*\.$/);
        ends.refused++;
      }
    }
    // Some of them are hardly broken, and some are no picture any more.
    expect(ends.read).toBeGreaterThan(count / 50);
    expect(ends.refused).toBeGreaterThan(count / 5);
  },
);
