import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { parsePresetText, presetFrom, type PresetGuess, type PresetInput } from '@rundle/core';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { endExifTool, exifTool } from '../src/read/exiftool';
import { readFinished } from '../src/read/finished';
import { doneOf, folder, preset, testPicture } from './pictures';

const dir = folder();
const at = (name: string) => join(dir, name);
const master = at('master.jpg');
const RUNDLE = fileURLToPath(new URL('../../../dist/rundle.js', import.meta.url));
afterAll(endExifTool);
beforeAll(async () => {
  await testPicture(1200, 800).withIccProfile('srgb').jpeg({ quality: 96 }).toFile(master);
  await exifTool().write(master, { 'EXIF:Artist': 'Orla Vessby', 'EXIF:Model': 'K 1' }, { writeArgs: ['-overwrite_original'] });
});

const likeIt = async (more: Partial<PresetInput>) => {
  const [made] = await doneOf(master, at(`out-${JSON.stringify(more).length}`), [preset({ size: { px: 640 }, ...more })]);
  return { made: made!, guess: presetFrom(await readFinished(made!.path)) };
};

describe('a preset from a file', () => {
  it.each<[string, Partial<PresetInput>]>([
    ['a JPEG', { file: { quality: 83, chroma: '4:2:0', progressive: true } }],
    [
      'a baseline JPEG in fine colours, with its metadata',
      { file: { quality: 61, chroma: '4:4:4', progressive: false }, metadata: { capture: 'keep' } },
    ],
    ['a JPEG in another space', { file: { quality: 90, chroma: '4:4:4' }, colour: { space: 'display-p3' } }],
    ['a JPEG with a border', { file: { quality: 90, chroma: '4:4:4' }, border: { px: 24, colour: '#202428' } }],
    ['a JPEG without a profile', { file: { quality: 75, chroma: '4:4:4' }, colour: { embed: false } }],
    ['a PNG of 16 bits', { file: { type: 'png', bits: 16 } }],
    ['an AVIF', { file: { type: 'avif', chroma: '4:4:4' } }],
  ])('of %s says what made it, as far as that can be seen', async (_, more) => {
    const { guess } = await likeIt(more);
    const { file, colour, border, size, metadata } = preset({ size: { px: 640 }, ...more });
    const seen = new Set(guess.values.filter(({ sure }) => sure === 'seen').map(({ field }) => field));
    const said = guess.preset;
    expect(said).toMatchObject({
      size: { fit: 'long-edge', px: 640, ppi: size.ppi },
      colour: { space: colour.space, embed: colour.embed },
    });
    expect(said.file).toMatchObject(file.type === 'jpeg' ? { ...file, ceiling: null } : { type: file.type, bits: file.bits });
    expect(seen.has('file.quality')).toBe(file.type === 'jpeg');
    if (border) {
      // The colour comes back as near as a JPEG keeps it.
      expect(said.border?.px).toBe(border.px);
      const [own, found] = [border.colour, said.border!.colour].map((hex) => Number.parseInt(hex.slice(1, 3), 16));
      expect(Math.abs(own! - found!)).toBeLessThanOrEqual(2);
    } else expect(said.border).toBeNull();
    expect(said.metadata).toMatchObject({ rights: 'keep', capture: metadata.capture });
  });

  it('takes the tables of another encoder for near, and a picture before one colour for no frame', async () => {
    execFileSync('/usr/bin/convert-im6.q16', [master, '-define', 'jpeg:q-table=/dev/null', '-quality', '70', at('other.jpg')], {
      stdio: 'ignore',
    });
    const own = Buffer.from(readFileSync(at('other.jpg')));
    const table = own.indexOf(Buffer.from([0xff, 0xdb])) + 5;
    own[table + 20] = own[table + 20]! + 3;
    writeFileSync(at('own-tables.jpg'), own);
    expect((await readFinished(at('other.jpg'))).quality).toEqual({ value: 70, exact: true });
    expect((await readFinished(at('own-tables.jpg'))).quality).toMatchObject({ exact: false });
    const thing = await testPicture(200, 60).png().toBuffer();
    const backdrop = sharp({ create: { width: 400, height: 300, channels: 3, background: '#ffffff' } });
    await backdrop
      .composite([{ input: thing, left: 60, top: 80 }])
      .jpeg()
      .toFile(at('before-white.jpg'));
    expect((await readFinished(at('before-white.jpg'))).border).toBeNull();
  });

  it('is told by the command line, and written where nothing is', async () => {
    const { made } = await likeIt({ file: { quality: 83, chroma: '4:2:0' } });
    const out = at('like.preset.json');
    const call = (...args: string[]) => spawnSync(process.execPath, [RUNDLE, 'preset-from', made.path, ...args], { encoding: 'utf8' });
    const first = call('--out', out);
    expect([first.status, first.stdout]).toEqual([0, '']);
    expect(first.stderr).toContain('seen     Quality: 83. Its tables are those of quality 83.');
    expect(parsePresetText(readFileSync(out, 'utf8'))).toMatchObject({ ok: true, value: { file: { quality: 83, chroma: '4:2:0' } } });
    const before = readFileSync(out);
    expect(call('--out', out).status).toBe(3);
    expect(readFileSync(out).equals(before)).toBe(true);
    const told = JSON.parse(call('--json', '--name', 'quay_640.jpg').stdout) as PresetGuess;
    expect(told.preset).toMatchObject({
      title: 'Like quay_640, 640 px',
      name: { parts: [{ part: 'original' }, { text: '_' }, { part: 'long-edge' }] },
    });
    const none = spawnSync(process.execPath, [RUNDLE, 'preset-from', at('nothing.jpg')], { encoding: 'utf8' });
    expect([none.status, existsSync(at('nothing.jpg'))]).toEqual([3, false]);
    expect(none.stderr).toContain('nothing.jpg');
  });
});
