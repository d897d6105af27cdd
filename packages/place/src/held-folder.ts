import { constants } from 'node:fs';
import { type FileHandle, lstat, mkdir, open, realpath, stat } from 'node:fs/promises';
import { dirname, join, relative, sep } from 'node:path';
import { type Problem, ProblemError } from '@rundle/core';
import { codeOf, handlePath, HAS_HANDLE_PATHS, placeOfHandle } from './opened';

/** A folder that is held open: what is done below its path is done in it. */
export interface HeldFolder {
  path: string;
  close(): Promise<void>;
}

/** A folder lies, through a link, outside those that may be used. */
class LeadsOutside extends Error {
  /** @param link the part of the path that leads out @param to where it leads; empty: nowhere */
  constructor(
    readonly link: string,
    readonly to: string,
  ) {
    super(`${link} leads outside`);
  }
}

/**
 * Opens a folder to write to. Links are followed as long as they lead to a place below one of the roots; any other is refused by name.
 * @param folder absolute
 * @param roots folders, absolute, which may be links themselves
 * @param make whether what is missing of it is made
 * @returns null when it is not there
 * @throws ProblemError `not-written` where a link leads out; NodeJS.ErrnoException `ENOENT` where the root itself is not there, or the folder was
 *   moved away meanwhile
 */
export async function holdPlace(folder: string, roots: readonly string[], make: boolean): Promise<HeldFolder | null> {
  try {
    return await holdFolder(folder, roots, make);
  } catch (error) {
    if (error instanceof LeadsOutside) throw new ProblemError(notAllowed(error));
    throw error;
  }
}

/** Level by level: of what is made, too, each is opened before the next one is made in it. @throws LeadsOutside, NodeJS.ErrnoException */
async function holdFolder(folder: string, roots: readonly string[], make: boolean): Promise<HeldFolder | null> {
  const real = await Promise.all(roots.map((root) => realpath(root).catch(() => root)));
  const start = await nearest(folder);
  const away = roots.find((root) => isWithin(folder, root) && isWithin(root, start) && root !== start);
  if (away !== undefined) throw vanished(away);
  let held = await openFolder(start, start, real);
  if (!make && start !== folder) return held.close().then(() => null);
  let name = start;
  for (const level of relative(start, folder).split(sep).filter(Boolean)) {
    const parent = held;
    name = join(name, level);
    const path = join(parent.path, level);
    try {
      await mkdir(path).catch((error: unknown) => {
        if (codeOf(error) !== 'EEXIST') throw error;
      });
      held = await openFolder(path, name, real);
    } finally {
      await parent.close();
    }
  }
  return held;
}

async function openFolder(path: string, name: string, roots: readonly string[]): Promise<HeldFolder> {
  const file = await open(path, constants.O_RDONLY | constants.O_DIRECTORY).catch(async (error: unknown) => {
    const isLink = codeOf(error) === 'ENOENT' && (await lstat(path).catch(() => null))?.isSymbolicLink();
    throw isLink ? new LeadsOutside(name, '') : error;
  });
  try {
    const place = HAS_HANDLE_PATHS ? await placeOfHandle(file) : await realpath(path);
    if (!roots.some((root) => isWithin(place, root))) throw (await hasMoved(file, name)) ? vanished(name) : new LeadsOutside(name, place);
    return { path: HAS_HANDLE_PATHS ? await handlePath(file) : place, close: () => file.close() };
  } catch (error) {
    await file.close();
    throw error;
  }
}

/** Whether a folder has got another name, or was deleted, since it was opened: then it lies elsewhere, but no link leads there. */
async function hasMoved(folder: FileHandle, name: string): Promise<boolean> {
  const [opened, named] = await Promise.all([folder.stat({ bigint: true }), stat(name, { bigint: true }).catch(() => null)]);
  return named?.ino !== opened.ino || named.dev !== opened.dev;
}

const vanished = (name: string): Error => Object.assign(new Error(`${name} has vanished.`), { code: 'ENOENT' });

/** Whether a real path is that of a folder or lies below it. */
export const isWithin = (path: string, root: string): boolean => path === root || path.startsWith(root.endsWith(sep) ? root : root + sep);

/** The folder itself, or the nearest one above it that is there. */
export async function nearest(folder: string): Promise<string> {
  for (let at = folder; ; at = dirname(at)) if (dirname(at) === at || (await stat(at).catch(() => null))?.isDirectory()) return at;
}

const notAllowed = ({ link, to }: LeadsOutside): Problem => ({
  code: 'not-written',
  field: 'place',
  message:
    to === ''
      ? `Rundle may not write to ${link}: it is a link that leads nowhere. Remove it, or choose another place.`
      : `Rundle may not write to ${link}${to === link ? '' : `, which leads to ${to}`}. Choose another place, or name the folder where Rundle is started (RUNDLE_WRITE_ROOTS).`,
});
