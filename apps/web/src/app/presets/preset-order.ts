import { latestUsed, type Run, starterPresets, type StoredPreset } from '@rundle/core';

const STARTERS: ReadonlySet<string> = new Set(starterPresets().map(({ preset }) => preset.title));

/** Ids of presets as they are likely to be wanted: used last, one's own, favourites, the others in the order of the library. */
export function presetOrder(presets: readonly StoredPreset[], runs: readonly Run[]): string[] {
  const ids = (of: readonly { id: string }[]) => of.map(({ id }) => id);
  const own = presets.filter(({ version, preset }) => version > 1 || !STARTERS.has(preset.title));
  const newest = own.toSorted((a, b) => b.updatedAt.localeCompare(a.updatedAt));
  const favourites = presets.filter(({ favourite }) => favourite);
  return [...new Set([...latestUsed(runs), ...ids(newest), ...ids(favourites), ...ids(presets)])];
}
