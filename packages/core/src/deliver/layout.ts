import { folderSafe } from '../name/folder';
import { fileSafe } from '../name/file-safe';
import type { DeliveryContent } from './delivery';

/** A file that could go out. */
export interface Deliverable {
  masterId: string;
  presetId: string;
  folder: string;
  fileName: string;
}

/**
 * Where each file lies in a delivery. Names that would clash, also for disks that do not tell capital letters from small ones, get a number.
 * @returns the files that are chosen, in their order, each with its path
 */
export function layOut<F extends Deliverable>(
  all: readonly F[],
  { presetIds, masterIds, layout }: DeliveryContent,
): { file: F; path: string }[] {
  const presets = new Set(presetIds);
  const masters = new Set(masterIds);
  const taken = new Set<string>();
  return all
    .filter(({ presetId, masterId }) => (!presets.size || presets.has(presetId)) && (!masters.size || masters.has(masterId)))
    .map((file) => {
      const [, stem = '', extension = ''] = /^(.+?)(\.[^.]*)?$/.exec(file.fileName) ?? [];
      const folder = layout === 'flat' ? '' : folderSafe(file.folder);
      for (let number = 1; ; number++) {
        const name = `${fileSafe(stem)}${number === 1 ? '' : `-${number}`}${extension}`;
        const path = folder ? `${folder}/${name}` : name;
        if (taken.has(path.toLowerCase())) continue;
        taken.add(path.toLowerCase());
        return { file, path };
      }
    });
}

/** A file that lies, or is to lie, somewhere. */
interface Known {
  path: string;
  sha256: string;
}

/**
 * What has to be done so that a place holds a delivery.
 * @param wanted what is to lie there, @param there what is on record to lie there
 */
export function changesFor<F extends Known>(wanted: readonly F[], there: readonly Known[]): { send: F[]; keep: F[]; old: string[] } {
  const known = new Map(there.map(({ path, sha256 }) => [path, sha256]));
  const paths = new Set(wanted.map(({ path }) => path));
  return {
    send: wanted.filter(({ path, sha256 }) => known.get(path) !== sha256),
    keep: wanted.filter(({ path, sha256 }) => known.get(path) === sha256),
    old: there.map(({ path }) => path).filter((path) => !paths.has(path)),
  };
}
