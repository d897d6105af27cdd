import { randomUUID } from 'node:crypto';
import { constants } from 'node:fs';
import { access, link, lstat, mkdir, rename, rm } from 'node:fs/promises';
import { basename, dirname, extname, join } from 'node:path';
import { writeProblem } from '@rundle/core';
import { codeOf, flush, openOnce, sha256Of } from './opened';

/*
 * How every file comes into its place, whoever makes it: whole, in one step, and never over a stranger's.
 */

/** A path beside another for a file that is not finished: on the same disk, hidden, and used by this attempt only. */
export const asideOf = (path: string): string => join(dirname(path), `.rundle-${randomUUID()}${extname(path)}`);

/**
 * Makes a file at a path of its own. When anything fails, nothing is left behind.
 * @param name what the file will be called, for messages
 * @param make writes it and does all that it takes to be whole, for instance checks it
 * @throws ProblemError `not-written` when the disk refuses
 */
export async function makeFile(path: string, name: string, make: () => Promise<void>): Promise<void> {
  try {
    await mkdir(dirname(path), { recursive: true });
    await make();
  } catch (error) {
    // Where the folder could not be created there is nothing to delete, and no second error to report.
    await rm(path, { force: true }).catch(() => {});
    throw writeProblem(await trueReason(error, path), name);
  }
}

/** What may become of what stands where a file goes. */
export interface PutRule {
  /**
   * Whether it may be replaced; asked only where something stands. What may not is never touched.
   * @param content tells the SHA-256 of what stands there now; null: it is no file that could be read
   * @throws ProblemError instead of false, where there is more to say
   */
  mayReplace: (content: () => Promise<string | null>) => boolean | Promise<boolean>;
  /** SHA-256 of the finished file: what stands there with the same content *is* this file, and stays. Undefined: that is not looked at. */
  content?: string;
  /** Whether all of it has to survive a power failure. */
  durable?: boolean;
}

/**
 * Moves a finished file into its place in one step, so that nobody ever sees half of it. Its own path is free afterwards, unless it is to be tried
 * again.
 * @param finished on the same disk
 * @returns `kept` when the same content stood there already
 * @throws NodeJS.ErrnoException `EEXIST` when something stands there that may not be replaced, also when it has appeared meanwhile; others when
 *   the disk refuses. ProblemError of the rule
 */
export async function putFile(finished: string, path: string, { mayReplace, content, durable = false }: PutRule): Promise<'put' | 'kept'> {
  if (content !== undefined && (await isContent(path, content))) {
    await rm(finished, { force: true });
    return 'kept';
  }
  if (durable) await flush(finished);
  const stands = await lstat(path).catch(() => null);
  const replaces = stands !== null && (await mayReplace(() => sha256Of(path).catch(() => null)));
  if (replaces) await rename(finished, path);
  else {
    await link(finished, path).catch(async (error: unknown) => {
      // A newer attempt may have put the same content there since we looked.
      if (codeOf(error) !== 'EEXIST' || content === undefined || !(await isContent(path, content))) throw error;
    });
    await rm(finished, { force: true });
  }
  if (durable) await flush(dirname(path));
  return 'put';
}

/**
 * The same for whoever tries only once: when it fails, the finished file is deleted, and the reason is told.
 * @throws ProblemError `exists` when a file stands there that may not be replaced; `not-written` when the disk refuses
 */
export async function putFileOrDrop(finished: string, path: string, rule: PutRule): Promise<'put' | 'kept'> {
  try {
    return await putFile(finished, path, rule);
  } catch (error) {
    throw writeProblem(await trueReason(error, path), basename(path));
  } finally {
    await rm(finished, { force: true }).catch(() => {});
  }
}

/** Whether a file with this content stands at a path; a link to one does not count. */
export async function isContent(path: string, content: string): Promise<boolean> {
  const file = await openOnce(path).catch(() => null);
  if (file === null) return false;
  const found = await file.opened
    .sha256()
    .catch(() => '')
    .finally(file.opened.close);
  return found === content;
}

/** Node tells a folder that cannot be made on a read-only disk as one that is missing; trying its nearest parent tells the truth. */
export async function trueReason(error: unknown, path: string): Promise<unknown> {
  if (codeOf(error) !== 'ENOENT') return error;
  for (let folder = dirname(path); folder !== dirname(folder); folder = dirname(folder))
    try {
      await access(folder, constants.W_OK);
      return error;
    } catch (reason) {
      if (codeOf(reason) !== 'ENOENT') return reason;
    }
  return error;
}
