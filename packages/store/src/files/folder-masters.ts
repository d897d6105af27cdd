import { randomUUID } from 'node:crypto';
import { chmod, copyFile, link, mkdir, open, readdir, rename, rm, stat, statfs } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { contentOfPage, FILE_GONE, NO_PICTURE, type Problem, ProblemError, SNIFF_BYTES, sniffFormat } from '@rundle/core';
import type { BroughtMaster, FoundFile, MasterPlace, Masters, StoredContent, StoredFile } from './masters';
import { codeOf, flush, handlePath, type OpenFile, openOnce, placeOfHandle, sha256Of } from '@rundle/place';

/** Pictures are private: only their owner may read them. */
const OWN_FOLDER = 0o700;
const OWN_FILE = 0o600;

const EMPTY: Problem = { code: 'empty', message: 'The file is empty. Copy it again from where it came.' };
const UNREADABLE: Problem = { code: 'unreadable', message: NO_PICTURE };
const CHANGED = 'The file has changed since it was brought in. Open the set once more, then run again.';

/** Masters in a folder, uploaded ones by the hash of their content; those of the machine stay where they are. */
export class FolderMasters implements Masters {
  readonly incoming: string;
  private readonly stored: string;
  private readonly small: string;
  /** What no picture names any more, for a while. */
  private readonly bin: string;

  /** @param data the data folder, which is there */
  constructor(data: string) {
    this.incoming = join(data, 'incoming');
    this.stored = join(data, 'masters');
    this.small = join(data, 'cache', 'proxies');
    this.bin = join(data, 'bin');
  }

  /** Makes the folders, for their owner alone. To be called once by a program that brings masters in. */
  async prepare(): Promise<void> {
    for (const folder of [this.incoming, this.stored, dirname(this.small), this.small]) {
      await mkdir(folder, { recursive: true, mode: OWN_FOLDER });
      await chmod(folder, OWN_FOLDER);
    }
  }

  async takeIn(path: string, fileName: string): Promise<StoredFile> {
    const found = await this.look(path);
    if ('code' in found) throw new ProblemError({ ...found, file: fileName });
    await chmod(path, OWN_FILE);
    return this.store(path, fileName, found.bytes);
  }

  async has(sha256: string): Promise<boolean> {
    return (await stat(this.fileOf(sha256)).catch(() => null)) !== null;
  }

  async takeCopy(path: string, fileName: string): Promise<StoredFile> {
    return this.store(path, fileName, (await stat(path)).size);
  }

  /** By a second name for the same file where the disk allows, else as a copy, which gets its name when it is whole. */
  private async store(path: string, fileName: string, bytes: number): Promise<StoredFile> {
    const sha256 = await sha256Of(path);
    const place = this.fileOf(sha256);
    await mkdir(dirname(place), { recursive: true, mode: OWN_FOLDER });
    try {
      await flush(path);
      await link(path, place);
      await flush(dirname(place));
    } catch (error) {
      if (codeOf(error) !== 'EEXIST') {
        const copy = join(this.incoming, randomUUID());
        await copyFile(path, copy);
        await chmod(copy, OWN_FILE);
        await rename(copy, place);
      }
    }
    return { fileName, sha256, bytes };
  }

  async look(path: string): Promise<FoundFile | Problem> {
    const { size, mtimeMs } = await stat(path);
    if (size === 0) return EMPTY;
    const file = await open(path, 'r');
    try {
      const { buffer, bytesRead } = await file.read(Buffer.alloc(SNIFF_BYTES), 0, SNIFF_BYTES, 0);
      return sniffFormat(buffer.subarray(0, bytesRead)) ? { bytes: size, mtimeMs } : UNREADABLE;
    } finally {
      await file.close();
    }
  }

  async standing(path: string): Promise<FoundFile | null> {
    const there = await stat(path).catch(() => null);
    return there && { bytes: there.size, mtimeMs: there.mtimeMs };
  }

  async bring(master: MasterPlace): Promise<BroughtMaster> {
    const found = await this.opened(master);
    if (found === 'missing') throw new ProblemError({ ...FILE_GONE, file: master.fileName });
    if (found === 'changed') throw new ProblemError({ code: 'master-changed', file: master.fileName, message: CHANGED });
    const { file, opened } = found;
    if (master.sourcePath !== null) return { path: await handlePath(file), close: opened.close };
    // In the store nobody else writes, and a name is that of a content.
    await opened.close();
    return { path: this.pathOf(master), close: () => Promise.resolve() };
  }

  async open(master: MasterPlace): Promise<OpenFile | null> {
    const found = await this.opened(master);
    return typeof found === 'string' ? null : found.opened;
  }

  smallPicturePath(sha256: string, page: number | null): string {
    return join(this.small, sha256.slice(0, 2), `${contentOfPage(sha256, page)}.jpg`);
  }

  async openSmallPicture(sha256: string, page: number | null): Promise<OpenFile | null> {
    try {
      return (await openOnce(this.smallPicturePath(sha256, page))).opened;
    } catch (error) {
      if (codeOf(error) === 'ENOENT') return null;
      throw error;
    }
  }

  async discard(sha256: string): Promise<void> {
    const small = dirname(this.smallPicturePath(sha256, null));
    for (const name of await readdir(small).catch(() => [])) if (name.startsWith(sha256)) await rm(join(small, name), { force: true });
    await mkdir(this.bin, { recursive: true, mode: OWN_FOLDER });
    await rename(this.fileOf(sha256), join(this.bin, `${sha256}.${Date.now()}`)).catch(unlessGone);
  }

  async discarded(): Promise<{ sha256: string; ageMs: number }[]> {
    return (await this.inBin()).map(({ sha256, since }) => ({ sha256, ageMs: Date.now() - since }));
  }

  async restore(sha256: string): Promise<void> {
    for (const found of await this.inBin())
      if (found.sha256 === sha256) {
        await mkdir(dirname(this.fileOf(sha256)), { recursive: true, mode: OWN_FOLDER });
        await rename(found.path, this.fileOf(sha256)).catch(unlessGone);
      }
  }

  async remove(sha256: string): Promise<void> {
    for (const found of await this.inBin()) if (found.sha256 === sha256) await rm(found.path, { force: true });
  }

  /** The time at which it was put there is part of the name: what a file tells of itself is its own. */
  private async inBin(): Promise<{ path: string; sha256: string; since: number }[]> {
    const names = await readdir(this.bin).catch((): string[] => []);
    return names.flatMap((name) => {
      const [, sha256, since] = /^([0-9a-f]{64})\.(\d+)$/.exec(name) ?? [];
      return sha256 === undefined ? [] : [{ path: join(this.bin, name), sha256, since: Number(since) }];
    });
  }

  async list(): Promise<StoredContent[]> {
    const found = new Map<string, StoredContent>();
    for (const folder of [this.stored, this.small]) {
      const entries = await readdir(folder, { recursive: true, withFileTypes: true }).catch(() => []);
      for (const entry of entries) {
        const [sha256] = /^[0-9a-f]{64}/.exec(entry.name) ?? [];
        if (!entry.isFile() || sha256 === undefined) continue;
        const there = await stat(join(entry.parentPath, entry.name)).catch(() => null);
        if (!there) continue;
        const before = found.get(sha256);
        found.set(sha256, {
          sha256,
          isMaster: (before?.isMaster ?? false) || folder === this.stored,
          // When it came here, not when the picture was made: its time is its own.
          ageMs: Math.min(before?.ageMs ?? Infinity, Date.now() - there.ctimeMs),
          earliestMs: Math.min(before?.earliestMs ?? Infinity, there.ctimeMs, there.mtimeMs),
        });
      }
    }
    return [...found.values()];
  }

  async arrivedBytes(uploadId: string): Promise<number> {
    return (await stat(join(this.incoming, uploadId)).catch(() => null))?.size ?? 0;
  }

  async sweepIncoming(olderThanMs: number): Promise<number> {
    let swept = 0;
    for (const name of await readdir(this.incoming).catch((): string[] => [])) {
      const path = join(this.incoming, name);
      const there = await stat(path).catch(() => null);
      if (!there || Date.now() - Math.max(there.mtimeMs, there.ctimeMs) < olderThanMs) continue;
      await rm(path, { force: true });
      swept++;
    }
    return swept;
  }

  async freeBytes(): Promise<number | null> {
    const { bavail, bsize } = await statfs(this.incoming).catch(() => ({ bavail: null, bsize: 0 }));
    return bavail === null ? null : bavail * bsize;
  }

  private fileOf(sha256: string): string {
    return join(this.stored, sha256.slice(0, 2), sha256);
  }

  private pathOf({ sourcePath, sha256 }: MasterPlace): string {
    return sourcePath ?? this.fileOf(sha256 ?? '');
  }

  /** A master on the machine is opened only as what it was when it was brought in: the same file at the same place, not a link to another. */
  private async opened(master: MasterPlace): Promise<Awaited<ReturnType<typeof openOnce>> | 'missing' | 'changed'> {
    const path = this.pathOf(master);
    const { sourcePath, sourceMtimeMs, bytes } = master;
    try {
      const { file, opened } = await openOnce(path);
      if (sourcePath === null) return { file, opened };
      const same = opened.bytes === Number(bytes) && opened.mtimeMs === sourceMtimeMs && (await placeOfHandle(file)) === sourcePath;
      if (same) return { file, opened };
      await opened.close();
      return 'changed';
    } catch (error) {
      if (['ENOENT', 'ENOTDIR'].includes(codeOf(error))) return 'missing';
      if (['ELOOP', 'EISDIR'].includes(codeOf(error))) return 'changed';
      throw error;
    }
  }
}

const unlessGone = (error: unknown): void => {
  if (codeOf(error) !== 'ENOENT') throw error;
};
