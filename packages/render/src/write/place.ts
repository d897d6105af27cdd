import { randomUUID } from 'node:crypto';
import { constants } from 'node:fs';
import { access, link, mkdir, rename, rm, writeFile } from 'node:fs/promises';
import { basename, dirname, extname, join } from 'node:path';
import { writeProblem } from '@rundle/core';

/** A path beside another for a file that is not finished: on the same disk, hidden, and used by this attempt only. */
export const asideOf = (path: string): string => join(dirname(path), `.rundle-${randomUUID()}${extname(path)}`);

/**
 * Makes a file at a path of its own: written, then finished. When anything fails, nothing is left behind.
 * @param name what the file will be called, for messages
 * @param finish works on the file, for instance writes metadata or checks it
 * @throws ProblemError `not-written` when the disk refuses
 */
export async function writeFinished(path: string, data: Buffer, name: string, finish: (path: string) => Promise<void>): Promise<void> {
  try {
    await mkdir(dirname(path), { recursive: true });
    await writeFile(path, data);
    await finish(path);
  } catch (error) {
    // Where the folder could not be created there is nothing to delete, and no second error to report.
    await rm(path, { force: true }).catch(() => {});
    throw writeProblem(await trueReason(error, path), name);
  }
}

/**
 * Moves a finished file into its place in one step, so that nobody ever sees half of it. When that fails, it is deleted.
 * @param aside the finished file, on the same disk
 * @param replaces whether a file that stands there may be replaced; if not, it is never touched
 * @throws ProblemError `exists` when a file has appeared at `path` meanwhile; `not-written` when the disk refuses
 */
export async function placeFile(aside: string, path: string, replaces: boolean): Promise<void> {
  try {
    if (replaces) await rename(aside, path);
    else await link(aside, path);
  } catch (error) {
    throw writeProblem(await trueReason(error, path), basename(path));
  } finally {
    await rm(aside, { force: true }).catch(() => {});
  }
}

/** Node tells a folder that cannot be made on a read-only disk as one that is missing; trying its nearest parent tells the truth. */
async function trueReason(error: unknown, path: string): Promise<unknown> {
  if (!(error instanceof Error && 'code' in error && error.code === 'ENOENT')) return error;
  for (let folder = dirname(path); folder !== dirname(folder); folder = dirname(folder))
    try {
      await access(folder, constants.W_OK);
      return error;
    } catch (reason) {
      if (!(reason instanceof Error && 'code' in reason && reason.code === 'ENOENT')) return reason;
    }
  return error;
}
