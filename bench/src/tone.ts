import { Preset, type PresetInput } from '@rundle/core';
import { withLookedAt } from './looked-at';
import { figureRow, median, percentile, presetFile, rundle } from './measure';
import type { Row } from './report';

/*
 * Tone: what it costs beside the same picture without, and how soon another value is seen.
 */

const ROUNDS = 5;

/** @param large JPEGs of 24 megapixels */
export async function tone(large: readonly string[]): Promise<Row[]> {
  const some = large.slice(0, 16);
  const made = (name: string, value: PresetInput['tone']) => presetFile(name, { size: { px: 2048 }, tone: value });
  const without = made('as-it-is', null);
  const cost = (what: string, value: PresetInput['tone'], most: number | null): Row => {
    const with_ = made('toned', value);
    const figures = Array.from({ length: ROUNDS }, () => rundle([with_], some) / rundle([without], some));
    const figure = median(figures);
    const goal = most === null ? 'told on the rung' : `<= ${most}`;
    return { what, ours: 'with', against: 'the same without', goal, figures, figure, met: most === null || figure <= most };
  };
  return [
    cost('24 megapixels to 2,048 px with exposure, contrast and shadows', { exposure: 0.3, contrast: 0.1, shadows: 0.2 }, 1.15),
    cost('The same with saturation, warmth and points of each picture', { exposure: 0.3, saturation: 0.1, warmth: 8, auto: {} }, 1.15),
    cost('The same with local contrast', { exposure: 0.3, local: { amount: 0.4 } }, 1.3),
    cost('Sharpened before the size', { before: { amount: 0.5 } }, null),
    await changedValue(),
  ];
}

async function changedValue(): Promise<Row> {
  const times = await withLookedAt(async ({ masterId, call }) => {
    const taken: number[] = [];
    for (let at = 0; at < 24; at++) {
      const value = { exposure: at / 40, contrast: 0.1, saturation: 0.1 };
      const preset = Preset.parse({ kind: 'rundle.preset', version: 1, title: 'X', size: { px: 2048 }, tone: value });
      const look = { preset, upTo: 'tone', view: { kind: 'part', x: 0.5, y: 0.5, size: { width: 800, height: 600 } }, finished: false };
      const begun = performance.now();
      await (await call('POST', `/api/masters/${masterId}/sample`, look)).arrayBuffer();
      if (at > 3) taken.push(performance.now() - begun); // the first decode it
    }
    return taken;
  });
  return figureRow('A changed tone to a fresh sample, a master of 24 megapixels, median (ms)', percentile(times, 0.5), '<= 150', (ms) => ms <= 150); // prettier-ignore
}
