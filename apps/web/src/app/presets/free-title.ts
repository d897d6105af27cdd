import type { StoredPreset } from '@rundle/core';

/** A name for another preset of that name: the same where it is free, else with a number behind it. */
export function freeTitle(title: string, presets: readonly StoredPreset[]): string {
  const taken = new Set(presets.map(({ preset }) => preset.title));
  let copy = 2;
  while (taken.has(`${title} (${copy})`)) copy++;
  return taken.has(title) ? `${title} (${copy})`.slice(0, 120) : title;
}
