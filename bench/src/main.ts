import { execFileSync, spawnSync } from 'node:child_process';
import { copyFileSync, mkdirSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { availableParallelism, cpus, tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

/*
 * This engine against vipsthumbnail (Debian's libvips-tools) on the same 24-megapixel JPEGs, whole processes from start to
 * end, in turns, so that a machine whose speed drifts is the same for both. Only the ratio is worth quoting.
 */

const ROOT = fileURLToPath(new URL('../..', import.meta.url));
const PICTURES = ['LFS_0412', 'LFS_0431', 'LFS_0456', 'LFS_0503', 'LFS_0519', 'LFS_0544', 'LFS_0583', 'LFS_0601'].map(
  (name) => `${name}.jpg`,
);
const COPIES = 2;
const ROUNDS = 3;

const work = mkdtempSync(join(tmpdir(), 'rundle-bench-'));
const masters = join(work, 'masters');
mkdirSync(masters);
for (const name of PICTURES)
  for (let copy = 1; copy <= COPIES; copy++) copyFileSync(join(ROOT, 'demo/masters', name), join(masters, `${copy}-${name}`));
const files = readdirSync(masters).map((name) => join(masters, name));
const preset = join(work, 'bench.preset.json');
writeFileSync(preset, JSON.stringify({ kind: 'rundle.preset', version: 1, title: 'Bench', size: { px: 2048 }, existing: 'replace' }));

/** Seconds that a call takes from start to end. */
function seconds(call: () => void): number {
  const begun = performance.now();
  call();
  return (performance.now() - begun) / 1000;
}

const rundle = () =>
  seconds(() =>
    execFileSync(
      process.execPath,
      [join(ROOT, 'dist/rundle.js'), 'render', '--preset', preset, '--out', join(work, 'out'), '--json', masters],
      { stdio: 'ignore' },
    ),
  );

/** Size, profile and quality, with so many processes at a time; no sharpening and no metadata of our kind. */
const vipsthumbnail = (processes: number) =>
  seconds(() => {
    const each = ['vipsthumbnail', '--size', '2048x2048', '--eprofile', 'srgb', '-o', join(work, '%s_v.jpg[Q=80,interlace]')];
    spawnSync('xargs', ['-0', '-P', String(processes), '-n', '1', ...each], { input: files.join('\0') });
  });

const median = (values: number[]) => values.toSorted((a, b) => a - b)[Math.floor(values.length / 2)] ?? NaN;

rundle(); // warms the disk's cache for both
const candidates = [1, availableParallelism(), 2 * availableParallelism()];
const best = candidates.map((processes) => ({ processes, time: vipsthumbnail(processes) })).sort((a, b) => a.time - b.time)[0]!;
const rounds = Array.from({ length: ROUNDS }, () => ({ ours: rundle(), theirs: vipsthumbnail(best.processes) }));
const ratio = median(rounds.map(({ ours, theirs }) => theirs / ours));
const pace = (times: number[]) => (files.length / median(times)).toFixed(2);
const row = {
  what: `${files.length} JPEGs of 24 megapixels to long edge 2048, quality 80, sRGB, sharpened, credited`,
  ours: `${pace(rounds.map(({ ours }) => ours))} a second`,
  against: `vipsthumbnail, ${best.processes} processes, size and profile only: ${pace(rounds.map(({ theirs }) => theirs))} a second`,
  ratio: ratio.toFixed(2),
  rounds: rounds.map(({ ours, theirs }) => (theirs / ours).toFixed(2)).join(', '),
};
rmSync(work, { recursive: true });
const report = `# Bench

Made by \`npm run bench\` on ${cpus().length} cores (${cpus()[0]?.model.trim()}). Ratios are the other program’s time by ours, measured in turns in one run:
above 1 this engine is faster. Absolute figures hold for this machine only.

| what | ours | against | ratio (median) | each round |
| --- | --- | --- | --- | --- |
| ${row.what} | ${row.ours} | ${row.against} | **${row.ratio}** | ${row.rounds} |
`;
writeFileSync(join(ROOT, 'docs/bench.md'), report);
process.stdout.write(report);
