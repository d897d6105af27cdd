import { execFileSync, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { copyFileSync, createWriteStream, mkdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { fileURLToPath } from 'node:url';
import { Manifest, type Verdict } from '@rundle/core';
import sharp, { type Sharp } from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import { ZipFile } from 'yazl';
import { seeFile } from '../src/deliver/see-file';
import { endExifTool, exifTool } from '../src/read/exiftool';
import { folder } from './pictures';

const PROGRAM = fileURLToPath(new URL('../../../dist/rundle.js', import.meta.url));
const BASE = fileURLToPath(new URL('../../../demo/base/', import.meta.url));
const dir = folder();
const out = join(dir, 'out');
const web = (name: string) => join(out, 'web', name);

function rundle(...args: string[]) {
  const { status, stdout, stderr } = spawnSync(process.execPath, [PROGRAM, ...args], { encoding: 'utf8', cwd: dir });
  return { status, stdout, stderr };
}
const verdictsOf = (...args: string[]) => {
  const { status, stdout } = rundle('verify', '--json', ...args);
  const lines = stdout.split('\n').filter(Boolean);
  const all = lines.map((line) => JSON.parse(line) as Verdict & { event: string }).filter(({ event }) => event === 'verdict');
  return { status, kinds: Object.fromEntries(all.map(({ kind, path, found }) => [path ?? `+ ${found}`, kind])) };
};

const LOT = ['calm-evening', 'fog-lamps', 'jetty-planks', 'quay-steps', 'regatta', 'yellow-sail'].map((name) => `${name}.jpg`);

beforeAll(() => {
  mkdirSync(join(dir, 'masters'));
  for (const name of LOT) copyFileSync(join(BASE, name), join(dir, 'masters', name));
  writeFileSync(
    join(dir, 'web.preset.json'),
    JSON.stringify({
      kind: 'rundle.preset',
      version: 1,
      title: 'Web',
      size: { px: 900 },
      file: { quality: 82 },
      name: { parts: [{ part: 'original' }] },
    }),
  );
  const { status } = rundle('render', '--preset', 'web.preset.json', '--out', out, '--set', 'Evening', '--manifest', 'masters');
  expect(status).toBe(0);
});

describe('a delivery held against its manifest', () => {
  it('is as it was delivered, in its folder and in a ZIP, and the manifest says what made each file', async () => {
    const manifest = Manifest.parse(JSON.parse(readFileSync(join(out, 'manifest.json'), 'utf8')));
    expect(manifest).toMatchObject({ set: 'Evening' });
    expect(manifest.files).toHaveLength(LOT.length);
    const regatta = manifest.files.find(({ path }) => path === 'web/regatta.jpg')!;
    expect(regatta).toMatchObject({ master: 'regatta.jpg', preset: 'Web', width: 900, height: 600, quality: 82, type: 'jpeg' });
    const [sha256] = execFileSync('sha256sum', [web('regatta.jpg')], { encoding: 'utf8' }).split(' ');
    expect(regatta.sha256).toBe(sha256);
    expect(rundle('verify', out)).toMatchObject({
      status: 0,
      stdout: expect.stringMatching(/6 of 6 files are as delivered\.\n$/) as string,
    });
    const zip = new ZipFile();
    zip.addFile(join(out, 'manifest.json'), 'manifest.json');
    for (const { path } of manifest.files) zip.addFile(join(out, path), path);
    zip.end();
    await pipeline(zip.outputStream, createWriteStream(join(dir, 'delivery.zip')));
    expect(verdictsOf('delivery.zip')).toMatchObject({ status: 0, kinds: { 'web/regatta.jpg': 'as-delivered' } });
  });

  it('tells what somebody has done to each file since', async () => {
    const [first, second, third, fourth, fifth, sixth] = LOT as [string, string, string, string, string, string];
    renameSync(web(first), web('holiday.jpg'));
    await exifTool().write(web(second), { Title: 'Another' }, { writeArgs: ['-overwrite_original'] });
    await endExifTool();
    const [whole, large] = [readFileSync(web(third)), readFileSync(web(fourth))];
    await sharp(whole).jpeg({ quality: 50 }).toFile(web(third));
    mkdirSync(join(out, 'feed'));
    await sharp(large)
      .resize(640)
      .jpeg({ quality: 75 })
      .toFile(join(out, 'feed', 'small.jpg'));
    rmSync(web(fourth));
    rmSync(web(fifth));
    // Another picture under a delivered name, and files that were never delivered.
    await sharp(readFileSync(web('holiday.jpg')))
      .flop()
      .flip()
      .negate()
      .jpeg()
      .toFile(web('own.jpg'));
    copyFileSync(web('own.jpg'), web(sixth));
    writeFileSync(join(out, 'notes.txt'), 'by the receiver');
    const { status, kinds } = verdictsOf(out);
    expect(status).toBe(3);
    expect(kinds).toEqual({
      [`web/${first}`]: 'renamed',
      [`web/${second}`]: 'relabelled',
      [`web/${third}`]: 'compressed-again',
      [`web/${fourth}`]: 'resized',
      [`web/${fifth}`]: 'missing',
      [`web/${sixth}`]: 'missing',
      '+ web/own.jpg': 'foreign',
      [`+ web/${sixth}`]: 'foreign',
      '+ notes.txt': 'foreign',
    });
    expect(rundle('verify', out).stdout).toMatch(new RegExp(`web/${third}: compressed again, quality about 50, was 82`));
  });

  it('tells what was altered, and where, from what was only written again', async () => {
    const altered = join(dir, 'altered');
    const args = ['--preset', 'web.preset.json', '--out', altered, '--manifest', 'masters'];
    expect(rundle('render', ...args).status).toBe(0);
    const change = async (name: string, make: (picture: Sharp) => Sharp) => {
      const path = join(altered, 'web', name);
      writeFileSync(path, await make(sharp(readFileSync(path))).toBuffer());
    };
    const [patched, coarse, brighter, small, coloured, webp] = LOT as [string, string, string, string, string, string];
    const patch = { create: { width: 40, height: 30, channels: 3 as const, background: '#b02020' } };
    await change(patched, (picture) => picture.composite([{ input: patch, left: 600, top: 90 }]).jpeg({ quality: 82 }));
    await change(coloured, (picture) => picture.modulate({ saturation: 1.2 }).jpeg({ quality: 82 }));
    await change(brighter, (picture) => picture.modulate({ brightness: 1.12 }).resize(450).jpeg({ quality: 82 }));
    await change(coarse, (picture) => picture.jpeg({ quality: 35 }));
    await change(small, (picture) => picture.resize(320).jpeg({ quality: 70 }));
    await change(webp, (picture) => picture.webp({ quality: 55 }));
    const { stdout } = rundle('verify', altered);
    const said: Record<string, string> = {};
    for (const [, name, words] of stdout.matchAll(/^web\/(\S+): (.*)$/gm)) said[name!] = words!;
    const [, left, right, top, bottom] = /^altered, between (\d+) and (\d+) px across, (\d+) and (\d+) px down$/
      .exec(said[patched]!)!
      .map(Number);
    // To a cell of 23 px.
    expect([left! <= 600, right! >= 640, top! <= 90, bottom! >= 120, right! - left! <= 92, bottom! - top! <= 92]).not.toContain(false);
    expect(said[coloured]).toMatch(/^altered, colours are stronger by about (?:1[5-9]|2\d) %$/);
    expect(said[brighter]).toMatch(/^altered, all over: brightness or colours; 450 × \d+ px instead of 900/);
    expect([said[coarse], said[small], said[webp]]).toEqual([
      'compressed again, quality about 35, was 82',
      expect.stringMatching(/^resized, 320 × /) as string,
      'compressed again, webp instead of jpeg',
    ]);
  });

  it('counts the pages of a gallery as delivered, unless somebody has changed them', () => {
    const manifest = Manifest.parse(JSON.parse(readFileSync(join(dir, 'altered', 'manifest.json'), 'utf8')));
    const page = { path: 'index.html', bytes: 4, sha256: createHash('sha256').update('page').digest('hex') };
    const gallery = join(dir, 'gallery');
    mkdirSync(gallery);
    writeFileSync(
      join(gallery, 'manifest.json'),
      JSON.stringify({ ...manifest, files: [], pages: [page, { ...page, path: 'style.css' }] }),
    );
    writeFileSync(join(gallery, 'index.html'), 'page');
    expect(verdictsOf(gallery).kinds).toEqual({ 'index.html': 'as-delivered', 'style.css': 'missing' });
    writeFileSync(join(gallery, 'style.css'), 'other');
    expect(verdictsOf(gallery)).toEqual({ status: 3, kinds: { 'index.html': 'as-delivered', 'style.css': 'altered' } });
  });

  it('says what is wrong where there is nothing to hold it against', () => {
    const bare = join(dir, 'bare');
    mkdirSync(bare);
    expect(rundle('verify', bare)).toMatchObject({ status: 2, stderr: expect.stringContaining('--against') as string });
    writeFileSync(join(bare, 'manifest.json'), '{"kind":"rundle.manifest","version":1}');
    expect(rundle('verify', bare)).toMatchObject({ status: 2, stderr: expect.stringContaining('files') as string });
    writeFileSync(join(dir, 'half.zip'), readFileSync(join(dir, 'delivery.zip')).subarray(0, 5000));
    expect(rundle('verify', 'half.zip')).toMatchObject({ status: 2, stderr: expect.stringContaining('no ZIP that can be read') as string });
    expect(rundle('verify', 'nowhere')).toMatchObject({ status: 2, stderr: expect.stringContaining('no such folder') as string });
  });
});

it('a picture looks alike whatever type it was written as, and is told by its content', async () => {
  const source = sharp(join(BASE, 'regatta.jpg')).resize(800);
  const [png, webp, avif, jpeg] = await Promise.all([
    source.clone().png().toBuffer(),
    source.clone().webp({ quality: 70 }).toBuffer(),
    source.clone().avif({ quality: 50, effort: 0 }).toBuffer(),
    source.clone().jpeg({ quality: 60 }).toBuffer(),
  ]);
  const seen = await Promise.all([png, webp, avif, jpeg].map((file) => seeFile('x', file)));
  expect(seen.map((one) => one?.type)).toEqual(['png', 'webp', 'avif', 'jpeg']);
  expect(seen.map((one) => one?.quality)).toEqual([null, null, null, 60]);
  const apart = seen.map(
    (one) => [...(BigInt(`0x${one!.likeness}`) ^ BigInt(`0x${seen[0]!.likeness}`)).toString(2)].filter((bit) => bit === '1').length,
  );
  expect(Math.max(...apart)).toBeLessThanOrEqual(3);
  expect(await seeFile('x', Buffer.from('no picture'))).toBeNull();
});
