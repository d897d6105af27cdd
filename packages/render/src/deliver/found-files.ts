import { readdir, readFile, stat } from 'node:fs/promises';
import { join, relative, sep } from 'node:path';
import { naturally, ProblemError } from '@rundle/core';
import { type Entry, openPromise } from 'yauzl';

/** A file of a delivery, read when its turn comes. */
export interface FoundEntry {
  /** Below the folder or in the ZIP, with / between folders. */
  path: string;
  read: () => Promise<Buffer>;
}

/** The heaviest file that is read, bytes; what is heavier is no delivered picture. */
const HEAVIEST = 1_000_000_000;

/**
 * All files of a delivery, hidden ones but for, by natural order of their paths.
 * @param path of a folder, or of a ZIP
 * @returns them, and a function to call in the end
 * @throws ProblemError when it is neither
 */
export async function foundFiles(path: string): Promise<{ entries: FoundEntry[]; close: () => Promise<void> }> {
  const about = await stat(path).catch(() => {
    throw new ProblemError({ code: 'missing', file: path, message: 'There is no such folder or ZIP. Check the path.' });
  });
  const { entries, close } = about.isDirectory() ? { entries: await inFolder(path), close: () => Promise.resolve() } : await inZip(path);
  const isHidden = (one: FoundEntry) => one.path.split('/').some((part) => part.startsWith('.'));
  return { entries: entries.filter((one) => !isHidden(one)).sort((a, b) => naturally(a.path, b.path)), close };
}

async function inFolder(folder: string): Promise<FoundEntry[]> {
  const all = await readdir(folder, { recursive: true, withFileTypes: true });
  return all
    .filter((entry) => entry.isFile())
    .map((entry) => {
      const path = join(entry.parentPath, entry.name);
      return { path: relative(folder, path).split(sep).join('/'), read: () => readFile(path) };
    });
}

async function inZip(path: string): Promise<{ entries: FoundEntry[]; close: () => Promise<void> }> {
  const broken = (error: unknown): never => {
    const why = error instanceof Error ? error.message : String(error);
    throw new ProblemError({ code: 'unreadable', file: path, message: `It is no folder and no ZIP that can be read: ${why}.` });
  };
  const zip = await openPromise(path, { autoClose: false }).catch(broken);
  const entries: Entry[] = [];
  try {
    for await (const entry of zip.eachEntry()) if (!entry.fileName.endsWith('/') && entry.uncompressedSize <= HEAVIEST) entries.push(entry);
  } catch (error) {
    broken(error);
  }
  const read = async (entry: Entry): Promise<Buffer> => {
    const parts: Buffer[] = [];
    for await (const part of await zip.openReadStreamPromise(entry)) parts.push(part as Buffer);
    return Buffer.concat(parts);
  };
  return {
    entries: entries.map((entry) => ({ path: entry.fileName, read: () => read(entry) })),
    close: () => Promise.resolve(zip.close()),
  };
}
