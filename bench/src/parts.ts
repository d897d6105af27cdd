import { median, presetFile, rundle } from './measure';
import type { Row } from './report';

/*
 * Several files of one picture: what a family of sizes costs beside as many presets in one run.
 */

const SIZES = [
  ['small', 480],
  ['medium', 1024],
  ['large', 2048],
] as const;
const ROUNDS = 5;

/** @param large JPEGs of 24 megapixels */
export function parts(large: readonly string[]): Row[] {
  const some = large.slice(0, 12);
  const size = { sizes: SIZES.map(([label, px]) => ({ label, px })) };
  const name = { parts: [{ part: 'original' as const }, { part: 'text' as const, text: '_' }, { part: 'size' as const }] };
  const family = presetFile('family', { size, name });
  const three = SIZES.map(([label, px]) => presetFile(`alone-${label}`, { size: { px }, folder: label }));
  const figures = Array.from({ length: ROUNDS }, () => rundle([family], some) / rundle(three, some));
  const figure = median(figures);
  return [
    {
      what: 'A family of three sizes (480, 1,024 and 2,048 px) of masters of 24 megapixels',
      ours: 'one preset',
      against: 'three presets of these sizes in one run',
      goal: '<= 1',
      figures,
      figure,
      met: Math.round(100 * figure) <= 100,
    },
  ];
}
