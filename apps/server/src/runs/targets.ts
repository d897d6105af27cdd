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
  /** All of them, each once. */
  all: readonly string[];
  /** Folders below each target, in the order of the presets. */
  folders: readonly string[];
  /** Why nothing of a preset can be written, in their order; null: it can. */
  ofPresets: readonly (Problem | null)[];
  /** Why the folder of the machine cannot be written to; null: it can, or there is none. */
  problem: Problem | null;
  /** The target of a master's outputs, or why it has none. */
  of: (master: MasterRecord) => string | Problem;
}

/** Looks up where outputs may go. @param presetFolders in the order of the presets */
export async function targetsOf(
  outputs: Outputs,
  set: SetRow,
  masters: readonly MasterRecord[],
  presetFolders: readonly string[],
): Promise<Targets> {
  const place = Place.parse(set.place);
  const shared = sharedTarget(set);
  const placed = ({ sourcePath, fileName }: MasterRecord): string | Problem => {
    if (place.kind !== 'masters') return shared!;
    return sourcePath === null ? noOwnFolder(fileName) : join(dirname(sourcePath), place.folder);
  };
  const all = [...new Set(masters.map(placed).filter((target) => typeof target === 'string'))];
  const folders = presetFolders.map(folderSafe);
  const refusals = new Map<string, Problem>();
  for (const one of all) {
    const refusal = await outputs.refusal(one);
    if (refusal) refusals.set(one, refusal);
  }
  // A folder of a preset that is a link to elsewhere: only what would go there is refused.
  const ofPresets = await Promise.all(
    folders.map(async (folder) => {
      const found = await Promise.all(all.filter((one) => !refusals.has(one)).map((one) => outputs.refusal(one, folder)));
      return found.find((problem) => problem !== null) ?? null;
    }),
  );
  const of = (master: MasterRecord) => {
    const at = placed(master);
    return typeof at === 'string' && place.kind === 'masters' ? (refusals.get(at) ?? at) : at;
  };
  const problem = place.kind === 'folder' ? (refusals.get(place.path) ?? null) : null;
  return { place, shared, all, folders, ofPresets, problem, of };
}

const noOwnFolder = (file: string): Problem => ({
  code: 'no-own-folder',
  field: 'place',
  file,
  message: 'It was uploaded, so that it lies in no folder of its own. Choose another place for the files, or leave it out.',
});
