import { type PlanMaster, planRun, Preset } from '@rundle/core';
import { soundFacts } from '../../packages/core/src/facts/sound-facts';

/*
 * The core alone, over facts with weighings: 2,000 x 4 outputs planned the first time, and after one of four presets has changed, as two numbers
 * in JSON, ms. Bundled before it is run, as the server is: a loader that keeps the names of functions doubles these times.
 */

const weighing = (edge: number) => ({
  edge,
  smears: false,
  jpeg: [0.4, 0.55, 0.85, 1.4, 4.4],
  coarse: null,
  fine: null,
  full: [1.1, 7],
  unsharpened: 0.7,
  webp: 0.4,
  avif: 0.4,
  tiff: 9,
});
const masters = Array.from({ length: 2000 }, (_, at): PlanMaster => {
  const facts = { ...soundFacts, weighings: [256, 512, 1500, 3000].map(weighing) };
  return { id: `m${at}`, fileName: `LFS_${at}.jpg`, rating: 3, tags: [], read: { ok: true, facts } };
});
const preset = (px: number) => Preset.parse({ kind: 'rundle.preset', version: 1, title: `Edge ${px}`, size: { px }, folder: `edge-${px}` });
const presets = [2048, 1280, 850, 480].map(preset);
const planned = () => {
  const begun = performance.now();
  planRun({
    setTitle: 'Set',
    masters,
    presets: presets.map((value, at) => ({ id: `p${at}`, preset: value, problem: null })),
    standing: () => ({ is: 'free' }),
  });
  return performance.now() - begun;
};
const whole = planned();
const times = Array.from({ length: 15 }, (_, at) => {
  presets[at % 4] = preset(500 + at);
  return planned();
});
process.stdout.write(JSON.stringify([whole, times.toSorted((a, b) => a - b)[7]]));
