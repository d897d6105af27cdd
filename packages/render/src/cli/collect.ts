import { readdir, stat } from 'node:fs/promises';
import { basename, extname, join, resolve } from 'node:path';
import { naturally, type Problem, problemOf } from '@rundle/core';
import { readProblem } from '../read/limits';

/** Extensions under which people keep pictures: what a folder offers. Whether one can be read, its content decides. */
const PICTURES = new Set(
  ['.jpg', '.jpeg', '.jpe', '.jfif', '.tif', '.tiff', '.png', '.webp', '.avif', '.heic', '.heif', '.gif', '.psd', '.psb'].concat([
    '.dng',
    '.nef',
    '.cr2',
    '.cr3',
    '.arw',
    '.raf',
    '.orf',
    '.rw2',
    '.pef',
    '.bmp',
    '.jxl',
    '.jp2',
  ]),
);

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
    } else if (PICTURES.has(extname(entry.name).toLowerCase())) found.files.push(path);
    else found.leftAside.push(path);
  }
}
