import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { cpus } from 'node:os';
import { join } from 'node:path';
import { ENGINE } from '@rundle/core';
import { ROOT } from './measure';
import type { Profile } from './profile';
import { profileChart } from './profile-chart';
import { MEASURES, type MeasuredLine, olderBecause, sourcesHash } from './sources';

/** One comparison: what was done, the goal, and what came out. */
export interface Row {
  what: string;
  ours: string;
  against: string;
  goal: string;
  /** Each round's ratio, or the one figure that was measured. */
  figures: number[];
  /** The figure that counts: usually the median. */
  figure: number;
  met: boolean;
}

/** Seconds per picture as something grows. */
export interface Growth {
  what: string;
  x: number[];
  secondsEach: number[];
}

const number = (value: number): string => (value >= 100 ? value.toFixed(0) : value.toFixed(2));

/** What was expected against what came out, output by output. */
export interface Scatter {
  what: string;
  expected: number[];
  real: number[];
}

/** The first figure of a part as it was measured last; undefined: never. */
export const keptFigure = (part: string): number | undefined => (JSON.parse(readFileSync(KEPT, 'utf8')) as Kept)[part]?.rows?.[0]?.figure;

/** What one part of the bench found. */
export interface Measured {
  rows?: Row[];
  growth?: Growth[];
  scatter?: Scatter[];
  profiles?: Profile[];
}

/** The parts in the order in which they are reported, with the day on which each was measured. */
const KEPT = join(ROOT, 'docs/bench.json');
export type Kept = Record<string, Measured & MeasuredLine>;
const ORDER = [
  'pace',
  'vips',
  'magick',
  'engine',
  'arrival',
  'gather',
  'page',
  'overhead',
  'encoders',
  'sample',
  'start',
  'plan',
  'strip',
  'judges',
  'crops',
  'tone',
  'parts',
  'faults',
  'weights',
  'deliver',
  'gallery',
  'growth',
];

/** What was measured before its sources were as they are, in words. */
export function olderLines(): string {
  const kept = JSON.parse(readFileSync(KEPT, 'utf8')) as Kept;
  const told = ORDER.flatMap((part) => {
    const line = kept[part];
    const why = line ? olderBecause(part, line, { root: ROOT, engine: ENGINE }) : 'never measured';
    return why === null ? [] : [`${part} (${line?.day ?? '-'}): ${why}`];
  });
  return told.length ? `${told.join('\n')}\n` : 'All lines are of these sources.\n';
}

/** Writes docs/bench.md and the page of charts beside it: what was measured now, and what was last measured of the rest. */
export function writeReport(measured: Record<string, Measured>): string {
  const machine = `${cpus().length} cores (${cpus()[0]?.model.trim()})`;
  const before = existsSync(KEPT) ? (JSON.parse(readFileSync(KEPT, 'utf8')) as Kept) : {};
  const day = new Date().toISOString().slice(0, 16).replace('T', ' ');
  const kept: Kept = { ...before };
  for (const [part, found] of Object.entries(measured))
    kept[part] = { ...found, day, engine: ENGINE, sources: sourcesHash(ROOT, MEASURES[part] ?? []) };
  writeFileSync(KEPT, `${JSON.stringify(kept, null, 2)}\n`);
  const parts = ORDER.flatMap((part) => kept[part] ?? []);
  const rows = parts.flatMap(({ rows = [] }) => rows);
  const growth = parts.flatMap(({ growth = [] }) => growth);
  const scatter = parts.flatMap(({ scatter = [] }) => scatter);
  const lines = parts.flatMap(({ rows = [], day }) =>
    rows.map(
      ({ what, ours, against, goal, figures, figure, met }) =>
        `| ${what} | ${ours} | ${against} | ${goal} | **${number(figure)}**${met ? '' : ' (not met)'} | ${figures.map(number).join(', ')} | ${day} |`,
    ),
  );
  const tables = growth.map(
    ({ what, x, secondsEach }) => `| ${what} | ${x.map((at, index) => `${at}: ${secondsEach[index]?.toFixed(3)} s`).join(', ')} |`,
  );
  const report = `# Bench

Made by \`npm run bench\` on ${machine}. Ratios are measured in turns in one run, whole processes from start to end; absolute figures hold
for this machine only. [bench.html](bench.html) shows them as charts (open it from a checkout in which \`npm ci\` has run).

| what | ours | against | goal | figure (median) | each round | measured |
| --- | --- | --- | --- | --- | --- | --- |
${lines.join('\n')}

${profileText(kept)}How it grows, in seconds per picture:

| what | seconds each |
| --- | --- |
${tables.join('\n')}
`;
  writeFileSync(join(ROOT, 'docs/bench.md'), report);
  const page = readFileSync(join(ROOT, 'bench/page.html'), 'utf8');
  writeFileSync(join(ROOT, 'docs/bench.html'), page.replace('"RESULTS"', JSON.stringify({ machine, rows, growth, scatter })));
  return report;
}

/** Where the time goes, as a picture beside the report and as a table; nothing where it was never measured. */
function profileText({ profile }: Kept): string {
  if (!profile?.profiles) return '';
  const { profiles, day } = profile;
  writeFileSync(join(ROOT, 'docs/profile.svg'), profileChart(profiles));
  const stages = [...new Set(profiles.flatMap((one) => one.stages.map(({ stage }) => stage)))];
  const cell = (one: Profile, wanted: string) => one.stages.find(({ stage }) => stage === wanted)?.seconds.toFixed(3) ?? '-';
  const total = (one: Profile) => one.stages.reduce((sum, { seconds }) => sum + seconds, 0).toFixed(3);
  const lines = profiles.map((one) => `| ${one.path} | ${stages.map((stage) => cell(one, stage)).join(' | ')} | ${total(one)} |`);
  return `Where the time of a picture goes: seconds of processor time by stage, one picture at a time in one thread, ExifTool's own not counted (measured ${day}).

![Where the time goes](profile.svg)

| path | ${stages.join(' | ')} | in all |
| --- | ${stages.map(() => '---').join(' | ')} | --- |
${lines.join('\n')}

`;
}
