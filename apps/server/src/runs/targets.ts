import { dirname, join } from 'node:path';
import { fileSafe, folderSafe, Place, type Problem } from '@rundle/core';
import type { MasterRecord, Outputs, SetRow } from '@rundle/store';

/**
 * Where the outputs of a set go in Rundle's own tree. The title at its first run names the folder, for good: links, lists and runs go by it,
 * and a new title moves nothing.
 */
export const ownTarget = ({ id, title, target }: SetRow): string => target ?? `${fileSafe(title)} ${id.slice(0, 8)}`;

/** The target that all outputs of a set share; null: each has that of its master. */
export function sharedTarget(set: SetRow): string | null {
  const place = Place.parse(set.place);
  return place.kind === 'own' ? ownTarget(set) : place.kind === 'folder' ? place.path : null;
}

/** Where the outputs of a plan go, and where none may. */
export interface Targets {
  place: Place;
  /** Rundle's own folder for the set, or the folder of the machine; null: those of the masters. */
  shared: string | null;
  /** Rundle's own folder for the set, where anything goes there; null: nothing does. */
  own: string | null;
  /** All of them, each once. */
  all: readonly string[];
  /** Folders below each target. */
  folders: readonly string[];
  /** Why nothing of a preset can be written, in their order; null: it can. */
  ofPresets: readonly (Problem | null)[];
  /** Why the folder of the machine cannot be written to; null: it can, or there is none. */
  problem: Problem | null;
  /** The target of what a preset makes of a master, or why there is none. */
  of: (master: MasterRecord, presetId: string) => string | Problem;
}

/** A preset, the folder that it names, and where that lies. */
export interface PlacedPreset {
  id: string;
  folder: string;
  place: Place;
}

/** Looks up where outputs may go. */
export async function targetsOf(
  outputs: Outputs,
  set: SetRow,
  masters: readonly MasterRecord[],
  presets: readonly PlacedPreset[],
): Promise<Targets> {
  const place = Place.parse(set.place);
  const placed = ({ sourcePath, fileName }: MasterRecord, at: Place): string | Problem => {
    if (at.kind === 'own') return ownTarget(set);
    if (at.kind === 'folder') return at.path;
    return sourcePath === null ? noOwnFolder(fileName) : join(dirname(sourcePath), at.folder);
  };
  const known = new Map<string, readonly string[]>();
  /** All targets of a place; presets mostly share theirs. */
  const targetsAt = (at: Place): readonly string[] => {
    const key = JSON.stringify(at);
    const found = known.get(key) ?? [
      ...new Set(masters.map((master) => placed(master, at)).filter((target) => typeof target === 'string')),
    ];
    known.set(key, found);
    return found;
  };
  const all = [...new Set(presets.flatMap((preset) => targetsAt(preset.place)))];
  const refusals = new Map<string, Problem>();
  for (const one of all) {
    const refusal = await outputs.refusal(one);
    if (refusal) refusals.set(one, refusal);
  }
  // A folder of a preset that is a link to elsewhere: only what would go there is refused.
  const ofPresets = await Promise.all(
    presets.map(async (preset) => {
      const folder = folderSafe(preset.folder);
      const found = await Promise.all(
        targetsAt(preset.place)
          .filter((one) => !refusals.has(one))
          .map((one) => outputs.refusal(one, folder)),
      );
      return found.find((problem) => problem !== null) ?? null;
    }),
  );
  const placeOf = new Map(presets.map((preset) => [preset.id, preset.place]));
  const isShared = (at: Place) => at.kind === 'folder' && place.kind === 'folder' && at.path === place.path;
  const of = (master: MasterRecord, presetId: string) => {
    const at = placeOf.get(presetId) ?? place;
    const target = placed(master, at);
    // The folder of the whole set that cannot be written to is told once.
    return typeof target === 'string' && !isShared(at) ? (refusals.get(target) ?? target) : target;
  };
  const problem = presets.some((preset) => isShared(preset.place)) && place.kind === 'folder' ? (refusals.get(place.path) ?? null) : null;
  const folders = [...new Set(presets.map(({ folder }) => folderSafe(folder)))];
  const own = presets.some((preset) => preset.place.kind === 'own') ? ownTarget(set) : null;
  return { place, shared: sharedTarget(set), own, all, folders, ofPresets, problem, of };
}

const noOwnFolder = (file: string): Problem => ({
  code: 'no-own-folder',
  field: 'place',
  file,
  message: 'It was uploaded, so that it lies in no folder of its own. Choose another place for the files, or leave it out.',
});
