import { execFileSync } from 'node:child_process';
import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { debianPictures } from './pictures';
import { figureRow, median, presetFile, ROOT, work } from './measure';
import type { Measured, Scatter } from './report';

/*
 * Expected weights against real ones. The pictures are photographs and renderings that Debian ships, which nothing was fitted to, and the
 * demo set, on which the constants of weigh.ts and weight.ts were.
 */

const EDGES = [300, 800, 2048, 4000];
const QUALITIES = [40, 65, 80, 95, 100];
const OTHERS = [
  { type: 'webp', quality: 75 },
  { type: 'webp', quality: 90 },
  { type: 'avif', quality: 55 },
];

interface Pair {
  preset: string;
  expected: number;
  real: number;
}

export async function weights(): Promise<Measured> {
  const pictures = [...(await debianPictures()), ...demoPictures()];
  const presets = [
    ...EDGES.flatMap((px) => QUALITIES.map((quality) => presetFile(`jpeg-${px}-${quality}`, { size: { px }, file: { quality } }))),
    ...OTHERS.flatMap(({ type, quality }) =>
      [800, 2048].map((px) => presetFile(`${type}-${px}-${quality}`, { size: { px }, file: { type, quality } })),
    ),
  ];
  const expected = outputsOf('plan', presets, pictures);
  const real = outputsOf('render', presets, pictures);
  const pairs = [...expected].flatMap(([key, bytes]): Pair[] => {
    const made = real.get(key);
    return made === undefined ? [] : [{ preset: key.split('\n')[1]!, expected: bytes, real: made }];
  });
  const of = (type: string) => pairs.filter(({ preset }) => preset.startsWith(type));
  const off = ({ expected: guess, real: made }: Pair) => Math.exp(Math.abs(Math.log(guess / made))) - 1;
  const medianOff = (type: string) => 100 * median(of(type).map(off));
  const within = (100 * of('jpeg').filter((pair) => off(pair) <= 0.5).length) / of('jpeg').length;
  const totals = [...new Set(pairs.map(({ preset }) => preset))].map((name) => {
    const own = pairs.filter(({ preset }) => preset === name);
    const sum = (key: 'expected' | 'real') => own.reduce((total, pair) => total + pair[key], 0);
    return 100 * Math.abs(sum('expected') / sum('real') - 1);
  });
  const jpegTotals = totals.slice(0, EDGES.length * QUALITIES.length);
  const what = `Expected weight of ${pictures.length} pictures, JPEG of ${QUALITIES.length} qualities and ${EDGES.length} sizes`;
  return {
    rows: [
      figureRow(`${what}: off by so many percent, median`, medianOff('jpeg'), '<= 12', (figure) => figure <= 12),
      figureRow('The same: percent of outputs within a factor of 1.5', within, '>= 99', (figure) => figure >= 99),
      figureRow(
        'The same: the total of a run, off by so many percent, median of the runs',
        median(jpegTotals),
        '<= 8',
        (figure) => figure <= 8,
      ),
      figureRow('The same: the worst of the runs', Math.max(...jpegTotals), 'reported', () => true),
      figureRow('Expected weight as WebP: off by so many percent, median', medianOff('webp'), '<= 20', (figure) => figure <= 20),
      figureRow('Expected weight as AVIF: off by so many percent, median', medianOff('avif'), '<= 20', (figure) => figure <= 20),
    ],
    scatter: ['jpeg', 'webp', 'avif'].map((type): Scatter => ({
      what: `Expected against real weight, ${type.toUpperCase()} (KB)`,
      expected: of(type).map(({ expected: guess }) => Math.round(guess / 100) / 10),
      real: of(type).map(({ real: made }) => Math.round(made / 100) / 10),
    })),
  };
}

const demoPictures = (): string[] =>
  readdirSync(join(ROOT, 'demo/masters'))
    .filter((name) => /\.(jpe?g|tif)$/.test(name) && name !== 'LFS_0584.jpg') // that one is cut off on purpose
    .map((name) => join(ROOT, 'demo/masters', name));

/** Bytes by master and preset, as the command line plans or makes them. */
function outputsOf(command: 'plan' | 'render', presets: readonly string[], pictures: readonly string[]): Map<string, number> {
  const args = [
    join(ROOT, 'dist/rundle.js'),
    command,
    ...presets.flatMap((preset) => ['--preset', preset]),
    '--out',
    join(work, 'weights'),
    '--json',
  ];
  const text = execFileSync(process.execPath, [...args, ...pictures], {
    encoding: 'utf8',
    maxBuffer: 1e9,
    stdio: ['ignore', 'pipe', 'ignore'],
  });
  const bytes = new Map<string, number>();
  for (const line of text.split('\n').filter(Boolean)) {
    const event = JSON.parse(line) as { event: string; master?: string; preset?: string; bytes?: number };
    if (event.event === 'output' && event.bytes !== undefined) bytes.set(`${event.master}\n${event.preset}`, event.bytes);
  }
  return bytes;
}
