import type { Master } from '@rundle/core';
import { profileName } from '../look/figures';

/** Pictures that lie so close together in the chart that they are drawn as one. */
export interface Dot {
  profile: string;
  /** Mean of the pictures. */
  megapixels: number;
  /** Mean of the pictures, in MB. */
  megabytes: number;
  masters: Master[];
}

/**
 * The dots of a chart of weight by megapixels, one or more pictures each: 2,000 points of their own would lie over one another and
 * hold the page for long.
 * @param cells how many dots have room beside and above one another
 */
export function dotsOf(masters: readonly Master[], cells: { across: number; up: number }): Dot[] {
  const read = masters.flatMap((master) =>
    master.facts ? [{ master, ...master.facts, megapixels: (master.facts.width * master.facts.height) / 1e6 }] : [],
  );
  const most = read.reduce((most, { megapixels }) => Math.max(most, megapixels), 0);
  const heaviest = read.reduce((most, { master }) => Math.max(most, master.bytes), 0);
  const cell = (value: number, end: number, count: number) => Math.min(count - 1, Math.floor((count * value) / end));
  const dots = new Map<string, Dot>();
  for (const { master, profile, megapixels } of read) {
    const name = profileName(profile);
    const key = `${cell(megapixels, most, cells.across)} ${cell(master.bytes, heaviest, cells.up)} ${name}`;
    const dot = dots.get(key) ?? { profile: name, megapixels: 0, megabytes: 0, masters: [] };
    dots.set(key, dot);
    dot.masters.push(master);
    dot.megapixels += (megapixels - dot.megapixels) / dot.masters.length;
    dot.megabytes += (master.bytes / 1e6 - dot.megabytes) / dot.masters.length;
  }
  return [...dots.values()];
}
