import { createHash } from 'node:crypto';
import { constants, createReadStream } from 'node:fs';
import { type FileHandle, open, readlink } from 'node:fs/promises';
import type { OpenFile } from './outputs';

/** SHA-256 of a file, in hexadecimal, read piece by piece. */
export async function sha256Of(path: string): Promise<string> {
  const hash = createHash('sha256');
  for await (const chunk of createReadStream(path)) hash.update(chunk as Buffer);
  return hash.digest('hex');
}

/**
 * Opens a file once, without following a link at its end. What is looked at and what is read is this handle, so that nothing can
 * be put in its place between the two.
 * @throws NodeJS.ErrnoException `ELOOP` for a link, `ENOENT` when there is none, `EISDIR` for what is no file
 */
export async function openOnce(path: string): Promise<{ file: FileHandle; opened: OpenFile & { mtimeMs: number } }> {
  // Without O_NONBLOCK, opening a named pipe would block until something writes into it.
  const file = await open(path, constants.O_RDONLY | constants.O_NOFOLLOW | constants.O_NONBLOCK);
  try {
    const stat = await file.stat();
    if (!stat.isFile()) throw Object.assign(new Error(`${path} is no file.`), { code: 'EISDIR' });
    const opened = {
      bytes: stat.size,
      modified: stat.mtime,
      mtimeMs: stat.mtimeMs,
      read: (part?: { start: number; end: number }) => file.createReadStream({ ...(part ?? {}), autoClose: true }),
      readAll: async () => {
        try {
          return await file.readFile();
        } finally {
          await file.close();
        }
      },
      close: () => file.close(),
    };
    return { file, opened };
  } catch (error) {
    await file.close();
    throw error;
  }
}

/** Flushes a file, or the entries of a folder, to disk, so that they survive a power failure. */
export async function flush(path: string): Promise<void> {
  const file = await open(path, 'r');
  try {
    await file.sync();
  } finally {
    await file.close();
  }
}

/** The real path of an opened file, with links resolved, from Linux's table of open files (/proc/self/fd). */
export const placeOfHandle = (file: FileHandle): Promise<string> => readlink(`/proc/self/fd/${file.fd}`);

export const codeOf = (error: unknown): string => (error instanceof Error && 'code' in error ? String(error.code) : '');
