import { appendFileSync, mkdirSync, mkdtempSync, realpathSync, renameSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { contentOf, FolderWatch, identityOf, isRemote, type SeenFile, seenNow } from '../src';

let folder: string;
let watch: FolderWatch | null = null;
let seen: SeenFile[] = [];
const names = () => seen.map(({ path }) => basename(path));
const begin = async (deeper = false, polling = false) => {
  watch = new FolderWatch({ folder, deeper, polling, onFile: (file) => seen.push(file), onError: (error) => expect(error).toBeNull() });
  await watch.begun;
};
const until = async (holds: () => boolean) => {
  while (!holds()) await wait(50);
};

beforeEach(() => {
  folder = realpathSync(mkdtempSync(join(tmpdir(), 'rundle-watch-')));
  seen = [];
});
afterEach(async () => {
  await watch?.close();
  rmSync(folder, { recursive: true });
});

describe.each([false, true])('a watched folder (looked through again and again: %s)', (polling) => {
  it('tells of a file once it has stopped growing, and again when it has changed', async () => {
    writeFileSync(join(folder, 'there.jpg'), 'was here');
    await begin(false, polling);
    const growing = join(folder, 'slow.tif');
    let longest = 0;
    for (let part = 0, last = Date.now(); part < 12; part++, last = Date.now()) {
      appendFileSync(growing, 'x'.repeat(1000));
      // Only where this test was not held up itself: a file that has been left alone for long enough is told.
      if (longest < 1000) expect(names()).not.toContain('slow.tif');
      await wait(300);
      longest = Math.max(longest, Date.now() - last);
    }
    await until(() => seen.findLast(({ path }) => path === growing)?.bytes === 12_000);
    expect(names()).toContain('there.jpg');
    seen = [];
    writeFileSync(growing, 'another picture');
    await until(() => names().includes('slow.tif'));
    expect(seen).toMatchObject([{ path: growing, bytes: 15 }]);
  });
});

describe('a watched folder', () => {
  it('tells of pictures only: no hidden file, no half-fetched one, no link, and sub-folders where that is wanted', async () => {
    await begin();
    mkdirSync(join(folder, 'deep'));
    mkdirSync(join(folder, '.rundle-unfinished'));
    const outside = mkdtempSync(join(tmpdir(), 'rundle-outside-'));
    writeFileSync(join(outside, 'far.jpg'), 'far');
    symlinkSync(outside, join(folder, 'way-out'));
    for (const name of ['.hidden.jpg', 'notes.txt', 'p.jpg.part', 'deep/inner.jpg', '.rundle-unfinished/o.jpg', 'a.JPG'])
      writeFileSync(join(folder, name), name);
    await until(() => names().includes('a.JPG'));
    renameSync(join(folder, 'p.jpg.part'), join(folder, 'p.jpg'));
    await until(() => names().includes('p.jpg'));
    expect(names()).toEqual(['a.JPG', 'p.jpg']);
    await watch?.close();
    seen = [];
    await begin(true);
    await until(() => seen.length >= 3);
    await wait(500);
    expect(names().sort()).toEqual(['a.JPG', 'inner.jpg', 'p.jpg']);
  });

  it('tells of a file that has come, or changed, when nothing was heard of it', async () => {
    const path = join(folder, 'unheard.jpg');
    writeFileSync(path, 'before');
    const onFile = (file: SeenFile) => seen.push(file);
    watch = new FolderWatch({ folder, deeper: true, polling: true, onFile, onError: () => {}, again: 300 });
    await until(() => seen.length === 1);
    (watch as unknown as { watcher: { removeAllListeners: () => void } }).watcher.removeAllListeners();
    writeFileSync(path, 'another picture');
    await until(() => seen.length === 2);
    expect(seen[1]).toMatchObject({ path, bytes: 15 });
    mkdirSync(join(folder, 'deep'));
    writeFileSync(join(folder, 'deep', 'new.jpg'), 'new');
    symlinkSync(path, join(folder, 'link.jpg'));
    await until(() => seen.length > 2);
    await wait(1000);
    expect(names()).toEqual(['unheard.jpg', 'unheard.jpg', 'new.jpg']);
  });

  it('tells of each file that comes in the very moment when the watching begins', async () => {
    const writing = Array.from({ length: 40 }, async (_, at) => {
      await wait(at);
      writeFileSync(join(folder, `p ${at}.jpg`), 'came');
    });
    await begin();
    await Promise.all(writing);
    await until(() => new Set(names()).size === 40);
  });

  it('has a content only as long as it is what was seen', async () => {
    const path = join(folder, 'p.jpg');
    writeFileSync(path, 'abc');
    const now = (await seenNow(path))!;
    // FIPS 180-2, appendix B.1: the digest of "abc".
    expect(await contentOf(now)).toBe('ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad');
    expect(await contentOf({ ...now, bytes: 4 })).toBeNull();
    rmSync(path);
    expect(await contentOf(now)).toBeNull();
    expect(await seenNow(folder)).toBeNull();
  });

  it('is known by what it is, and tells whether it lies on another machine', async () => {
    const before = await identityOf(folder);
    renameSync(folder, `${folder}-away`);
    expect(await identityOf(folder)).toBeNull();
    mkdirSync(folder);
    expect(await identityOf(folder)).not.toBe(before);
    rmSync(`${folder}-away`, { recursive: true });
    expect(await isRemote(folder)).toBe(false);
  });
});
