import { readdir, stat } from 'node:fs/promises';
import { basename, join, resolve } from 'node:path';
import { isPictureName, naturally, type Problem, problemOf } from '@rundle/core';
import { readProblem } from '../read/limits';

export interface Collected {
  files: string[];
  /** Files of a folder that are no pictures; told, not rendered. */
  leftAside: string[];
  problems: Problem[];
}

/**
 * Turns the paths of a call into files: files in the order given, a folder's by natural name order.
 * @param recursive whether sub-folders are entered
 */
export async function collectFiles(paths: readonly string[], recursive: boolean): Promise<Collected> {
  const found: Collected = { files: [], leftAside: [], problems: [] };
  for (const path of paths.map((given) => resolve(given))) {
    try {
      if ((await stat(path)).isDirectory()) await collectFolder(path, recursive, found);
      else found.files.push(path);
    } catch (error) {
      found.problems.push({
        ...readProblem(error, basename(path)),
        code: problemOf(error).code === 'internal' ? 'missing' : 'unreadable',
        file: path,
      });
    }
  }
  return { ...found, files: [...new Set(found.files)] };
}

async function collectFolder(folder: string, recursive: boolean, found: Collected): Promise<void> {
  const entries = (await readdir(folder, { withFileTypes: true })).filter(({ name }) => !name.startsWith('.'));
  for (const entry of entries.sort((a, b) => naturally(a.name, b.name))) {
    const path = join(folder, entry.name);
    if (entry.isDirectory()) {
      if (recursive) await collectFolder(path, recursive, found);
    } else if (isPictureName(entry.name)) found.files.push(path);
    else found.leftAside.push(path);
  }
}
