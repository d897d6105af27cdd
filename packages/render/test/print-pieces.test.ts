import { execFileSync, spawnSync } from 'node:child_process';
import { mkdirSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { partsOf, type PresetInput } from '@rundle/core';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { endExifTool } from '../src/read/exiftool';
import { doneOf, folder, outsideTags, preset, testPicture } from './pictures';

const dir = folder();
const at = (name: string) => join(dir, name);
const PROGRAM = fileURLToPath(new URL('../../../dist/rundle.js', import.meta.url));
const MASTER = at('master.jpg');
const PRINT: Partial<PresetInput> = {
  size: { fit: 'width', px: 901, ppi: 100 },
  border: { px: 9, colour: '#804020' },
  file: { type: 'png' },
};

beforeAll(() => testPicture(1600, 1100).withMetadata().jpeg({ quality: 95 }).toFile(MASTER));
afterAll(() => endExifTool());

const raw = (path: string) => sharp(path, { ignoreIcc: true }).raw().toBuffer();

describe('panels', () => {
  it.each([
    ['png', { columns: 3, rows: 2 }],
    ['png', { columns: 2, rows: 3, order: 'columns' as const }],
    ['tiff', { columns: 4, rows: 1 }],
  ] as const)('of a %s put together are the undivided picture, to the last bit: %o', async (type, panels) => {
    const whole = preset({ ...PRINT, file: { type, bits: type === 'tiff' ? 16 : 8 } });
    const divided = preset({ ...PRINT, file: whole.file, panels });
    const parts = partsOf(divided, () => null);
    const [all, ...each] = await doneOf(MASTER, at(`panels-${type}-${panels.columns}`), [whole, ...parts.map((part) => part.preset)]);
    const placed = await Promise.all(
      parts.map(async ({ named }, index) => {
        const before = each.filter((_, other) => {
          const one = parts[other]!.named;
          return named?.kind === 'panel' && one?.kind === 'panel' && one.row === named.row && one.column < named.column;
        });
        const above = each.filter((_, other) => {
          const one = parts[other]!.named;
          return named?.kind === 'panel' && one?.kind === 'panel' && one.column === named.column && one.row < named.row;
        });
        const input = await sharp(each[index]!.path, { ignoreIcc: true }).png().toBuffer();
        return { input, left: before.reduce((sum, { width }) => sum + width, 0), top: above.reduce((sum, { height }) => sum + height, 0) };
      }),
    );
    const { width, height } = all!;
    const together = await sharp({ create: { width, height, channels: 3, background: '#000' } })
      .composite(placed)
      .removeAlpha()
      .raw()
      .toBuffer();
    // Put together by libvips, 8 bits at a time.
    const own = await sharp(await sharp(all!.path, { ignoreIcc: true }).png().toBuffer())
      .removeAlpha()
      .toColourspace('srgb')
      .raw({ depth: 'uchar' })
      .toBuffer();
    expect(own.length).toBe(together.length);
    expect(Buffer.compare(own, together)).toBe(0);
  });
});

describe('the edges of a canvas', () => {
  it.each([
    ['mirror', 'mirror'],
    ['stretch', 'copy'],
  ] as const)('filled by %s are, bit for bit, what libvips makes of the same picture (VIPS_EXTEND_%s)', async (fill, extendWith) => {
    const canvas = { width: 1, unit: 'in' as const, fill };
    const [plain, edged] = await doneOf(MASTER, at(`canvas-${fill}`), [preset(PRINT), preset({ ...PRINT, canvas })]);
    expect([edged!.width, edged!.height]).toEqual([plain!.width + 200, plain!.height + 200]);
    const side = 100;
    const outside = await sharp(plain!.path, { ignoreIcc: true })
      .extend({ top: side, bottom: side, left: side, right: side, extendWith })
      .raw()
      .toBuffer();
    expect(Buffer.compare(await raw(edged!.path), outside)).toBe(0);
  });
});

describe('on the command line', () => {
  it('a family makes a file of each size, known again at the next call, and is told by its parts', () => {
    const file = at('family.preset.json');
    const family = {
      kind: 'rundle.preset',
      version: 1,
      title: 'Sizes',
      size: {
        sizes: [
          { label: 'small', px: 240, quality: 40 },
          { label: 'large', px: 800 },
        ],
      },
      name: { parts: [{ part: 'original' }, { part: 'text', text: '_' }, { part: 'size' }] },
    };
    writeFileSync(file, JSON.stringify(family));
    const call = () => {
      const { stdout } = spawnSync(
        process.execPath,
        [PROGRAM, 'render', '--preset', file, '--out', at('sizes'), '--manifest', '--json', MASTER],
        { encoding: 'utf8' },
      );
      return stdout
        .trim()
        .split('\n')
        .map((line) => JSON.parse(line) as { event: string; part?: string; status?: string; width?: number; quality?: number });
    };
    expect(call().filter(({ event }) => event === 'output')).toMatchObject([
      { part: 'large', status: 'done', width: 800, quality: 80 },
      { part: 'small', status: 'done', width: 240, quality: 40 },
    ]);
    expect(
      call()
        .filter(({ event }) => event === 'output')
        .map(({ status }) => status),
    ).toEqual(['skipped', 'skipped']);
    expect(readdirSync(join(at('sizes'), 'web')).sort()).toEqual(['master_large.jpg', 'master_small.jpg']);
    writeFileSync(file, JSON.stringify({ ...family, name: { parts: [{ part: 'original' }] } }));
    expect(call().filter(({ event }) => event === 'output')).toMatchObject([
      { status: 'failed', error: { code: 'names-alike' } },
      { status: 'failed' },
    ]);
  });

  it('a sheet is a PDF whose pages, fonts, pictures and profiles poppler finds as they were asked for', async () => {
    const pictures = at('prints');
    mkdirSync(pictures);
    for (const name of ['Łódź 1', 'two', 'three', 'four', 'five'])
      await testPicture(900, 640)
        .withIccProfile('p3')
        .jpeg({ quality: 90 })
        .toFile(join(pictures, `${name}.jpg`));
    writeFileSync(join(pictures, 'broken.jpg'), Buffer.from('no picture'));
    const out = at('sheet.pdf');
    const args = [
      'sheet',
      '--out',
      out,
      '--paper',
      'a5',
      '--landscape',
      '--columns',
      '2',
      '--rows',
      '2',
      '--title',
      'Lanterns: Ωμέγα, zażółć',
      pictures,
    ];
    const { status, stderr } = spawnSync(process.execPath, [PROGRAM, ...args], { encoding: 'utf8' });
    expect([status, stderr]).toEqual([3, expect.stringContaining('broken.jpg') as string]);
    const info = execFileSync('pdfinfo', [out], { encoding: 'utf8' });
    expect(info).toMatch(/Pages: +2\n/);
    // A5 on its side: 210 x 148 mm (ISO 216).
    expect(
      /Page size: +([\d.]+) x ([\d.]+)/
        .exec(info)!
        .slice(1)
        .map((points) => Math.round((Number(points) / 72) * 25.4)),
    ).toEqual([210, 148]);
    const fonts = execFileSync('pdffonts', [out], { encoding: 'utf8' }).trim().split('\n').slice(2);
    expect(fonts.length).toBeGreaterThan(2);
    for (const font of fonts) expect(font).toMatch(/SourceSans3.* yes yes yes/);
    const images = execFileSync('pdfimages', ['-list', out], { encoding: 'utf8' }).trim().split('\n').slice(2);
    expect(images).toHaveLength(5);
    for (const image of images) expect(image).toMatch(/ icc +3 +8 +jpeg /);
    const text = execFileSync('pdftotext', ['-layout', out, '-'], { encoding: 'utf8' });
    for (const words of ['Lanterns: Ωμέγα, zażółć', 'Łódź 1.jpg', 'broken.jpg', 'could not be read', '1 of 2', '2 of 2'])
      expect(text).toContain(words);
    // The profile is that of the picture, in it once.
    execFileSync('pdfimages', ['-j', '-f', '1', '-l', '1', out, at('image')]);
    const [first] = readdirSync(dir).filter((name) => /^image-.*\.jpg$/.test(name));
    expect(outsideTags(at(first!))['ICC_Profile:ProfileDescription']).toMatch(/p3/i);
    // What stands there is never replaced.
    const again = spawnSync(process.execPath, [PROGRAM, ...args], { encoding: 'utf8' });
    expect([again.status, again.stderr]).toEqual([2, expect.stringContaining('already there') as string]);
    const narrow = spawnSync(
      process.execPath,
      [PROGRAM, 'sheet', '--out', at('none.pdf'), '--rows', '12', '--margin', '60', '--paper', 'a5', pictures],
      { encoding: 'utf8' },
    );
    expect([narrow.status, narrow.stderr]).toEqual([2, expect.stringContaining('no room for pictures') as string]);
  });
});
