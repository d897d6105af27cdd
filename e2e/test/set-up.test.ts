import { spawn, spawnSync } from 'node:child_process';
import { chownSync, cpSync, existsSync, mkdirSync, mkdtempSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { StoredPreset } from '@rundle/core';
import { describe, expect, it } from 'vitest';
import { causeOfDeath } from '../../scripts/setup/deaths.mjs';
import { freePort } from '../../scripts/setup/free-port.mjs';
import { Application } from '../src/application';
import { becomesSo } from '../src/patience';

const ROOT = fileURLToPath(new URL('../..', import.meta.url));

/** Starts, and gives what was said when it refuses to. */
function refusal(env: Record<string, string>): { status: number | null; said: string } {
  const { status, stderr } = spawnSync(process.execPath, ['scripts/start.mjs'], {
    cwd: ROOT,
    encoding: 'utf8',
    env: { ...process.env, RUNDLE_DEMO_MASTERS: '', ...env },
  });
  return { status, said: stderr };
}

const alive = (pid: number) => existsSync(`/proc/${pid}/cmdline`) && readFileSync(`/proc/${pid}/cmdline`, 'utf8') !== '';

async function until(is: () => boolean | Promise<boolean>, within = 120_000): Promise<void> {
  if (!(await becomesSo(async () => is(), within))) throw new Error(`It has not become so within ${within} ms: ${is.toString()}`);
}

describe('set-up', () => {
  it('says in a sentence what stands in its way', async () => {
    const taken = createServer();
    const port = await new Promise<number>((resolve) => {
      taken.listen(0, '127.0.0.1', () => {
        const address = taken.address();
        resolve(typeof address === 'object' && address ? address.port : 0);
      });
    });
    const foreign = mkdtempSync(join(tmpdir(), 'rundle-foreign-'));
    expect(refusal({ RUNDLE_DATA: foreign, PORT: String(port) })).toMatchObject({
      status: 1,
      said: expect.stringContaining('is taken by another program') as string,
    });
    taken.close();
    expect(refusal({ PORT: 'eighty' }).said).toContain('PORT=eighty is no port');
    if (process.getuid?.() === 0) {
      chownSync(foreign, 12_345, 12_345);
      expect(refusal({ RUNDLE_DATA: foreign, PORT: String(port) }).said).toContain('belongs to another user');
    }
    rmSync(foreign, { recursive: true });
    const file = join(ROOT, 'package.json');
    expect(refusal({ RUNDLE_DATA: join(file, 'data'), PORT: String(port) }).said).toContain('cannot be written');
  });

  it('finds the database of a folder that was moved, and gives it to no copy', () => {
    const [parent, clusters] = [mkdtempSync(join(tmpdir(), 'rundle-folders-')), '/var/lib/rundle'];
    /** What is found for a folder that the database's user may enter, or not. */
    const find = (data: string, mayEnter: boolean, wish = '') => {
      const call = `import { clusterFolder } from './scripts/setup/cluster.mjs'; console.log(clusterFolder(process.argv[1], () => ${mayEnter}));`;
      const env = { ...process.env, RUNDLE_STUDIO: wish };
      const { stdout, stderr } = spawnSync(process.execPath, ['--input-type=module', '-e', call, data], {
        cwd: ROOT,
        encoding: 'utf8',
        env,
      });
      return stderr || stdout.trim().split('\n').at(-1)!;
    };
    const [first, second, third] = ['first', 'second', 'third'].map((name) => join(parent, name)) as [string, string, string];
    mkdirSync(join(first, 'masters', 'ab'), { recursive: true });
    // A new folder's lies in it where its user may enter; pictures without a database are not started on.
    expect(find(join(parent, 'new'), true)).toBe(join(parent, 'new', 'postgres'));
    writeFileSync(join(first, 'masters', 'ab', 'ab'.repeat(32)), 'a picture');
    expect(find(first, true)).toMatch(/with 1 uploaded picture, but its database is not/);
    expect(find(first, true, 'new')).toBe(join(first, 'postgres'));

    const cluster = find(first, false, 'new');
    expect(cluster).toContain(clusters);
    mkdirSync(cluster, { recursive: true });
    writeFileSync(join(cluster, 'PG_VERSION'), '15\n');
    expect(find(first, false)).toBe(cluster);
    cpSync(first, second, { recursive: true });
    expect(find(second, false)).toContain(`is a copy of ${first}`);
    renameSync(first, third);
    expect(find(third, false)).toBe(cluster);
    expect(find(second, false)).toContain(`is a copy of ${third}`);
    // Where its user may enter, it comes in; then the copy has none.
    expect(find(third, true)).toBe(join(third, 'postgres'));
    expect(existsSync(join(third, 'postgres', 'PG_VERSION'))).toBe(true);
    expect(find(second, false)).toContain(`, but its database is not (${cluster}`);
    rmSync(join(third, 'postgres', 'PG_VERSION'));
    writeFileSync(join(third, 'postgres', 'base'), '');
    expect(find(third, true)).toContain('is no whole database');
    rmSync(parent, { recursive: true });
  });

  it('starts a program again ever more slowly, and says why it has ended', () => {
    const programs = mkdtempSync(join(tmpdir(), 'rundle-programs-'));
    const ready =
      "process.send('ready'); process.once('disconnect', () => process.exit(0)); process.once('SIGTERM', () => process.exit(0)); setInterval(() => {}, 1000);";
    for (const [name, code] of [
      ['server', ready],
      ['worker', ready],
      ['stand-ins', "throw new TypeError('port 25 is somebody else’s');"],
    ] as const)
      writeFileSync(join(programs, `${name}.js`), code);
    const call = `import { startPrograms } from './scripts/setup/programs.mjs';
      const end = await startPrograms(process.env, process.argv[1]); setTimeout(() => end().then(() => process.exit(0)), 15_000);`;
    const { stdout } = spawnSync(process.execPath, ['--input-type=module', '-e', call, programs], { cwd: ROOT, encoding: 'utf8' });
    const said = stdout.split('\n').filter((line) => line.includes('stand-ins'));
    expect(said[0]).toBe('The stand-ins has ended (1) and is started again. It said: TypeError: port 25 is somebody else’s');
    expect(said.length).toBeLessThan(13);
    expect(said.at(-1)).toMatch(/is started again in [1-9] s/);
    rmSync(programs, { recursive: true });
  });

  it('knows a death that a picture can have caused from others', () => {
    const quiet = { roseWithin: () => false };
    const cause = (code: number | null, signal: NodeJS.Signals | null, memory = quiet) => causeOfDeath(code, signal, memory);
    for (const signal of ['SIGABRT', 'SIGSEGV', 'SIGILL', 'SIGBUS'] as const) expect(cause(null, signal)).toBe('picture');
    expect(cause(134, null)).toBe('picture'); // Node.js out of heap
    expect([cause(null, 'SIGKILL'), cause(null, 'SIGTERM'), cause(1, null)]).toEqual(['other', 'other', 'other']);
    expect(cause(null, 'SIGKILL', { roseWithin: () => true })).toBe('picture');
  });

  it('starts again what is killed, leaves nothing behind when it is killed itself, and keeps what was there', async () => {
    const first = await Application.start('');
    const presets = async (app: Application) => (await (await fetch(`${app.url}/api/presets`)).json()) as StoredPreset[];
    const [one] = await presets(first);
    await fetch(`${first.url}/api/presets/${one!.id}`, { method: 'DELETE' });
    expect(refusal({ RUNDLE_DATA: first.data, PORT: String(await freePort()) }).said).toContain('already running on the data folder');

    const [server] = first.children('dist/server.js');
    process.kill(server!, 'SIGKILL');
    await until(async () => (await fetch(`${first.url}/api/presets`).catch(() => null))?.status === 200);
    const [worker] = first.children('dist/worker.js');
    process.kill(worker!, 'SIGKILL');
    await until(() => first.children('dist/worker.js').filter((pid) => pid !== worker).length >= 2);

    const [postmaster] = first.children('bin/postgres');
    process.kill(postmaster!, 'SIGKILL');
    await until(() => first.children('bin/postgres').some((pid) => pid !== postmaster));
    await until(async () => (await fetch(`${first.url}/api/presets`).catch(() => null))?.status === 200);

    const children = [...first.children('dist/'), ...first.children('postgres')];
    expect(children.length).toBeGreaterThanOrEqual(4);
    process.kill(first.pid, 'SIGKILL');
    await until(() => !children.some(alive));

    // A file that the database left behind names a process that is another's by now: that one is left alone.
    const note = join(first.data, 'where-the-database-is.txt');
    const cluster = existsSync(note) ? readFileSync(note, 'utf8').trim() : join(first.data, 'postgres');
    const stranger = spawn('sleep', ['300']);
    writeFileSync(join(cluster, 'postmaster.pid'), `${stranger.pid}\n${cluster}\n${Math.floor(Date.now() / 1000)}\n5432\n`);

    // Without its database the folder is not started on; half a note of who runs on it is none.
    renameSync(cluster, `${cluster}.away`);
    writeFileSync(join(first.data, 'running.json'), '{"pid":');
    expect(refusal({ RUNDLE_DATA: first.data, PORT: String(await freePort()) }).said).toContain('but its database is not');
    expect(existsSync(cluster)).toBe(false);
    renameSync(`${cluster}.away`, cluster);

    const second = await Application.start('', first.data);
    expect((await presets(second)).slice(0, 2).map(({ preset }) => preset.title)).toEqual(['Blog column 850', 'Print copy 4000']);
    expect(stranger.exitCode ?? stranger.signalCode).toBeNull();
    stranger.kill('SIGKILL');
    expect(await second.stop()).toBe(0);
  });
});
