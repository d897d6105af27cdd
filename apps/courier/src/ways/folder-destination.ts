import { createReadStream, createWriteStream } from 'node:fs';
import { lstat, rm } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { ProblemError, writeProblem } from '@rundle/core';
import { codeOf, holdPlace, makeFile, openOnce, putFile, sha256Of } from '@rundle/place';
import { Destination, type Found, inTheWay, type SentFile } from '@rundle/transport';

/** A folder of the machine: each file is written aside, read back and held against its hash, then moved into place. */
export class FolderDestination extends Destination {
  /**
   * @param root absolute
   * @param writeRoots folders of the machine that may be written to
   */
  constructor(
    private readonly root: string,
    private readonly writeRoots: readonly string[],
  ) {
    super();
  }

  close(): Promise<void> {
    return Promise.resolve();
  }

  protected async look(path: string): Promise<Found | null> {
    const found = await this.within(path, false, (at) => lstat(at).catch(unlessMissing));
    if (found === null) return null;
    return found.isFile() ? { bytes: found.size } : 'no-file';
  }

  protected async read(path: string): Promise<Readable> {
    const file = await this.within(path, false, openOnce);
    return file!.opened.read();
  }

  protected async upload({ from, to, sha256 }: SentFile, aside: string): Promise<void> {
    await this.within(aside, true, async (at) => {
      // Of an earlier try; never through a link that somebody has put there.
      await rm(at, { force: true });
      await makeFile(at, to, async () => {
        await pipeline(createReadStream(from), createWriteStream(at, { flags: 'wx', flush: true }));
        if ((await sha256Of(at)) === sha256) return;
        throw new ProblemError({
          code: 'not-written',
          file: to,
          message: `${to} did not come out of the copy as it went in. Check the disk, then go on.`,
        });
      });
    });
  }

  protected async move(aside: string, { to }: SentFile, replaces: boolean): Promise<void> {
    await this.within(aside, false, async (at) => {
      try {
        await putFile(at, join(dirname(at), basename(to)), { mayReplace: () => replaces });
      } catch (error) {
        throw codeOf(error) === 'EEXIST' ? inTheWay(to) : error;
      } finally {
        await rm(at, { force: true });
      }
    });
  }

  protected async discard(path: string): Promise<void> {
    await this.within(path, false, (at) => rm(at, { force: true }));
  }

  protected guard<T>(act: () => Promise<T>, path: string): Promise<T> {
    return act().catch((error: unknown) => {
      throw writeProblem(error, path);
    });
  }

  /** Does something with the path of a file whose folder is held; null: there is no such folder. */
  private async within<T>(path: string, make: boolean, act: (at: string) => Promise<T>): Promise<T | null> {
    const to = join(this.root, path);
    const held = await holdPlace(dirname(to), this.writeRoots, make);
    if (!held) return null;
    try {
      return await act(join(held.path, basename(to)));
    } finally {
      await held.close();
    }
  }
}

const unlessMissing = (error: unknown): null => {
  if (codeOf(error) === 'ENOENT') return null;
  throw error;
};
