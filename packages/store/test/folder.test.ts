import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, renameSync, rmSync, symlinkSync, utimesSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createHash, randomUUID } from 'node:crypto';
import { describe, expect, it } from 'vitest';
import { FolderMasters } from '../src/files/folder-masters';
import { FolderOutputs } from '../src/files/folder-outputs';
import { outputsContract } from './outputs-contract';

/** Only root may mount a small disk of its own: for others these tests are skipped, and counted so. */
const asRoot = it.skipIf(process.getuid?.() !== 0);

const folder = () => mkdtempSync(join(tmpdir(), 'rundle-files-'));

outputsContract('a folder', () => Promise.resolve(new FolderOutputs(folder())));
const elsewhere = folder();
outputsContract(
  'a folder of the machine',
  () => Promise.resolve(new FolderOutputs(folder(), [elsewhere])),
  () => join(elsewhere, randomUUID(), 'deeper'),
);

describe('a folder of the machine', () => {
  const hash = (text: string) => createHash('sha256').update(text).digest('hex');
  const make = async (outputs: FolderOutputs, target: string, text: string) => {
    const path = await outputs.workFile(target, randomUUID(), 1, '.jpg');
    writeFileSync(path, text);
    return { path, content: hash(text) };
  };

  it('is written to only below the folders that are allowed, links included', async () => {
    const [allowed, forbidden] = [folder(), folder()];
    const outputs = new FolderOutputs(folder(), [allowed]);
    symlinkSync(forbidden, join(allowed, 'way-out'));
    expect(await outputs.refusal(join(allowed, 'new', 'one'))).toBeNull();
    for (const target of [forbidden, join(allowed, 'way-out'), join(allowed, 'way-out', 'new'), `${allowed}-beside`])
      expect(await outputs.refusal(target), target).toMatchObject({ code: 'not-written', field: 'place' });
    await expect(outputs.workFile(join(allowed, 'way-out'), randomUUID(), 1, '.jpg')).rejects.toMatchObject({
      problem: { code: 'not-written' },
    });
    expect(readdirSync(forbidden)).toEqual([]);
    expect(await new FolderOutputs(folder()).refusal(allowed)).not.toBeNull();

    // What is away is no link; Rundle's own folder is made again when it is written to.
    const away = join(folder(), 'disk');
    const beside = new FolderOutputs(join(folder(), 'gone'), [away]);
    expect(await beside.refusal(join(away, 'web'))).toMatchObject({
      field: 'place',
      message: expect.stringContaining('not there now') as string,
    });
    await expect(beside.workFile(away, randomUUID(), 1, '.jpg')).rejects.toMatchObject({
      problem: { message: expect.stringContaining('has vanished') as string },
    });
    expect(await beside.refusal('T')).toBeNull();
  });

  it('gets nothing through a link that is put into it, then or while a picture is made, but within what is allowed', async () => {
    const [target, forbidden] = [folder(), folder()];
    const outputs = new FolderOutputs(folder(), [target]);
    mkdirSync(join(target, 'inner'));
    for (const [name, to] of [
      ['web', forbidden],
      ['print', join(target, 'inner')],
      ['none', join(forbidden, 'none')],
    ] as const)
      symlinkSync(to, join(target, name));
    const refused = { problem: { code: 'not-written', message: expect.stringContaining(forbidden) as string } };
    const put = async (to: string) => outputs.commit(await make(outputs, target, to), { target, folder: to, fileName: 'a.jpg' }, false);
    expect([await outputs.refusal(target, 'web'), await outputs.refusal(target, 'print')]).toMatchObject([refused.problem, null]);
    await expect(put('web')).rejects.toMatchObject(refused);
    await expect(put('web/deeper')).rejects.toMatchObject(refused);
    await expect(put('none')).rejects.toMatchObject({ problem: { message: expect.stringContaining('leads nowhere') as string } });
    await put('print');
    expect(readdirSync(join(target, 'inner'))).toEqual(['a.jpg']);
    // Nor is anything of what lies behind such a link read, deleted or swept.
    writeFileSync(join(forbidden, 'a.jpg'), 'a stranger’s');
    const place = { target, folder: 'web', fileName: 'a.jpg' };
    expect(await outputs.take(place, randomUUID(), hash('a stranger’s'), target)).toBe(false);
    expect([await outputs.open(place), await outputs.holds(place, hash('a stranger’s'))]).toEqual([null, false]);

    // Its folder of unfinished files is swapped while one is made: it is made where it was begun.
    const made = await make(outputs, target, 'begun');
    renameSync(join(target, '.rundle-unfinished'), join(target, 'was'));
    const strange = `${randomUUID()}.1.jpg`;
    writeFileSync(join(forbidden, strange), 'x');
    symlinkSync(forbidden, join(target, '.rundle-unfinished'));
    await outputs.commit(made, { target, folder: 'print', fileName: 'b.jpg' }, false);
    await outputs.release(made.path);
    expect(readFileSync(join(target, 'inner', 'b.jpg'), 'utf8')).toBe('begun');
    await expect(make(outputs, target, 'late')).rejects.toMatchObject(refused);
    expect(await outputs.sweep([target], () => Promise.resolve(new Set()))).toBe(0);
    expect(readdirSync(forbidden).sort()).toEqual(['a.jpg', strange].sort());
  });

  it('loses no file that is not ours, or not any more, and is left without a trace', async () => {
    const target = folder();
    const outputs = new FolderOutputs(folder(), [target]);
    const place = { target, folder: 'web', fileName: 'a.jpg' };
    await outputs.commit(await make(outputs, target, 'first'), place, false);
    writeFileSync(join(target, 'web', 'a.jpg'), 'retouched by hand');
    await expect(outputs.commit(await make(outputs, target, 'second'), place, true, [hash('first')])).rejects.toMatchObject({
      problem: { code: 'not-ours', file: 'a.jpg' },
    });
    expect(readFileSync(join(target, 'web', 'a.jpg'), 'utf8')).toBe('retouched by hand');
    expect(await outputs.sweep([target], () => Promise.resolve(new Set()))).toBe(1);
    // The folder for them stays: a run may be about to write there. Whoever knows that none is takes it away.
    expect(readdirSync(target).sort()).toEqual(['.rundle-unfinished', 'web']);
    await outputs.tidy([target]);
    expect(readdirSync(target)).toEqual(['web']);
  });
});

describe('a folder of outputs', () => {
  const place = { target: 'T', folder: 'web', fileName: 'a.jpg' };

  asRoot('that is full, read-only or gone says so in plain words, and keeps nothing half-written', async () => {
    const root = folder();
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=64k', 'tmpfs', root]);
    try {
      const outputs = new FolderOutputs(root);
      const path = await outputs.workFile('T', randomUUID(), 1, '.jpg');
      writeFileSync(path, 'x');
      execFileSync('mount', ['-o', 'remount,ro', root]);
      const refused = outputs.commit({ path, content: '0'.repeat(64) }, place, false);
      await expect(refused).rejects.toMatchObject({
        problem: { code: 'not-written', message: expect.stringContaining('read-only') as string },
      });
      execFileSync('mount', ['-o', 'remount,rw', root]);
      await outputs.commit({ path, content: '0'.repeat(64) }, place, false);
      expect(readdirSync(join(root, 'T', 'web'))).toEqual(['a.jpg']);
      await outputs.release(path);
    } finally {
      execFileSync('umount', [root]);
    }
    const outputs = new FolderOutputs(root);
    writeFileSync(join(root, 'T'), 'a file');
    const path = await outputs.workFile('T', randomUUID(), 1, '.jpg');
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
    await masters.discard(first.sha256);
    expect(await masters.has(first.sha256)).toBe(false);
    await masters.restore(first.sha256);
    expect(await masters.has(first.sha256)).toBe(true);
    await masters.discard(first.sha256);
    await masters.remove(first.sha256);
    await masters.restore(first.sha256);
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
    const brought = await masters.bring(master);
    // What was opened is what is read, whatever comes to stand under its name.
    renameSync(sourcePath, `${sourcePath}.old`);
    writeFileSync(sourcePath, 'two');
    expect(execFileSync('cat', [brought.path], { encoding: 'utf8' })).toBe('one');
    await brought.close();
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
