import { spawnSync } from 'node:child_process';
import { readdirSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { cpuSeconds, each, median, rundle, work } from './measure';
import type { Row } from './report';

/*
 * Processor time of a further picture, so that neither what a start costs nor how busy the machine is decides: that of many pictures less that of a
 * few, against the same pictures through other programs, in turns.
 */

/** All programs keep as many cores busy as ours: cores that share a cache slow each other down. */
const CORES = availableParallelism();
/** A set is begun with this many, which are not counted. */
const FIRST = 8;

interface Turn {
  ours: number;
  thumbnail: number;
  codecs: number;
}

/** @param files at least a few more than {@link FIRST} JPEGs of 24 megapixels @returns seconds of each of them */
function turn(preset: string, files: readonly string[], withCodecs: boolean): Turn {
  const first = cpuSeconds(() => rundle([preset], files.slice(0, FIRST)));
  const all = cpuSeconds(() => rundle([preset], files));
  const some = files.slice(FIRST);
  const one = ['vipsthumbnail', '--vips-concurrency=1', '--size', '2048x2048', '--eprofile', 'srgb'];
  const thumbnail = cpuSeconds(() => each(CORES, [...one, '-o', join(work, '%s_v.jpg[Q=80,interlace]'), '{}'], some));
  return { ours: (all - first) / some.length, thumbnail: thumbnail / some.length, codecs: withCodecs ? codecsAlone(some) : NaN };
}

/** Seconds in which libjpeg-turbo's own programs decode a master and encode what is made of it: the floor. */
function codecsAlone(files: readonly string[]): number {
  const folder = join(work, 'out', 'gallery');
  const made = readdirSync(folder).slice(0, files.length);
  // What is encoded has the detail of a finished picture.
  for (const name of made) spawnSync('djpeg', ['-outfile', join(work, `${name}.ppm`), join(folder, name)]);
  const decode = cpuSeconds(() => each(CORES, ['djpeg', '-outfile', '/dev/null', '{}'], files));
  const pixels = made.map((name) => join(work, `${name}.ppm`));
  const encode = cpuSeconds(() => each(CORES, ['cjpeg', '-quality', '80', '-progressive', '-outfile', '/dev/null', '{}'], pixels));
  return (decode + encode) / files.length;
}

/** @param large JPEGs of 24 megapixels */
export function furtherPace(preset: string, large: readonly string[], rounds: number): Row[] {
  const turns = Array.from({ length: rounds }, () => turn(preset, large.slice(0, FIRST + 24), true));
  const seconds = (of: (turn: Turn) => number) => `${median(turns.map(of)).toFixed(2)} s`;
  const row = (against: string, goal: string, of: (turn: Turn) => number, isMet: (figure: number) => boolean): Row => {
    const figures = turns.map(of);
    const what = 'Processor time of a further JPEG of 24 megapixels to long edge 2048, quality 80, sharpened, credited, checked';
    return { what, ours: seconds(({ ours }) => ours), against, goal, figures, figure: median(figures), met: isMet(median(figures)) };
  };
  const thumbnail = `vipsthumbnail, size and profile only: ${seconds((turn) => turn.thumbnail)}`;
  const codecs = `djpeg and cjpeg, decode and encode alone: ${seconds((turn) => turn.codecs)}`;
  return [
    row(
      thumbnail,
      '>= 1.6 x its pace',
      (turn) => turn.thumbnail / turn.ours,
      (pace) => pace >= 1.6,
    ),
    row(
      codecs,
      '<= 1.25 x its time',
      (turn) => turn.ours / turn.codecs,
      (times) => times <= 1.25,
    ),
  ];
}

/** The same in a minute or two, in words, to be held against what was published. @param published pace against vipsthumbnail; undefined: never measured */
export function guard(preset: string, large: readonly string[], published: number | undefined): string {
  const turns = Array.from({ length: 3 }, () => turn(preset, large.slice(0, FIRST + 8), false));
  const pace = median(turns.map(({ ours, thumbnail }) => thumbnail / ours));
  const was = published === undefined ? 'never measured' : `published: ${published.toFixed(2)}`;
  const told = turns.map(({ ours, thumbnail }) => (thumbnail / ours).toFixed(2)).join(', ');
  return `Pace of a further JPEG of 24 megapixels: ${pace.toFixed(2)} x vipsthumbnail's, by processor time (${told}; ${was}). Only told, not judged.\n`;
}
