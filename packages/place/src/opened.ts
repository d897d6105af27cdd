import { createHash } from 'node:crypto';
import { type BigIntStats, constants, createReadStream, existsSync } from 'node:fs';
import { type FileHandle, open, readlink } from 'node:fs/promises';
import type { Readable } from 'node:stream';

/** A file that has been opened: what it is now, and its bytes. */
export interface OpenFile {
  bytes: number;
  modified: Date;
  /** What it is on its disk, and when it was changed last: {@link markOf}. */
  mark: string;
  /** Reads it, or a part of it; both ends included, in bytes. To be called once; reading it to its end closes it. */
  read(part?: { start: number; end: number }): Readable;
  /** Its SHA-256 as it is now, in hexadecimal; it stays open. */
  sha256(): Promise<string>;
  /** A path that leads to what was opened, for programs that this one starts; until it is closed. */
  path(): Promise<string>;
  /** The whole of a small file at once, and closes it. */
  readAll(): Promise<Buffer>;
  close(): Promise<void>;
}

/**
 * What tells whether a file has been touched: its disk, its inode, its size in bytes, and when its content and its entry were changed last, in
 * ns (stat(2)). Who wants to hide a change can; nobody does by chance.
 */
export const markOf = ({ dev, ino, size, mtimeNs, ctimeNs }: BigIntStats): string => [dev, ino, size, mtimeNs, ctimeNs].join(' ');

/** The same but for its entry, which a new name changes. */
export const isSameBody = (one: string, other: string): boolean =>
  one.split(' ').slice(0, 4).join() === other.split(' ').slice(0, 4).join();

/** As stat(2) tells it in Node's own figures, to the last bit: times on record are compared with it. */
const inMs = (ns: bigint): number => Number(ns / 1_000_000_000n) * 1000 + Number(ns % 1_000_000_000n) / 1e6;

/** SHA-256 of a file, in hexadecimal, read piece by piece. */
export const sha256Of = (path: string): Promise<string> => sha256OfStream(createReadStream(path));

/** SHA-256 of what comes out of a stream, in hexadecimal. */
export async function sha256OfStream(stream: Readable): Promise<string> {
  const hash = createHash('sha256');
  for await (const chunk of stream) hash.update(chunk as Buffer);
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
    const stat = await file.stat({ bigint: true });
    if (!stat.isFile()) throw Object.assign(new Error(`${path} is no file.`), { code: 'EISDIR' });
    const opened = {
      bytes: Number(stat.size),
      modified: stat.mtime,
      mtimeMs: inMs(stat.mtimeNs),
      mark: markOf(stat),
      read: (part?: { start: number; end: number }) => file.createReadStream({ ...(part ?? {}), autoClose: true }),
      sha256: () => sha256OfStream(file.createReadStream({ start: 0, autoClose: false })),
      path: () => handlePath(file),
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

/**
 * Linux has a path for all that a process holds open (proc(5), /proc/PID/fd): it leads to the very folder or file that was opened, whatever is
 * put under its name meanwhile, and programs that this one starts can use it, too. Elsewhere the real path has to do.
 */
export const HAS_HANDLE_PATHS = existsSync('/proc/self/fd');

/** A path to what is opened, as long as it is. */
export const handlePath = async (file: FileHandle): Promise<string> =>
  HAS_HANDLE_PATHS ? `/proc/${process.pid}/fd/${file.fd}` : placeOfHandle(file);

/** The real path of an opened file, with links resolved, from Linux's table of open files (/proc/self/fd). */
export const placeOfHandle = (file: FileHandle): Promise<string> => readlink(`/proc/self/fd/${file.fd}`);

export const codeOf = (error: unknown): string => (error instanceof Error && 'code' in error ? String(error.code) : '');
