import { copyFileSync, linkSync, mkdirSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { spawnSync } from 'node:child_process';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import sharp from 'sharp';
import { arrival, largeSet } from './gather';
import { crops } from './crops';
import { tone } from './tone';
import { pages } from './page';
import { parts } from './parts';
import { deliver } from './deliver';
import { encodingStage } from './encoders';
import { faults } from './faults';
import { galleryOverLine } from './gallery-page';
import { plan } from './plan';
import { judges, strip } from './proof';
import { liveSample } from './sample';
import { runOverhead } from './run-overhead';
import { oneCall } from './start';
import { weights } from './weights';
import { cpuSeconds, each, median, memoryOf, presetFile, ROOT, rundle, work } from './measure';
import { smallMasters } from './pictures';
import { furtherPace, guard } from './pace';
import { type Profile, profileOf } from './profile';
import { type Growth, keptFigure, type Measured, olderLines, type Row, writeReport } from './report';

/*
 * What the engine does in a second, against general-purpose tools of Debian, in turns, so that a machine whose speed drifts is
 * the same for all. Only ratios are worth quoting.
 */

const ROUNDS = 3;
const MASTERS = join(ROOT, 'demo/masters');
/** The 24-megapixel JPEGs of the demo set, two of them upright by their tag. */
const JPEGS = ['LFS_0412', 'LFS_0431', 'LFS_0456', 'LFS_0503', 'LFS_0519', 'LFS_0544', 'LFS_0583', 'LFS_0601'].map((name) => `${name}.jpg`);

/** Copies of files under names of their own. */
function copies(folder: string, names: readonly string[], from: string, times: number): string[] {
  mkdirSync(join(work, folder));
  return names.flatMap((name) =>
    Array.from({ length: times }, (_, copy) => {
      const path = join(work, folder, `${copy + 1}-${name}`);
      copyFileSync(join(from, name), path);
      return path;
    }),
  );
}

/** Of the package icc-profiles-free. */
const SRGB = '/usr/share/color/icc/sRGB.icc';

const say = (text: string) => process.stderr.write(`${text}\n`);
const rounds = <T>(measure: () => T, count = ROUNDS): T[] => Array.from({ length: count }, measure);
const row = (what: string, ours: string, against: string, goal: string, figures: number[], isMet: (figure: number) => boolean): Row => {
  const figure = median(figures);
  say(`${what}: ${figure.toFixed(2)} (${goal})`);
  return { what, ours, against, goal, figures, figure, met: isMet(figure) };
};
const pace = (files: readonly string[], times: readonly number[]) => `${(files.length / median(times)).toFixed(2)} a second`;

const gallery = presetFile('gallery', { size: { px: 2048 } });
let copied: string[] | undefined;
/** Enough that starting a program, which a run does once and vipsthumbnail for each picture, does not decide; read once, so that the disk's cache is warm. */
function large(): readonly string[] {
  if (!copied) {
    copied = copies('large', JPEGS, MASTERS, 16);
    for (const path of copied) readFileSync(path);
    rundle([gallery], copied.slice(0, 16));
  }
  return copied;
}

/** 24 megapixels each, made of the small pictures that are in the repository: for a guard that has no time to make the demo masters. */
async function enlarged(): Promise<string[]> {
  const from = join(ROOT, 'demo/base');
  const names = readdirSync(from).slice(0, 4);
  mkdirSync(join(work, 'enlarged'));
  for (const name of names)
    await sharp(join(from, name))
      .resize(6000, 4000, { fit: 'fill' })
      .sharpen()
      .withIccProfile('srgb')
      .jpeg({ quality: 92 })
      .toFile(join(work, 'enlarged', name));
  return copies('guarded', names, join(work, 'enlarged'), 4);
}

function againstVips(): Row {
  const files = large();
  const thumbnail = (processes: number) =>
    each(
      processes,
      ['vipsthumbnail', '--size', '2048x2048', '--eprofile', 'srgb', '-o', join(work, '%s_v.jpg[Q=80,interlace]'), '{}'],
      files,
    );
  const cores = availableParallelism();
  const best = [cores, 2 * cores].map((processes) => ({ processes, time: thumbnail(processes) })).sort((a, b) => a.time - b.time)[0]!;
  const turns = rounds(() => ({ theirs: thumbnail(best.processes), ours: rundle([gallery], files) }));
  return row(
    `${files.length} JPEGs of 24 megapixels to long edge 2048, quality 80, sRGB, sharpened, credited, checked`,
    pace(
      files,
      turns.map(({ ours }) => ours),
    ),
    `vipsthumbnail, ${best.processes} processes, size and profile only: ${pace(
      files,
      turns.map(({ theirs }) => theirs),
    )}`,
    '>= 1.0',
    turns.map(({ ours, theirs }) => theirs / ours),
    (ratio) => ratio >= 1,
  );
}

function againstImageMagick(): Row {
  const some = large().slice(0, 16);
  const steps = [
    '-auto-orient',
    '-filter',
    'Lanczos',
    '-resize',
    '2048x2048',
    '-profile',
    SRGB,
    '-unsharp',
    '0x0.8+0.7+0.01',
    '-quality',
    '80',
    '-interlace',
    'Plane',
  ];
  // Written aside, opened again and decoded to the end, and then moved into place, as ours are.
  const script =
    'aside="$0/$$.jpg"; convert-im6.q16 "$@" "$aside" && convert-im6.q16 -regard-warnings "$aside" null: && mv "$aside" "$0/im.jpg"';
  const convert = (processes: number) => each(processes, ['sh', '-c', script, work, '{}', ...steps], some);
  // It has threads of its own.
  const best = [1, availableParallelism()]
    .map((processes) => ({ processes, time: convert(processes) }))
    .sort((a, b) => a.time - b.time)[0]!;
  const turns = rounds(() => ({ theirs: convert(best.processes) / some.length, ours: rundle([gallery], large()) / large().length }));
  const a = (times: readonly number[]) => `${(1 / median(times)).toFixed(2)} a second`;
  return row(
    'The same, against all the same steps but the credit',
    a(turns.map(({ ours }) => ours)),
    `ImageMagick 6, ${best.processes === 1 ? 'one process' : `${best.processes} processes`}, ${some.length} of them: ${a(turns.map(({ theirs }) => theirs))}`,
    '>= 8',
    turns.map(({ ours, theirs }) => theirs / ours),
    (ratio) => ratio >= 8,
  );
}

function fourSizes(): Row {
  const four = [2048, 1440, 900, 480].map((px) => presetFile(`edge-${px}`, { size: { px } }));
  const some = large().slice(0, 16);
  const turns = rounds(() => rundle(four, some) / rundle(four.slice(0, 1), some));
  return row(
    'Four sizes of each master in one run (2048, 1440, 900, 480)',
    'four',
    'the largest alone',
    '<= 1.2',
    turns,
    (ratio) => ratio <= 1.2,
  );
}

function ceiling(): Row {
  const under = presetFile('ceiling', { size: { px: 2048 }, file: { ceiling: { bytes: 200_000, floor: 30 } } });
  const some = large().slice(0, 16);
  const turns = rounds(() => rundle([under], some) / rundle([gallery], some));
  return row('A ceiling of 200 KB for each', 'ceiling', 'fixed quality', '<= 1.2', turns, (ratio) => ratio <= 1.2);
}

function unchanged(base: readonly string[]): Row {
  const two = [presetFile('one', { size: { px: 1200 } }), presetFile('two', { size: { px: 600 } })];
  const first = rundle(two, base);
  const turns = rounds(() => first / rundle(two, base, true));
  return row(`${base.length} x 2 outputs that are there already`, 'again', 'the first time', '>= 150', turns, (ratio) => ratio >= 150);
}

async function deepMasters(count: number): Promise<string[]> {
  const { data, info } = await sharp(join(MASTERS, JPEGS[0]!))
    .resize(8256, 5504, { fit: 'fill' })
    .raw()
    .toBuffer({ resolveWithObject: true });
  const files: string[] = [];
  mkdirSync(join(work, 'deep'));
  for (let at = 1; at <= count; at++) {
    const path = join(work, 'deep', `${at}.tif`);
    await sharp(data, { raw: info }).toColourspace('rgb16').withIccProfile('p3').tiff({ compression: 'none' }).toFile(path);
    files.push(path);
  }
  return files;
}

async function deepTiffs(): Promise<Row[]> {
  const files = await deepMasters(6);
  const { after, most } = await memoryOf(gallery, files);
  // All of its pixels, by the decoder alone: what is compared with reads them, and does nothing.
  const program = fileURLToPath(new URL('read-all.mjs', import.meta.url));
  const turns = rounds(() => ({
    ours: cpuSeconds(() => rundle([gallery], files)),
    read: cpuSeconds(() => spawnSync(process.execPath, [program, ...files])),
  }));
  rmSync(join(work, 'deep'), { recursive: true });
  const told = `after each picture ${after.map((megabytes) => megabytes.toFixed(0)).join(', ')} MB`;
  const memory = 'Memory in all, 45-megapixel TIFFs of 16 bits one after another (GB)';
  return [
    row(memory, told, '-', '<= 0.8', [most / 1000], (gigabytes) => gigabytes <= 0.8),
    row(
      'Processor time of 45-megapixel TIFFs of 16 bits to long edge 2048, the start taken in',
      'rendered',
      'read to their ends by libvips',
      '<= 1.3',
      turns.map(({ ours, read }) => ours / read),
      (ratio) => ratio <= 1.3,
    ),
  ];
}

async function memoryOfJpegs(): Promise<Row> {
  const { after, most } = await memoryOf(gallery, large().slice(0, 24));
  const told = `after the last picture ${after.at(-1)!.toFixed(0)} MB`;
  return row(
    'Memory in all, 24 JPEGs of 24 megapixels by the command line (GB)',
    told,
    '-',
    '<= 0.4',
    [most / 1000],
    (gigabytes) => gigabytes <= 0.4,
  );
}

async function growthByCount(): Promise<Growth> {
  const x = [10, 100, 1000, 10_000];
  const all = await smallMasters(join(work, 'many'), x.at(-1)!);
  const small = presetFile('small', { size: { px: 400 } });
  return {
    what: 'Small masters of 700 px to 400 px, how many',
    x,
    secondsEach: x.map((count) => rundle([small], all.slice(0, count)) / count),
  };
}

async function growthByPixels(): Promise<Growth> {
  const x = [1, 6, 24, 45, 100];
  const secondsEach: number[] = [];
  for (const megapixels of x) {
    const width = Math.round(Math.sqrt(megapixels * 1.5e6));
    const path = join(work, `${megapixels}.jpg`);
    await sharp(join(MASTERS, JPEGS[0]!))
      .resize(width, Math.round(width / 1.5), { fit: 'fill' })
      .withIccProfile('srgb')
      .jpeg({ quality: 92 })
      .toFile(path);
    const eight = Array.from({ length: 8 }, (_, copy) => join(work, `${copy}-${megapixels}.jpg`));
    for (const copy of eight) copyFileSync(path, copy);
    secondsEach.push(rundle([gallery], eight) / eight.length);
    for (const copy of eight) rmSync(copy);
  }
  return { what: 'Megapixels of a JPEG to long edge 2048', x, secondsEach };
}

/** 500 files by name: each is one of the large ones. */
function fiveHundred(): string[] {
  mkdirSync(join(work, 'five-hundred'));
  return Array.from({ length: 500 }, (_, at) => {
    const path = join(work, 'five-hundred', `${at}.jpg`);
    linkSync(large()[at % large().length]!, path);
    return path;
  });
}

/** Where the time goes on the paths that a run has. */
async function profiles(): Promise<Profile[]> {
  const some = JPEGS.slice(0, 4).map((name) => join(MASTERS, name));
  const [deep] = await deepMasters(1);
  const found = [
    await profileOf('JPEG of 24 MP to JPEG', some, {}),
    await profileOf('JPEG of 24 MP to WebP', some, { file: { type: 'webp' } }),
    await profileOf('JPEG of 24 MP to AVIF', some.slice(0, 2), { file: { type: 'avif' } }),
    await profileOf('TIFF of 45 MP, 16 bits, to JPEG', [deep!], {}),
  ];
  rmSync(join(work, 'deep'), { recursive: true });
  return found;
}

/** Each part can be measured by itself, `npm run bench -- gather`; the report keeps what the others said last. */
const PARTS: Record<string, () => Promise<Measured>> = {
  pace: () => Promise.resolve({ rows: furtherPace(gallery, large(), ROUNDS) }),
  profile: async () => ({ profiles: await profiles() }),
  vips: () => Promise.resolve({ rows: [againstVips()] }),
  magick: () => Promise.resolve({ rows: [againstImageMagick()] }),
  engine: async () => {
    const base = copies('two-hundred', readdirSync(join(ROOT, 'demo/base')), join(ROOT, 'demo/base'), 9).slice(0, 200);
    return { rows: [fourSizes(), ceiling(), unchanged(base), await memoryOfJpegs(), ...(await deepTiffs())] };
  },
  arrival: async () => ({ rows: [await arrival(fiveHundred(), 4)] }),
  gather: async () => ({ rows: await largeSet() }),
  sample: async () => ({ rows: await liveSample() }),
  page: async () => ({ rows: await pages() }),
  overhead: async () => ({ rows: await runOverhead() }),
  encoders: async () => ({ rows: await encodingStage(JPEGS.slice(0, 3)) }),
  plan: async () => ({ rows: await plan() }),
  strip: async () => ({ rows: await strip() }),
  deliver: async () => ({ rows: await deliver() }),
  gallery: async () => ({ rows: await galleryOverLine() }),
  judges: async () => ({ rows: await judges() }),
  parts: () => Promise.resolve({ rows: parts(large()) }),
  crops: async () => ({ rows: await crops(large()) }),
  tone: async () => ({ rows: await tone(large()) }),
  faults: async () => ({ rows: await faults() }),
  weights,
  start: () => Promise.resolve({ rows: oneCall() }),
  growth: async () => ({ growth: [await growthByCount(), await growthByPixels()] }),
};

const wanted = process.argv.slice(2);
if (wanted[0] === 'check') {
  process.stdout.write(olderLines());
  process.exit(0);
}
if (wanted[0] === 'guard') {
  process.stdout.write(guard(gallery, await enlarged(), keptFigure('pace')));
  rmSync(work, { recursive: true });
  process.exit(0);
}
const unknown = wanted.filter((part) => !(part in PARTS));
if (unknown.length) throw new Error(`There is no part ${unknown.join(', ')}. The parts are ${Object.keys(PARTS).join(', ')}.`);
const measured: Record<string, Measured> = {};
for (const part of wanted.length ? wanted : Object.keys(PARTS)) measured[part] = await PARTS[part]!();
process.stdout.write(writeReport(measured));
rmSync(work, { recursive: true });
