import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { ENGINE, Preset, recipeText, StudioDetails } from '@rundle/core';
import { beforeAll, describe, expect, it } from 'vitest';
import { endExifTool, exifTool } from '../src/read/exiftool';
import { folder, testPicture } from './pictures';

const PROGRAM = fileURLToPath(new URL('../../../dist/rundle.js', import.meta.url));
const dir = folder();
const masters = join(dir, 'masters');
const web = join(dir, 'web.preset.json');
const small = join(dir, 'small.preset.json');

/** Calls the bundled program as a user's shell does. */
function rundle(...args: string[]) {
  const { status, stdout, stderr } = spawnSync(process.execPath, [PROGRAM, ...args], { encoding: 'utf8', cwd: dir });
  const lines = stdout.split('\n').filter(Boolean);
  return {
    status,
    stdout,
    stderr,
    events: args.includes('--json') ? lines.map((line) => JSON.parse(line) as Record<string, unknown>) : [],
  };
}

const hashOf = (file: Buffer) => createHash('sha256').update(file).digest('hex');

beforeAll(async () => {
  mkdirSync(masters);
  for (const name of ['b 10.jpg', 'b 9.jpg', '-dash é.jpg']) await testPicture(900, 600).jpeg().toFile(join(masters, name));
  await exifTool().write(
    join(masters, 'b 9.jpg'),
    { Title: 'Nine', GPSLatitude: 40, GPSLatitudeRef: 'N' },
    { writeArgs: ['-overwrite_original'] },
  );
  await endExifTool();
  writeFileSync(join(masters, 'broken.jpg'), 'no picture');
  writeFileSync(join(masters, 'notes.txt'), 'left aside');
  const preset = (title: string, more: object) => JSON.stringify({ kind: 'rundle.preset', version: 1, title, ...more });
  writeFileSync(web, preset('Web', { size: { px: 450 } }));
  writeFileSync(small, preset('Small', { size: { px: 200 }, folder: 'small', name: { parts: [{ part: 'set' }, { part: 'counter' }] } }));
});

describe('rundle', () => {
  it('plans without writing, in natural order, and renders what it planned', () => {
    const call = ['--preset', web, '--preset', small, '--out', join(dir, 'out'), '--set', 'Boats', '--json', masters];
    const plan = rundle('plan', ...call);
    expect(existsSync(join(dir, 'out'))).toBe(false);
    const planned = plan.events.filter(({ status }) => status === 'planned');
    expect(planned.map(({ output }) => String(output).slice(dir.length))).toEqual([
      '/out/web/dash-e_450.jpg',
      '/out/small/Boats001.jpg',
      '/out/web/b-9_450.jpg',
      '/out/small/Boats002.jpg',
      '/out/web/b-10_450.jpg',
      '/out/small/Boats003.jpg',
    ]);
    const render = rundle('render', ...call);
    expect(render.status).toBe(3);
    expect(render.stderr).toContain('notes.txt: Left aside');
    const done = render.events.filter(({ status }) => status === 'done');
    expect(new Set(done.map(({ output }) => output))).toEqual(new Set(planned.map(({ output }) => output)));
    expect(done[0]).toMatchObject({ event: 'output', quality: 80, warnings: [] });
    expect(render.events.filter(({ status }) => status === 'failed')).toMatchObject([
      { error: { code: 'unreadable' } },
      { error: { code: 'unreadable' } },
    ]);
    expect(render.events.at(-1)).toMatchObject({ event: 'summary', done: 6, failed: 2, skipped: 0 });
  });

  it('renders only some of the files under the names that they have in the whole, and keeps a list', () => {
    const list = join(dir, 'list.csv');
    const out = join(dir, 'only');
    const call = ['--preset', small, '--out', out, '--set', 'Boats'];
    const { status, events } = rundle('render', ...call, '--only', 'b 10.jpg', '--list', list, '--json', masters);
    expect(status).toBe(0);
    expect(events.filter(({ event }) => event === 'output')).toMatchObject([{ output: join(out, 'small', 'Boats003.jpg') }]);
    const [head, row] = readFileSync(list, 'utf8').split('\r\n');
    expect(head).toContain('Master,Preset,Version,State,File');
    expect(row).toMatch(/b 10\.jpg,Small,1,done,small\/Boats003\.jpg,200,133,\d+,80/);
    rundle('render', ...call, '--list', join(dir, 'list.json'), masters);
    expect(JSON.parse(readFileSync(join(dir, 'list.json'), 'utf8'))).toMatchObject({
      set: 'Boats',
      state: 'done',
      presets: [{ title: 'Small' }],
    });
    expect(rundle('render', ...call, '--only', 'nobody.jpg', masters)).toMatchObject({ status: 2 });
    expect(rundle('plan', ...call, '--list', list, masters)).toMatchObject({ status: 2 });
    expect(rundle('render', ...call, '--list', join(dir, 'list.txt'), masters).stderr).toContain('.csv or .json');
  });

  it('keeps a folder in step with its masters by --sync: names follow, what is not made any more goes, what was changed stays', async () => {
    const out = join(dir, 'sync');
    const own = join(dir, 'sync-masters');
    mkdirSync(own);
    for (const [n, name] of ['a', 'b', 'c', 'd'].entries())
      await testPicture(300 + n, 200)
        .jpeg()
        .toFile(join(own, `${name}.jpg`));
    const call = (...more: string[]) => ['--preset', small, '--out', out, '--set', 'Boats', ...more];
    const listed = (folder: string) =>
      Object.fromEntries(readdirSync(join(folder, 'small')).map((name) => [name, hashOf(readFileSync(join(folder, 'small', name)))]));
    expect(rundle('render', ...call('--sync'), own).stderr).toContain('no manifest.json of a call before');
    writeFileSync(join(out, 'small', 'Boats004.jpg'), 'retouched');
    writeFileSync(join(out, 'small', 'somebody.txt'), 'a stranger’s');
    rmSync(join(own, 'a.jpg'));
    const { status, events } = rundle('render', ...call('--sync', '--json'), own);
    expect(status).toBe(0);
    expect(events.filter(({ event }) => event === 'earlier')).toEqual([
      { event: 'earlier', from: 'small/Boats001.jpg', to: null },
      { event: 'earlier', from: 'small/Boats002.jpg', to: 'small/Boats001.jpg' },
      { event: 'earlier', from: 'small/Boats003.jpg', to: 'small/Boats002.jpg' },
    ]);
    // Only what is not there yet is rendered: the picture whose file was retouched.
    expect(events.filter(({ event }) => event === 'output').map(({ status: is }) => is)).toEqual(['skipped', 'skipped', 'done']);
    const alone = join(dir, 'sync-alone');
    rundle('render', '--preset', small, '--out', alone, '--set', 'Boats', own);
    const { 'Boats004.jpg': kept, 'somebody.txt': stranger, ...made } = listed(out);
    expect([made, kept, stranger]).toEqual([listed(alone), hashOf(Buffer.from('retouched')), hashOf(Buffer.from('a stranger’s'))]);
    expect(rundle('render', ...call('--sync', '--only', 'b.jpg'), own).status).toBe(2);
  });

  it('leaves what an earlier engine made, says so, and makes it again when that is asked for', () => {
    const out = join(dir, 'earlier');
    const master = join(masters, 'b 9.jpg');
    const again = join(dir, 'again.preset.json');
    writeFileSync(again, JSON.stringify({ ...JSON.parse(readFileSync(web, 'utf8')), existing: 'replace' }));
    const call = ['--preset', again, '--out', out, '--json', master];
    expect(rundle('render', ...call).status).toBe(0);
    // As if an engine before this one had made it: its number stands in the recipe that is on record.
    const record = join(out, '.rundle-record.jsonl');
    const { size, mtimeMs } = statSync(master);
    const preset = Preset.parse(JSON.parse(readFileSync(again, 'utf8')));
    const recipe = { master: `${size} ${mtimeMs}`, preset, studio: StudioDetails.parse({}), watermark: null };
    const recipeHash = (engine: number) =>
      createHash('sha256')
        .update(recipeText({ ...recipe, engine }))
        .digest('hex');
    const text = readFileSync(record, 'utf8');
    expect(text).toContain(recipeHash(ENGINE));
    writeFileSync(record, text.replaceAll(recipeHash(ENGINE), recipeHash(ENGINE - 1)));
    const kept = rundle('render', ...call);
    expect(kept.events.at(-1)).toMatchObject({ done: 0, skipped: 1 });
    expect(kept.stderr).toContain('1 file was made by an earlier version of Rundle and stays; --again makes it once more.');
    expect(rundle('render', '--again', ...call).events.at(-1)).toMatchObject({ done: 1, skipped: 0 });
    const now = rundle('render', ...call);
    expect([now.events.at(-1), now.stderr]).toMatchObject([{ done: 0, skipped: 1 }, '']);
    expect(rundle('plan', '--again', ...call).status).toBe(2);
  });

  it('plans weights by looking at the pictures, or guesses them and says so', () => {
    const call = ['--preset', web, '--out', join(dir, 'planned'), '--json', join(masters, 'b 9.jpg')];
    const weightOf = (events: Record<string, unknown>[]) => Number(events[0]!['bytes']);
    const measured = rundle('plan', ...call);
    const guessed = rundle('plan', '--quick', ...call);
    const real = rundle('render', ...call);
    expect(measured.events.at(-1)).not.toHaveProperty('guessed');
    expect(guessed.events.at(-1)).toMatchObject({ guessed: true });
    expect(Math.abs(Math.log(weightOf(measured.events) / weightOf(real.events)))).toBeLessThan(Math.log(1.5));
    expect(weightOf(measured.events)).not.toBe(weightOf(guessed.events));
  });

  it('never writes over a master, even into the masters’ own folder with replace', () => {
    const original = join(dir, 'same.preset.json');
    const same = {
      title: 'Same',
      size: { fit: 'original' },
      name: { parts: [{ part: 'original' }], webSafe: false },
      folder: '',
      existing: 'replace',
    };
    writeFileSync(original, JSON.stringify({ kind: 'rundle.preset', version: 1, ...same }));
    const before = readFileSync(join(masters, 'b 9.jpg'));
    const { status, events } = rundle('render', '--preset', original, '--out', masters, '--json', join(masters, 'b 9.jpg'));
    expect(status).toBe(0);
    expect(events[0]).toMatchObject({ output: join(masters, 'b 9-2.jpg') });
    expect(readFileSync(join(masters, 'b 9.jpg'))).toEqual(before);
    expect(readdirSync(masters).filter((name) => name.startsWith('.'))).toEqual(['.rundle-record.jsonl']);
  });

  it('refuses a wrong call or preset with exit code 2 and writes nothing', () => {
    const wrong = join(dir, 'wrong.preset.json');
    writeFileSync(wrong, '{"kind":"rundle.preset","version":1,"title":"X","file":{"quality":0}}');
    const out = join(dir, 'never');
    const refused = rundle('render', '--preset', web, '--preset', wrong, '--out', out, masters);
    expect(refused).toMatchObject({ status: 2, stderr: expect.stringContaining('file.quality') as string });
    expect(existsSync(out)).toBe(false);
    expect(rundle('render', '--out', out, masters).status).toBe(2);
    expect(rundle('polish', masters).stderr).toContain('Usage');
  });

  it('tells how it is called, and names what may have been meant', () => {
    const all = rundle('--help');
    expect([all.status, all.stderr]).toEqual([0, '']);
    for (const command of ['render', 'plan', 'inspect', 'verify', 'watch']) expect(all.stdout).toContain(`  ${command} `);
    const own = rundle('render', '--help');
    expect([own.status, own.stderr]).toEqual([0, '']);
    expect(own.stdout).toMatch(/--preset FILE .*\n(.*\n)*.*--sync/);
    expect(own.stdout).not.toContain('--polling');
    expect(rundle('--version')).toMatchObject({
      status: 0,
      stderr: '',
      stdout: expect.stringMatching(/^rundle \d+\.\d+\.\d+, engine \d+\n$/) as string,
    });
    const [option, place, command] = [rundle('render', '--recursiv', masters), rundle('plan', '--sync', masters), rundle('rendr', masters)];
    expect([option.status, place.status, command.status]).toEqual([2, 2, 2]);
    expect(option.stderr).toContain('There is no option --recursiv. Did you mean --recursive?');
    expect(place.stderr).toContain('--sync belongs to render.');
    expect(command.stderr).toContain('Did you mean render?');
    expect(rundle('render', '--zebra', masters).stderr).toContain('There is no option --zebra.\n');
  });

  it('inspects', () => {
    const { events, status } = rundle('inspect', '--json', join(masters, 'b 9.jpg'), join(masters, 'missing.jpg'));
    expect(status).toBe(3);
    const nine = events.find(({ file }) => String(file).endsWith('b 9.jpg'));
    expect(nine).toMatchObject({ width: 900, height: 600, format: 'jpeg', bits: 8, profile: null, title: 'Nine', gps: true });
    const codes = (nine?.['findings'] as { code: string }[]).map(({ code }) => code);
    expect(codes).toEqual(['no-profile', 'already-small', 'rights-missing', 'place-present']);
    expect(events.find(({ file }) => String(file).endsWith('missing.jpg'))).toMatchObject({ error: { code: 'missing' } });
  });
});
