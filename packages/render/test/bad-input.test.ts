import { execFileSync, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { endExifTool } from '../src/read/exiftool';
import { readFacts } from '../src/read/facts';
import { asideOf, makeFile, putFileOrDrop } from '@rundle/place';
import { bomb } from './bomb';
import { folder, preset, render, testPicture } from './pictures';

const PROGRAM = fileURLToPath(new URL('../../../dist/rundle.js', import.meta.url));
const dir = folder();
const masters = join(dir, 'masters');
const presetFile = join(dir, 'web.preset.json');
afterAll(endExifTool);

interface Told {
  status: string;
  output?: string;
  width?: number;
  height?: number;
  error?: { code: string; message: string };
  warnings?: { code: string }[];
}

function rundle(out: string, ...paths: string[]): { status: number | null; of: (name: string) => Told } {
  const { status, stdout } = spawnSync(
    process.execPath,
    [PROGRAM, 'render', '--preset', presetFile, '--out', out, '--json', '--', ...paths],
    {
      encoding: 'utf8',
      cwd: dir,
    },
  );
  const events = stdout
    .split('\n')
    .filter(Boolean)
    .map((line) => JSON.parse(line) as Told & { master?: string });
  return { status, of: (name) => events.find(({ master }) => master?.endsWith(`/${name}`))! };
}

/** A TIFF whose directory claims a picture of 4 GB that is not there. */
function lyingTiff(): Buffer {
  const fields: [number, number, number][] = [
    ...([
      [256, 4, 40_000],
      [257, 4, 36_000],
      [258, 3, 8],
      [259, 3, 1],
      [262, 3, 2],
      [273, 4, 0xfffffff0],
      [277, 3, 3],
      [278, 4, 36_000],
    ] as [number, number, number][]),
    [279, 4, 0xffffffff],
  ];
  const file = Buffer.alloc(8 + 2 + 12 * fields.length + 4);
  file.write('II*\0', 'latin1');
  file.writeUInt32LE(8, 4);
  file.writeUInt16LE(fields.length, 8);
  fields.forEach(([tag, type, value], at) => {
    file.writeUInt16LE(tag, 10 + 12 * at);
    file.writeUInt16LE(type, 12 + 12 * at);
    file.writeUInt32LE(1, 14 + 12 * at);
    file.writeUInt32LE(value, 18 + 12 * at);
  });
  return file;
}

const ODD = [
  '-leading dash.jpg',
  'émoji 🏮 “quotes”.jpg',
  'a%20b#c&d;e=f.jpg',
  '<img onerror=x>.jpg',
  `${'long '.repeat(48)}.jpg`,
  '.jpg.jpg'.slice(1),
];

beforeAll(async () => {
  mkdirSync(masters);
  const put = (name: string, data: Buffer | string) => writeFileSync(join(masters, name), data);
  const sound = await testPicture(600, 400).withIccProfile('srgb').jpeg({ quality: 90 }).toBuffer();
  put('sound.jpg', sound);
  for (const name of ODD) put(name, sound);
  put('empty.jpg', '');
  put('text.jpg', 'this is no picture at all');
  put('cut.jpg', sound);
  truncateSync(join(masters, 'cut.jpg'), Math.floor(sound.length / 2));
  put('mislabelled.jpg', await testPicture(300, 200).png().toBuffer());
  put('bomb.png', bomb(60_000, 60_000));
  put('heavy.png', bomb(12_000, 12_000));
  put('lying.tif', lyingTiff());
  put('phone.jpg', Buffer.from('\0\0\0\x18ftypheic\0\0\0\0mif1heic', 'latin1'));
  put('raw.tif', Buffer.concat([Buffer.from('II*\0\x10\0\0\0CR\x02\0', 'latin1'), Buffer.alloc(200)]));
  put('one.png', await testPicture(1, 1).png().toBuffer());
  put('wide.jpg', await testPicture(12_000, 1500).jpeg().toBuffer());
  const profile = Buffer.from(sound);
  profile.fill(0, profile.indexOf('acsp'), profile.indexOf('acsp') + 60);
  put('broken profile.jpg', profile);
  const exif = Buffer.concat([
    sound.subarray(0, 2),
    Buffer.from('\xff\xe1\0\x20Exif\0\0II*\0\xff\xff\xff\x7f', 'latin1'),
    Buffer.alloc(16, 0xaa),
    sound.subarray(2),
  ]);
  put('broken exif.jpg', exif);
  await testPicture(300, 200).tiff({ compression: 'lzw', tile: true, tileWidth: 64, tileHeight: 64 }).toFile(join(masters, 'tiles.tif'));
  const pages = await testPicture(300, 400).raw().toBuffer();
  await sharp(pages, { raw: { width: 300, height: 400, channels: 3, pageHeight: 200 } })
    .tiff()
    .toFile(join(masters, 'pages.tif'));
  await sharp(Buffer.from(new Uint8Array(new Float32Array(3 * 50 * 40).fill(60).buffer)), { raw: { width: 50, height: 40, channels: 3 } })
    .toColourspace('lab')
    .tiff()
    .toFile(join(masters, 'lab.tif'));
  writeFileSync(presetFile, JSON.stringify(preset({ title: 'Web', size: { fit: 'long-edge', px: 200 } })));
});

const hashes = () =>
  readdirSync(masters).map((name) => [
    name,
    createHash('sha256')
      .update(readFileSync(join(masters, name)))
      .digest('hex'),
  ]);

describe('a folder full of trouble', () => {
  it('yields a clear error for each file that cannot be done, does the rest, and changes no master', () => {
    const before = hashes();
    const out = join(dir, 'out');
    const { status, of } = rundle(out, masters);
    expect(status).toBe(3);
    const code = (name: string) => of(name).error?.code;
    expect(code('empty.jpg')).toBe('empty');
    expect(code('text.jpg')).toBe('unreadable');
    expect(code('cut.jpg')).toBe('damaged');
    expect(code('phone.jpg')).toBe('damaged');
    expect(code('bomb.png')).toBe('too-large');
    expect(of('bomb.png').error!.message).toContain('150 megapixels');
    expect(['damaged', 'too-large']).toContain(code('heavy.png'));
    expect(['damaged', 'too-large']).toContain(code('lying.tif'));
    expect(code('raw.tif')).toBe('unreadable');
    expect(of('raw.tif').error!.message).toContain('has to be developed first');
    for (const name of [
      'sound.jpg',
      'mislabelled.jpg',
      'one.png',
      'wide.jpg',
      'broken profile.jpg',
      'broken exif.jpg',
      'tiles.tif',
      'pages.tif',
      'lab.tif',
      ...ODD,
    ])
      expect(of(name).status, name).toBe('done');
    expect(of('one.png')).toMatchObject({ width: 1, height: 1 });
    expect(of('wide.jpg')).toMatchObject({ width: 200, height: 25 });
    expect(of('broken profile.jpg').warnings!.map((warning) => warning.code)).toContain('profile-damaged');
    const files = readdirSync(join(out, 'web'));
    expect(files.filter((name) => name.startsWith('.') || name.includes('rundle'))).toEqual([]);
    for (const name of files) expect(name).toMatch(/^[A-Za-z0-9._-]+$/);
    expect(hashes()).toEqual(before);
  });

  it('a leading dash and a missing file are told apart from options', () => {
    const { status, of } = rundle(join(dir, 'dash'), join(masters, '-leading dash.jpg'), '-not-there.jpg');
    expect(status).toBe(3);
    expect(of('-leading dash.jpg').status).toBe('done');
    expect(of('-not-there.jpg').error!.code).toBe('missing');
  });

  it('several pages are told of by inspect', async () => {
    expect(await readFacts(join(masters, 'pages.tif'))).toMatchObject({ pages: 2, height: 200 });
  });
});

/** Only root may mount a small disk of its own: for others these tests are skipped, and counted so. */
const asRoot = it.skipIf(process.getuid?.() !== 0);

describe('a target that cannot be written', () => {
  asRoot('full: each file fails with that reason, and no half file is left', () => {
    const full = join(dir, 'full');
    mkdirSync(full);
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=8k', 'tmpfs', full]);
    try {
      const { status, of } = rundle(full, join(masters, 'sound.jpg'));
      expect(status).toBe(3);
      expect(of('sound.jpg').error).toMatchObject({ code: 'not-written', message: expect.stringContaining('disk is full') as string });
      expect(existsSync(join(full, 'web')) ? readdirSync(join(full, 'web')) : []).toEqual([]);
    } finally {
      execFileSync('umount', [full]);
    }
  });

  asRoot('read-only, or a file where the folder should be', () => {
    const readOnly = join(dir, 'read-only');
    mkdirSync(readOnly);
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'ro', 'tmpfs', readOnly]);
    try {
      expect(rundle(readOnly, join(masters, 'sound.jpg')).of('sound.jpg').error).toMatchObject({
        message: expect.stringContaining('read-only') as string,
      });
    } finally {
      execFileSync('umount', [readOnly]);
    }
    writeFileSync(join(dir, 'a file'), 'x');
    expect(rundle(join(dir, 'a file'), join(masters, 'sound.jpg')).of('sound.jpg').error).toMatchObject({ code: 'not-written' });
    expect(readFileSync(join(dir, 'a file'), 'utf8')).toBe('x');
  });

  it('vanishing half-way: the file fails and nothing is left', async () => {
    const target = join(dir, 'vanishing');
    const path = join(target, 'web', 'a.jpg');
    const aside = asideOf(path);
    await makeFile(aside, 'a.jpg', () => Promise.resolve(rmSync(target, { recursive: true })));
    const written = putFileOrDrop(aside, path, { mayReplace: () => false });
    await expect(written).rejects.toMatchObject({
      problem: { code: 'not-written', message: expect.stringContaining('vanished') as string },
    });
    expect(existsSync(target)).toBe(false);
  });

  it('with a file of that name that nobody said may go: it stays', async () => {
    const target = join(dir, 'taken');
    mkdirSync(join(target, 'web'), { recursive: true });
    writeFileSync(join(target, 'web/out-0.jpg'), 'somebody else’s');
    expect(await render(join(masters, 'sound.jpg'), target, [preset()])).toMatchObject([{ status: 'failed', error: { code: 'exists' } }]);
    expect(readFileSync(join(target, 'web/out-0.jpg'), 'utf8')).toBe('somebody else’s');
    expect(readdirSync(join(target, 'web'))).toEqual(['out-0.jpg']);
  });
});

describe('a name with a line break', () => {
  it('is as good as any other: its metadata are read, kept, and checked', async () => {
    const odd = join(dir, 'odd\nfolder');
    mkdirSync(odd);
    const path = join(odd, 'a\nb.jpg');
    writeFileSync(
      path,
      await testPicture(300, 200)
        .jpeg()
        .withExif({ IFD0: { ImageDescription: 'Quay', Artist: 'Orla' } })
        .toBuffer(),
    );
    const keep = join(dir, 'keep.preset.json');
    const metadata = { description: 'keep', capture: 'keep', other: 'keep' };
    const parsed = { kind: 'rundle.preset', version: 1, title: 'Keep', size: { px: 100 }, metadata };
    writeFileSync(keep, JSON.stringify(parsed));
    const call = ['render', '--preset', keep, '--out', join(odd, 'out'), '--json', path];
    const { status, stdout } = spawnSync(process.execPath, [PROGRAM, ...call], { encoding: 'utf8' });
    expect({ status, stdout }).toMatchObject({ status: 0 });
    const { output } = JSON.parse(stdout.split('\n')[0]!) as Told;
    expect(await readFacts(output!)).toMatchObject({ caption: 'Quay', metadataUnread: false });
  });
});
