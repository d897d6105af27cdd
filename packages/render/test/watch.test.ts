import { type ChildProcess, spawn } from 'node:child_process';
import { appendFileSync, copyFileSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { fileURLToPath } from 'node:url';
import { afterEach, describe, expect, it } from 'vitest';
import { folder, testPicture } from './pictures';

const PROGRAM = fileURLToPath(new URL('../../../dist/rundle.js', import.meta.url));
const dir = folder();
const web = join(dir, 'web.preset.json');
writeFileSync(
  web,
  JSON.stringify({
    kind: 'rundle.preset',
    version: 1,
    title: 'Web',
    size: { px: 300 },
    folder: '',
    existing: 'replace',
    name: { parts: [{ part: 'original' }, { part: 'text', text: '-' }, { part: 'counter' }] },
  }),
);
const jpeg = (shade: number, width = 900) =>
  testPicture(width, Math.round(width * 0.7))
    .modulate({ brightness: 1 - shade / 20 })
    .jpeg()
    .toBuffer();

let program: ChildProcess | null = null;
let told = '';
function watch(out: string, ...args: string[]): void {
  const started = spawn(process.execPath, [PROGRAM, 'watch', '--preset', web, '--out', out, '--json', ...args]);
  told = '';
  started.stdout.on('data', (data: Buffer) => (told += data.toString()));
  started.stderr.on('data', (data: Buffer) => (told += data.toString()));
  program = started;
}
async function end(signal: NodeJS.Signals = 'SIGINT'): Promise<number | null> {
  const ending = program;
  program = null;
  if (!ending || ending.exitCode !== null || ending.signalCode !== null) return ending?.exitCode ?? null;
  ending.kill(signal);
  return new Promise((resolve) => ending.once('exit', resolve));
}
const says = async (words: string, times = 1) => {
  while (told.split(words).length <= times) {
    if (program?.exitCode !== null && program?.exitCode !== undefined) throw new Error(`It has ended: ${told}`);
    await wait(50);
  }
};
const made = (out: string) =>
  readdirSync(out)
    .filter((name) => name.endsWith('.jpg') && !name.startsWith('.')) // one that was killed may leave an unfinished file
    .sort();
const LONG_ENOUGH = 4500;

afterEach(() => end('SIGKILL'));

describe('rundle watch', () => {
  it('makes what comes to rest, each picture once, while it is watched and what came while it was not', async () => {
    const [into, out] = [join(dir, 'in'), join(dir, 'out')];
    mkdirSync(into);
    mkdirSync(out);
    writeFileSync(join(into, 'old.jpg'), await jpeg(0));
    // Not ours: it survives, although the preset replaces.
    writeFileSync(join(out, 'fast-001.jpg'), 'somebody’s own');
    watch(out, into);
    await says('Watching');
    writeFileSync(join(into, 'fast.jpg'), await jpeg(1));
    const slow = await jpeg(2, 1500);
    for (let at = 0; at < slow.length; at += Math.ceil(slow.length / 8)) {
      appendFileSync(join(into, 'slow.jpg'), slow.subarray(at, at + Math.ceil(slow.length / 8)));
      await wait(250);
    }
    await says('"status":"done"', 2);
    expect(readFileSync(join(out, 'fast-001.jpg'), 'utf8')).toBe('somebody’s own');
    // The counter goes on through the day; what lay there is no part of it.
    expect(made(out)).toEqual(['fast-001-2.jpg', 'fast-001.jpg', 'slow-002.jpg']);
    // What it made itself, and what was only touched, is not taken.
    copyFileSync(join(out, 'slow-002.jpg'), join(into, 'back.jpg'));
    utimesSync(join(into, 'fast.jpg'), new Date(), new Date());
    await wait(LONG_ENOUGH);
    expect(made(out)).toHaveLength(3);
    expect(await end()).toBe(0);

    // Moved away once it was made: nothing else gets its name.
    rmSync(join(into, 'fast.jpg'));
    writeFileSync(join(into, 'later.jpg'), await jpeg(3));
    watch(out, into);
    await says('"status":"done"');
    expect(made(out)).toContain('later-003.jpg');
    // The same path with another content is another picture, and has the name of the one that was.
    writeFileSync(join(into, 'slow.jpg'), await jpeg(4, 1500));
    const before = readFileSync(join(out, 'slow-002.jpg'));
    await says('"status":"done"', 2);
    expect(readFileSync(join(out, 'slow-002.jpg')).equals(before)).toBe(false);
    expect(made(out)).toHaveLength(4);
  });

  it('tells a picture that was cut off, makes it when it is whole, and goes on after it was killed in the middle', async () => {
    const [into, out] = [join(dir, 'cut'), join(dir, 'cut-out')];
    mkdirSync(into);
    watch(out, '--existing', '--polling', into);
    await says('Watching');
    const whole = await jpeg(1, 2400);
    writeFileSync(join(into, 'a.jpg'), whole.subarray(0, whole.length / 2));
    await says('It is not whole, or damaged.');
    appendFileSync(join(into, 'a.jpg'), whole.subarray(whole.length / 2, whole.length - 2000));
    await wait(LONG_ENOUGH);
    appendFileSync(join(into, 'a.jpg'), whole.subarray(whole.length - 2000));
    await says('"status":"done"');
    expect([told.split('not whole').length, told.includes('"status":"failed"')]).toEqual([2, false]);
    // Renamed, it is the same picture; a copy beside it is told, and not made.
    renameSync(join(into, 'a.jpg'), join(into, 'renamed.jpg'));
    copyFileSync(join(into, 'renamed.jpg'), join(into, 'twin.jpg'));
    await says('It is the same picture as');
    expect(made(out)).toEqual(['a-001.jpg']);
    for (let at = 0; at < 12; at++) writeFileSync(join(into, `b ${at}.jpg`), await jpeg(at, 2000));
    await says('"status":"done"', 3);
    await end('SIGKILL');
    watch(out, '--existing', into);
    while (made(out).length < 13) await wait(50);
    await wait(1000);
    expect(made(out)).toHaveLength(13);
  });

  it('is refused where there is nothing to watch, or too much', async () => {
    watch(join(dir, 'none'), join(dir, 'nowhere'));
    while (program!.exitCode === null) await wait(50);
    expect([program!.exitCode, told]).toEqual([2, expect.stringContaining('There is no such folder to watch.')]);
    watch(join(dir, 'none'), dir, dir);
    while (program!.exitCode === null) await wait(50);
    expect(told).toContain('watch follows one folder.');
  });
});
