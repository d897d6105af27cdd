import { type Dirent } from 'node:fs';
import { readdir, realpath, stat } from 'node:fs/promises';
import { basename, dirname, join, sep } from 'node:path';
import { setTimeout } from 'node:timers/promises';
import { type FolderUse, isSystemFile, type MachineFolder, naturally, type Problem } from '@rundle/core';
import type { Masters } from '@rundle/store';
import { HttpProblem, requestProblem } from '../http/problem';
import { SCREENFUL } from '../masters/queue-reading';

/** Files that one folder may bring in at a time. */
const MOST_FILES = 5000;
/** How deep sub-folders are followed. */
const DEEPEST = 12;

/**
 * The true path of a folder, when it lies in one of the roots: symbolic links that lead out of them do not help.
 * @throws HttpProblem 403 outside the roots, 404 when there is no such folder
 */
export async function inRoots(path: string, roots: readonly string[], use: FolderUse = 'reading'): Promise<string> {
  const real = await realpath(path).catch(() => null);
  const realRoots = await Promise.all(roots.map((root) => realpath(root).catch(() => root)));
  if (real === null || !(await stat(real)).isDirectory())
    throw requestProblem('no-folder', 'There is no such folder on this machine (any more). Choose another.');
  if (!realRoots.some((root) => real === root || real.startsWith(root.endsWith(sep) ? root : root + sep)))
    throw requestProblem('outside', OUTSIDE[use]);
  return real;
}

const OUTSIDE: Readonly<Record<FolderUse, string>> = {
  reading: 'Pictures may not be brought in from there. Which folders may be read is set where Rundle is started (RUNDLE_ROOTS).',
  writing: 'Rundle may not write there. Which folders it may write to is set where it is started (RUNDLE_WRITE_ROOTS).',
};

/** A folder to choose from; without a path the roots themselves. */
export async function listFolder(path: string | null, roots: readonly string[], use: FolderUse = 'reading'): Promise<MachineFolder> {
  if (path === null) return { path: null, up: null, folders: roots.map((root) => ({ name: root, path: root })), files: 0 };
  const real = await inRoots(path, roots, use);
  const entries = await entriesOf(real);
  const up = dirname(real);
  const folders = entries.filter((entry) => entry.isDirectory()).map(({ name }) => ({ name, path: join(real, name) }));
  return {
    path: real,
    files: entries.filter((entry) => entry.isFile()).length,
    up: await inRoots(up, roots, use).catch(() => null),
    folders: folders.sort((a, b) => naturally(a.name, b.name)),
  };
}

/** A picture of the machine, by its name, its place and what tells a changed file from an unchanged one. */
export interface MachineFile {
  fileName: string;
  path: string;
  bytes: number;
  mtimeMs: number;
}

/** Files that are looked into and handed on at a time: few at first, so that a page has pictures to show at once. */
const FIRST_PART = SCREENFUL;
const PART = 400;
/** How long the workers have the cores to themselves for the first part, in ms: a page sees its first pictures twice as soon. */
const HEAD_START = 500;

/**
 * Finds all pictures of a folder in natural order, and hands them on part by part.
 * @param onFiles takes the next part; awaited before the one after it
 * @returns what else lies there, with the reason why it does not come in
 * @throws HttpProblem 403, 404, or 422 when there are too many, before any is handed on
 */
export async function picturesIn(
  { folder, deeper, names }: { folder: string; deeper: boolean; names?: readonly string[] | undefined },
  roots: readonly string[],
  masters: Masters,
  onFiles: (files: MachineFile[]) => Promise<void>,
): Promise<Problem[]> {
  const places: string[] = [];
  await walk(await inRoots(folder, roots), 0);
  const allowed = new Map<string, Promise<string>>();
  const refused: Problem[] = [];
  for (let at = 0; at < places.length;) {
    const part = places.slice(at, at + (at === 0 ? FIRST_PART : PART));
    at += part.length;
    const looked = await Promise.all(part.map((place) => lookInto(place, roots, masters, allowed)));
    refused.push(...looked.flatMap((found) => ('code' in found ? found : [])));
    await onFiles(looked.flatMap((found) => ('path' in found ? found : [])));
    if (at === FIRST_PART && at < places.length) await setTimeout(HEAD_START);
  }
  return refused;

  async function walk(path: string, depth: number): Promise<void> {
    const entries = (await entriesOf(path)).sort((a, b) => naturally(a.name, b.name));
    for (const entry of entries) {
      const place = join(path, entry.name);
      if (entry.isDirectory() && !entry.name.includes(NOT_UTF8)) {
        if (deeper && depth < DEEPEST) await walk(place, depth + 1);
      } else if (!names || names.includes(entry.name)) places.push(place);
    }
    if (places.length > MOST_FILES)
      throw requestProblem('too-many', `The folder holds more than ${MOST_FILES} files. Bring its sub-folders in one by one.`);
  }
}

/** The replacement character, which stands for bytes that are not UTF-8: a file with such a name cannot be opened by it. */
const NOT_UTF8 = '\ufffd';
const ODD_NAME = 'Its name holds letters in an old encoding, not UTF-8, so that it cannot be opened. Rename it, then bring it in again.';

/**
 * What a file of the machine is, or why it does not come in.
 * @param allowed folders that have been held against the roots already
 */
export async function lookInto(
  place: string,
  roots: readonly string[],
  masters: Masters,
  allowed = new Map<string, Promise<string>>(),
): Promise<MachineFile | Problem> {
  const fileName = basename(place);
  if (fileName.includes(NOT_UTF8)) return { code: 'odd-name', file: fileName, message: ODD_NAME };
  try {
    const path = await realpath(place);
    const folder = dirname(path);
    const known = allowed.get(folder) ?? inRoots(folder, roots);
    allowed.set(folder, known);
    await known;
    const found = await masters.look(path);
    return 'code' in found ? { ...found, file: fileName } : { fileName, path, ...found };
  } catch (error) {
    const outside = error instanceof HttpProblem && error.code === 'outside';
    const message = outside
      ? 'It is a link to somewhere outside the folders that may be used.'
      : 'It cannot be read, or has just vanished.';
    return { code: outside ? 'outside' : 'missing', file: fileName, message };
  }
}

/** The entries of a folder, without system files. */
async function entriesOf(path: string): Promise<Dirent[]> {
  const entries = await readdir(path, { withFileTypes: true }).catch((): never => {
    throw requestProblem('no-folder', 'The folder cannot be read. It may have vanished, or may not be opened by Rundle.');
  });
  return entries.filter(({ name }) => !isSystemFile(name));
}
