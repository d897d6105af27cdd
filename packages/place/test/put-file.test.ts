import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeEach, describe, expect, it } from 'vitest';
import { asideOf, makeFile, putFile, putFileOrDrop } from '../src/index';

const root = mkdtempSync(join(tmpdir(), 'rundle-place-'));
afterAll(() => rmSync(root, { recursive: true }));

const hash = (text: string) => createHash('sha256').update(text).digest('hex');
const NEVER = { mayReplace: () => false };

let folder: string;
let path: string;
beforeEach(() => {
  folder = mkdtempSync(join(root, 'web-'));
  path = join(folder, 'été 1.jpg');
});
const finished = (text: string): string => {
  const aside = asideOf(path);
  writeFileSync(aside, text);
  return aside;
};
const there = () => readFileSync(path, 'utf8');

describe('a file that is put in its place', () => {
  it('is there whole, and nothing is left beside it', async () => {
    expect(await putFile(finished('first'), path, { ...NEVER, durable: true })).toBe('put');
    expect([there(), readdirSync(folder)]).toEqual(['first', ['été 1.jpg']]);
  });

  it('takes the place of nothing but what its rule names by its content, as it is now', async () => {
    writeFileSync(path, 'stranger');
    const seen: (string | null)[] = [];
    const unless = (mine: string) => ({
      mayReplace: async (content: () => Promise<string | null>) => {
        seen.push(await content());
        return seen.at(-1) === hash(mine);
      },
    });
    const aside = finished('mine');
    await expect(putFile(aside, path, unless('old'))).rejects.toMatchObject({ code: 'EEXIST' });
    // It is kept for another try.
    expect([there(), readFileSync(aside, 'utf8')]).toEqual(['stranger', 'mine']);
    expect(await putFile(aside, path, unless('stranger'))).toBe('put');
    expect([there(), seen]).toEqual(['mine', [hash('stranger'), hash('stranger')]]);
    // Where nothing stands nobody is asked.
    rmSync(path);
    expect(await putFile(finished('again'), path, unless('nothing'))).toBe('put');
    expect(seen).toHaveLength(2);
  });

  it('is never put over what appears while it is on its way', async () => {
    const aside = finished('mine');
    const putting = putFile(aside, path, NEVER);
    writeFileSync(path, 'appeared');
    await expect(putting).rejects.toMatchObject({ code: 'EEXIST' });
    expect(there()).toBe('appeared');
  });

  it('stays where the same content stands already; a link to it does not count', async () => {
    const rule = { ...NEVER, content: hash('same') };
    writeFileSync(path, 'same');
    expect(await putFile(finished('same'), path, rule)).toBe('kept');
    rmSync(path);
    const elsewhere = join(folder, 'elsewhere.jpg');
    writeFileSync(elsewhere, 'same');
    symlinkSync(elsewhere, path);
    await expect(putFile(finished('same'), path, rule)).rejects.toMatchObject({ code: 'EEXIST' });
    expect(readFileSync(elsewhere, 'utf8')).toBe('same');
  });

  it('names the true reason when it fails, by the name of the file, and leaves nothing', async () => {
    writeFileSync(path, 'stranger');
    const exists = { problem: { code: 'exists', file: 'été 1.jpg' } };
    await expect(putFileOrDrop(finished('mine'), path, NEVER)).rejects.toMatchObject(exists);
    expect(readdirSync(folder)).toEqual(['été 1.jpg']);
    const inFile = join(path, 'web', 'b.jpg');
    await expect(makeFile(inFile, 'b.jpg', () => Promise.resolve())).rejects.toMatchObject({
      problem: { code: 'not-written', file: 'b.jpg' },
    });
    const gone = join(folder, 'gone', 'c.jpg');
    const vanishes = makeFile(gone, 'c.jpg', () => {
      mkdirSync(join(folder, 'gone'), { recursive: true });
      writeFileSync(gone, 'half');
      return Promise.reject(Object.assign(new Error('full'), { code: 'ENOSPC' }));
    });
    await expect(vanishes).rejects.toMatchObject({
      problem: { code: 'not-written', message: expect.stringContaining('the disk is full') as string },
    });
    expect(existsSync(gone)).toBe(false);
  });
});
