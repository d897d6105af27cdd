import { randomUUID } from 'node:crypto';
import { constants } from 'node:fs';
import { access, link, mkdir, rename, rm, writeFile } from 'node:fs/promises';
import { basename, dirname, extname, join } from 'node:path';
import { ProblemError } from '@rundle/core';

/**
 * Puts a file in its place so that nobody ever sees half of it: written aside in the same folder, finished there, then
 * moved in one step. When anything fails, nothing is left behind.
 * @param path where the file shall be
 * @param replaces whether a file that stands there may be replaced; if not, it is never touched
 * @param finish works on the file while it is still aside, for instance writes metadata or checks it
 * @throws ProblemError `exists` when a file has appeared at `path` meanwhile; `not-written` when the disk refuses
 */
export async function placeFile(path: string, data: Buffer, replaces: boolean, finish: (aside: string) => Promise<void>): Promise<void> {
  const aside = join(dirname(path), `.rundle-${randomUUID()}${extname(path)}`);
  try {
    await mkdir(dirname(path), { recursive: true });
    await writeFile(aside, data, { flag: 'wx' });
    await finish(aside);
    if (replaces) await rename(aside, path);
    else await link(aside, path);
  } catch (error) {
    throw placeError(await trueReason(error, path), path);
  } finally {
    // Where a folder could not even be made there is nothing to take away, and no second error to tell.
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

const REASONS: Record<string, string> = {
  ENOSPC: 'the disk is full. Make room, then run again',
  EACCES: 'writing to the folder is not allowed. Allow it, or choose another folder',
  EPERM: 'writing to the folder is not allowed. Allow it, or choose another folder',
  EROFS: 'the disk is read-only. Choose another folder',
  ENOENT: 'the target folder has vanished. Make it again, then run again',
  ENOTDIR: 'a file stands where a folder should be. Move it away, or choose another folder',
};

function placeError(error: unknown, path: string): unknown {
  const code = error instanceof Error && 'code' in error ? String(error.code) : '';
  const file = basename(path);
  if (code === 'EEXIST')
    return new ProblemError({
      ...{ code: 'exists', file },
      message: `${file} appeared in the folder while the run was under way and was left untouched. Run again.`,
    });
  const reason = REASONS[code];
  return reason ? new ProblemError({ code: 'not-written', file, message: `${file} was not written: ${reason}.` }) : error;
}
