import type { Run } from '../api/runs';
import { isVaried, type OnceByPreset } from './once';
import type { Place } from './place';

type Past = Pick<Run, 'presetIds' | 'place' | 'once' | 'setTitle' | 'startedAt'>;

/** What was chosen when something was run last. */
export interface LastTime {
  setTitle: string;
  presetIds: string[];
  place: Place;
  once: OnceByPreset;
}

const newestFirst = (runs: readonly Past[]): Past[] => runs.toSorted((a, b) => b.startedAt.localeCompare(a.startedAt));

/**
 * What was chosen for the newest run of which presets are still there; null: there is none.
 * @param known ids of all presets
 */
export function lastTime(runs: readonly Past[], known: ReadonlySet<string>): LastTime | null {
  for (const { setTitle, presetIds, place, once } of newestFirst(runs)) {
    const there = presetIds.filter((id) => known.has(id));
    if (there.length === 0) continue;
    const kept = there.flatMap((id) => (isVaried(once[id]) ? [[id, once[id]!] as const] : []));
    return { setTitle, presetIds: there, place, once: Object.fromEntries(kept) };
  }
  return null;
}

/** Ids of presets, the one that was run last first. */
export const latestUsed = (runs: readonly Past[]): string[] => [...new Set(newestFirst(runs).flatMap(({ presetIds }) => presetIds))];
