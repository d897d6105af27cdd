import { createHash } from 'node:crypto';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { type Crop, decisionsFile, NO_DECISIONS, Preset, proposedMiddle, ratioSize, viewOf } from '@rundle/core';
import { withLookedAt } from './looked-at';
import { figureRow, median, percentile, presetFile, rundle, work } from './measure';
import { endExifTool } from '../../packages/render/src/read/exiftool';
import { readFacts } from '../../packages/render/src/read/facts';
import { lookAtMaster } from '../../packages/render/src/see/look-at-master';
import { photographs } from './pictures';
import type { Row } from './report';

/*
 * Crops: what a turned one costs beside the same without, how soon another crop is seen, and how many heads the proposals cut.
 */

const TURNED: Crop = { x: 0.1, y: 0.1, w: 0.8, h: 0.8, angle: 3 };
const ROUNDS = 5;

/** @param large JPEGs of 24 megapixels */
export async function crops(large: readonly string[]): Promise<Row[]> {
  return [turnedCrop(large), await changedCrop(), ...(await heads())];
}

function turnedCrop(large: readonly string[]): Row {
  const some = large.slice(0, 16);
  const gallery = presetFile('turned', { size: { px: 2048 } });
  const file = join(work, 'turned.decisions.json');
  const pictures = some.map((path) => {
    const sha256 = createHash('sha256').update(readFileSync(path)).digest('hex');
    return { sha256, fileName: path, decisions: { ...NO_DECISIONS, crop: TURNED } };
  });
  writeFileSync(file, JSON.stringify(decisionsFile(pictures, new Map())));
  const figures = Array.from({ length: ROUNDS }, () => rundle([gallery], ['--decisions', file, ...some]) / rundle([gallery], some));
  const figure = median(figures);
  return {
    what: 'A turned crop of 24 megapixels to 2,048 px',
    ours: 'turned',
    against: 'the same without',
    goal: '<= 2',
    figures,
    figure,
    met: figure <= 2,
  };
}

/** From a crop that is decided to the sample of it, over HTTP, for a master that is being looked at. */
async function changedCrop(): Promise<Row> {
  const preset = Preset.parse({ kind: 'rundle.preset', version: 1, title: 'X', size: { px: 2048 }, file: { chroma: '4:2:0' } });
  const look = { preset, upTo: 'file', view: { kind: 'part', x: 0.5, y: 0.5, size: { width: 800, height: 600 } }, finished: false };
  const times = await withLookedAt(async ({ setId, masterId, call }) => {
    const taken: number[] = [];
    for (let at = 0; at < 24; at++) {
      const crop = { x: 0.02 + at * 0.002, y: 0.03, w: 0.85, h: 0.85, angle: at % 2 ? 1.5 + at / 10 : 0 };
      const begun = performance.now();
      await call('PUT', `/api/sets/${setId}/marks`, { marks: [{ masterId, overrides: { crop } }] });
      await (await call('POST', `/api/masters/${masterId}/sample`, look)).arrayBuffer();
      if (at > 3) taken.push(performance.now() - begun); // the first decode it
    }
    return taken;
  });
  return figureRow(
    'A changed crop to a fresh sample, straight and turned in turns, a master of 24 megapixels, median (ms)',
    percentile(times, 0.5),
    '<= 250',
    (ms) => ms <= 250,
  );
}

/** Where heads begin and end in six photographs of groups, as shares of the width, by eye. */
const HEADS: readonly (readonly (readonly [number, number])[])[] = [
  [
    [0.2, 0.33],
    [0.42, 0.56],
    [0.77, 0.9],
  ],
  [
    [0.19, 0.34],
    [0.45, 0.59],
    [0.71, 0.9],
  ],
  [
    [0.27, 0.46],
    [0.57, 0.71],
    [0.76, 0.92],
  ],
  [
    [0.11, 0.27],
    [0.36, 0.49],
    [0.49, 0.63],
    [0.65, 0.81],
  ],
  [
    [0.3, 0.43],
    [0.4, 0.52],
    [0.57, 0.69],
    [0.72, 0.87],
    [0.19, 0.35],
  ],
  [
    [0.11, 0.28],
    [0.34, 0.48],
    [0.61, 0.75],
    [0.77, 0.93],
  ],
];
const RATIOS = [
  [4, 5],
  [3, 4],
  [1, 1],
] as const;

/** Heads that are neither whole in the picture nor out of it, cut to upright ratios, where the middle cuts about ten of them. */
async function heads(): Promise<Row[]> {
  const all = await photographs();
  const cut = RATIOS.map(() => ({ proposed: 0, middle: 0 }));
  for (const [at, spans] of HEADS.entries()) {
    const path = all.get(`people ${at + 1}`)!;
    const facts = await readFacts(path);
    const salience = await lookAtMaster(path, facts);
    for (const [index, [w, h]] of RATIOS.entries()) {
      const size = ratioSize({ w, h }, facts);
      cut[index]!.proposed += cutBy(spans, proposedMiddle(viewOf(facts, null), facts, size, salience).x, size.width, facts.width);
      cut[index]!.middle += cutBy(spans, facts.width / 2, size.width, facts.width);
    }
  }
  await endExifTool();
  return RATIOS.map(([w, h], index) => {
    const { proposed, middle } = cut[index]!;
    return {
      what: `Heads cut, of 22 in six photographs of groups, cropped to ${w}:${h} by proposal`,
      ours: `${proposed}`,
      against: `the middle: ${middle}`,
      goal: '<= 3',
      figures: [proposed],
      figure: proposed,
      met: proposed <= 3,
    };
  });
}

function cutBy(spans: readonly (readonly [number, number])[], middle: number, length: number, width: number): number {
  const [from, to] = [(middle - length / 2) / width, (middle + length / 2) / width];
  return spans.filter(([start, end]) => {
    const inside = Math.max(0, Math.min(end, to) - Math.max(start, from)) / (end - start);
    return inside > 0.1 && inside < 0.97;
  }).length;
}
