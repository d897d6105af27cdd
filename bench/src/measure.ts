import { execFileSync, spawn, spawnSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { Health } from '@rundle/core';
import type { Row } from './report';

export const ROOT = fileURLToPath(new URL('../..', import.meta.url));
const PROGRAM = join(ROOT, 'dist/rundle.js');

/** Everything the bench writes lies here and goes when it ends. */
export const work = mkdtempSync(join(tmpdir(), 'rundle-bench-'));

export const median = (values: readonly number[]): number => values.toSorted((a, b) => a - b)[Math.floor(values.length / 2)] ?? NaN;

export const percentile = (values: readonly number[], share: number): number =>
  values.toSorted((a, b) => a - b)[Math.ceil(share * values.length) - 1]!;

/** A row with one figure that was measured, and no other tool beside it. */
export const figureRow = (what: string, figure: number, goal: string, isMet: (figure: number) => boolean): Row => ({
  what,
  ours: '-',
  against: '-',
  goal,
  figures: [figure],
  figure,
  met: isMet(figure),
});

/** Seconds that a call takes from start to end. */
export function seconds(call: () => void): number {
  const begun = performance.now();
  call();
  return (performance.now() - begun) / 1000;
}

/** Seconds of processor time that a call's programs take, with all that they start. */
export function cpuSeconds(call: () => void): number {
  const before = childTicks();
  call();
  return (childTicks() - before) / TICKS;
}

/** Of Linux, on every machine it runs on today: sysconf(_SC_CLK_TCK). */
const TICKS = 100;

/** proc(5), /proc/pid/stat: fields 16 and 17 are the times of children that have ended, in clock ticks. */
function childTicks(): number {
  const fields = readFileSync('/proc/self/stat', 'utf8')
    .replace(/^.*\) /, '')
    .split(' ');
  return Number(fields[13]) + Number(fields[14]);
}

/** Writes a preset and gives its path. */
export function presetFile(name: string, more: object): string {
  const path = join(work, `${name}.preset.json`);
  writeFileSync(path, JSON.stringify({ kind: 'rundle.preset', version: 1, title: name, existing: 'replace', folder: name, ...more }));
  return path;
}

const argsOf = (presets: readonly string[], out: string, paths: readonly string[]) => [
  PROGRAM,
  'render',
  ...presets.flatMap((preset) => ['--preset', preset]),
  '--out',
  out,
  '--json',
  ...paths,
];

/** Renders into an empty folder (or, with `keep`, into what is there) and gives the seconds of the whole process. */
export function rundle(presets: readonly string[], paths: readonly string[], keep = false): number {
  const out = join(work, 'out');
  if (!keep) rmSync(out, { recursive: true, force: true });
  return seconds(() => execFileSync(process.execPath, argsOf(presets, out, paths), { stdio: 'ignore' }));
}

/** Renders and watches the memory of the process with all it has started, in MB: after each picture, and the most. */
export async function memoryOf(preset: string, paths: readonly string[]): Promise<{ after: number[]; most: number }> {
  const child = spawn(process.execPath, argsOf([preset], join(work, 'memory'), paths), { stdio: ['ignore', 'pipe', 'ignore'] });
  const after: number[] = [];
  let most = 0;
  const timer = setInterval(() => (most = Math.max(most, residentMegabytes(child.pid!))), 50);
  child.stdout.on('data', (chunk: Buffer) => {
    if (chunk.toString().includes('"status":"done"')) after.push(residentMegabytes(child.pid!));
  });
  await new Promise((resolve) => child.once('exit', resolve));
  clearInterval(timer);
  return { after, most };
}

/** Resident memory of a process and its children. */
function residentMegabytes(parent: number): number {
  let kilobytes = 0;
  for (const pid of readdirSync('/proc').filter((name) => /^\d+$/.test(name)))
    try {
      const status = readFileSync(`/proc/${pid}/status`, 'utf8');
      const number = (field: string) => Number(new RegExp(`^${field}:\\s+(\\d+)`, 'm').exec(status)?.[1] ?? 0);
      if (Number(pid) === parent || number('PPid') === parent) kilobytes += number('VmRSS');
    } catch {
      // ended meanwhile
    }
  return kilobytes / 1000;
}

/** Runs a program once per file, so many at a time. */
export function each(processes: number, program: readonly string[], files: readonly string[]): number {
  return seconds(() => spawnSync('xargs', ['-0', '-P', String(processes), '-I', '{}', ...program], { input: files.join('\0') }));
}

/** Waits until the application has read, weighed and rendered all that it was given. */
export async function atRest(call: <T>(method: string, path: string) => Promise<T>): Promise<void> {
  for (let times = 0; times < 3; await new Promise((resolve) => setTimeout(resolve, 1000))) {
    const { queue } = await call<Health>('GET', '/api/health');
    times = queue && queue.waiting + queue.underWay === 0 ? times + 1 : 0;
  }
}
