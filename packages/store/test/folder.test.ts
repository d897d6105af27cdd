import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readdirSync, rmSync, symlinkSync, utimesSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { randomUUID } from 'node:crypto';
import { describe, expect, it } from 'vitest';
import { FolderMasters } from '../src/files/folder-masters';
import { FolderOutputs } from '../src/files/folder-outputs';
import { outputsContract } from './outputs-contract';

/** Only root may mount a small disk of its own: for others these tests are skipped, and counted so. */
const asRoot = it.skipIf(process.getuid?.() !== 0);

const folder = () => mkdtempSync(join(tmpdir(), 'rundle-files-'));

outputsContract('a folder', () => Promise.resolve(new FolderOutputs(folder())));

describe('a folder of outputs', () => {
  const place = { target: 'T', folder: 'web', fileName: 'a.jpg' };

  asRoot('that is full, read-only or gone says so in plain words, and keeps nothing half-written', async () => {
    const root = folder();
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=64k', 'tmpfs', root]);
    try {
      const outputs = new FolderOutputs(root);
      const path = await outputs.workFile(randomUUID(), 1, '.jpg');
      writeFileSync(path, 'x');
      execFileSync('mount', ['-o', 'remount,ro', root]);
      const refused = outputs.commit({ path, content: '0'.repeat(64) }, place, false);
      await expect(refused).rejects.toMatchObject({
        problem: { code: 'not-written', message: expect.stringContaining('read-only') as string },
      });
      execFileSync('mount', ['-o', 'remount,rw', root]);
      await outputs.commit({ path, content: '0'.repeat(64) }, place, false);
      expect(readdirSync(join(root, 'T', 'web'))).toEqual(['a.jpg']);
    } finally {
      execFileSync('umount', [root]);
    }
    const outputs = new FolderOutputs(root);
    writeFileSync(join(root, 'T'), 'a file');
    const path = await outputs.workFile(randomUUID(), 1, '.jpg');
    writeFileSync(path, 'x');
    await expect(outputs.commit({ path, content: '0'.repeat(64) }, place, false)).rejects.toMatchObject({
      problem: { code: 'not-written' },
    });
  });
});

describe('masters in a folder', () => {
  it('are taken in once, keep their bytes, and are deleted only when asked', async () => {
    const masters = new FolderMasters(folder());
    await masters.prepare();
    const path = join(masters.incoming, 'x');
    writeFileSync(path, Buffer.concat([Buffer.from('ffd8ffe0', 'hex'), Buffer.alloc(60)]));
    const first = await masters.takeIn(path, 'a.jpg');
    expect(await masters.takeIn(path, 'b.jpg')).toMatchObject({ sha256: first.sha256, bytes: 64 });
    expect(await masters.has(first.sha256)).toBe(true);
    expect((await masters.list()).map(({ sha256 }) => sha256)).toEqual([first.sha256]);
    await masters.remove(first.sha256);
    expect(await masters.has(first.sha256)).toBe(false);
    writeFileSync(path, 'no picture');
    await expect(masters.takeIn(path, 'c.jpg')).rejects.toMatchObject({ problem: { code: 'unreadable', file: 'c.jpg' } });
  });

  it('of the machine are only brought as what they were, and never through a link', async () => {
    const root = folder();
    const masters = new FolderMasters(folder());
    mkdirSync(join(root, 'pictures'));
    const sourcePath = join(root, 'pictures', 'a.jpg');
    writeFileSync(sourcePath, 'one');
    utimesSync(sourcePath, 1000, 1000);
    const master = { fileName: 'a.jpg', sha256: null, sourcePath, sourceMtimeMs: 1_000_000, bytes: 3 };
    expect(await masters.bring(master)).toBe(sourcePath);
    writeFileSync(sourcePath, 'two');
    await expect(masters.bring(master)).rejects.toMatchObject({ problem: { code: 'master-changed' } });
    utimesSync(sourcePath, 1000, 1000);
    expect(await masters.open(master)).not.toBeNull();
    // The folder above becomes a link to elsewhere: the file is there, as heavy and as old, and yet another.
    rmSync(join(root, 'pictures'), { recursive: true });
    mkdirSync(join(root, 'elsewhere'));
    writeFileSync(join(root, 'elsewhere', 'a.jpg'), 'six');
    utimesSync(join(root, 'elsewhere', 'a.jpg'), 1000, 1000);
    symlinkSync(join(root, 'elsewhere'), join(root, 'pictures'));
    expect(await masters.open(master)).toBeNull();
    rmSync(join(root, 'pictures'));
    await expect(masters.bring(master)).rejects.toMatchObject({ problem: { code: 'missing' } });
  });
});
