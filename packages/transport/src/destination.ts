import { createHash } from 'node:crypto';
import type { Readable } from 'node:stream';
import { ProblemError } from '@rundle/core';

/** A file on its way. */
export interface SentFile {
  /** Path on this machine. */
  from: string;
  /** Where it comes to lie, `/` between levels, from the folder of the destination. */
  to: string;
  bytes: number;
  sha256: string;
}

/** What is on record as made or delivered here. */
export interface OnRecord {
  /** Whether anything of so many bytes is: what lies at a destination is read only then. */
  hasBytes(bytes: number): Promise<boolean>;
  has(sha256: string): Promise<boolean>;
}

/** What lies at a path: a file of so many bytes, or something that is no file. */
export type Found = { bytes: number } | 'no-file';

/**
 * A place that takes files: a folder, a web space. One rule holds for all of them: what lies there and is not on record as ours, or is no longer
 * what was made here, is never replaced and never removed.
 */
export abstract class Destination {
  /**
   * Puts a file in its place: it is written under another name and moved there when it is whole, so that nobody ever sees half of it.
   * @returns whether it was sent, or lay there as it is
   * @throws ProblemError `exists` when something else lies there; others, or an error of the connection
   */
  put(file: SentFile, ours: OnRecord): Promise<'sent' | 'kept'> {
    return this.guard(
      async () => {
        if ((await this.judge(file, ours)) === 'same') return 'kept';
        const aside = asideName(file.to, file.sha256);
        await this.upload(file, aside);
        // An upload takes its time: what lies there now is what counts.
        const now = await this.judge(file, ours).catch(async (error: unknown) => {
          if (error instanceof ProblemError) await this.discard(aside);
          throw error;
        });
        if (now === 'same') {
          await this.discard(aside);
          return 'kept';
        }
        await this.move(aside, file, now === 'ours');
        if (!isFile(await this.look(file.to), file.bytes)) throw new Error(`${file.to} is not there after it was moved`);
        return 'sent';
      },
      file.to,
      2 * file.bytes,
    );
  }

  /** Whether a file of so many bytes lies there. */
  holds(path: string, bytes: number): Promise<boolean> {
    return this.guard(async () => isFile(await this.look(path), bytes), path, 0);
  }

  /**
   * Removes a file that was delivered there; none is no error.
   * @returns false when what lies there is something else by now, which stays
   */
  remove(path: string, { bytes, sha256 }: Pick<SentFile, 'bytes' | 'sha256'>): Promise<boolean> {
    return this.guard(
      async () => {
        const found = await this.look(path);
        if (found === null) return true;
        if (!isFile(found, bytes) || (await this.hash(path, bytes)) !== sha256) return false;
        await this.discard(path);
        return true;
      },
      path,
      bytes,
    );
  }

  abstract close(): Promise<void>;

  /** What lies at a path, not following a link; null: nothing. */
  protected abstract look(path: string): Promise<Found | null>;
  /** @param bytes that it should have */
  protected abstract read(path: string, bytes: number): Promise<Readable>;
  /** Writes a file whole under another name; what lies there under that name is left from an earlier try. */
  protected abstract upload(file: SentFile, aside: string): Promise<void>;
  /** @param replaces false: what lies there is not touched, and `exists` is thrown */
  protected abstract move(aside: string, file: SentFile, replaces: boolean): Promise<void>;
  /** Removes a file that is ours; none is no error. */
  protected abstract discard(path: string): Promise<void>;
  /**
   * Turns errors into what can be told, and ends what takes longer than makes sense.
   * @param path of the file that is at hand, @param bytes that go to and fro
   */
  protected abstract guard<T>(act: () => Promise<T>, path: string, bytes: number): Promise<T>;

  private async judge({ to, bytes, sha256 }: SentFile, ours: OnRecord): Promise<'nothing' | 'same' | 'ours'> {
    const found = await this.look(to);
    if (found === null) return 'nothing';
    if (found === 'no-file') throw inTheWay(to);
    if (found.bytes !== bytes && !(await ours.hasBytes(found.bytes))) throw inTheWay(to);
    const content = await this.hash(to, found.bytes);
    if (content === sha256) return 'same';
    if (content === null || !(await ours.has(content))) throw inTheWay(to);
    return 'ours';
  }

  /** SHA-256 of a file; null when it is not of so many bytes any more. */
  private async hash(path: string, bytes: number): Promise<string | null> {
    const hash = createHash('sha256');
    let read = 0;
    for await (const chunk of await this.read(path, bytes)) {
      read += (chunk as Buffer).length;
      if (read > bytes) return null; // which ends the stream
      hash.update(chunk as Buffer);
    }
    return read === bytes ? hash.digest('hex') : null;
  }
}

const isFile = (found: Found | null, bytes: number): boolean => found !== null && found !== 'no-file' && found.bytes === bytes;

/** Something that is not ours lies where a file should go. */
export const inTheWay = (file: string): ProblemError =>
  new ProblemError({
    code: 'exists',
    file,
    message: `${file} stands there already and was not made here, or has been changed since, so it stays. Move it away, or deliver to another folder; then go on.`,
  });

/** How a file is called while it is not whole yet. */
const asideName = (path: string, sha256: string): string => {
  const [, folder = '', name = ''] = /^(.*\/)?([^/]*)$/.exec(path) ?? [];
  return `${folder}.${sha256.slice(0, 16)}-${name.slice(-60)}.part`;
};

/** The folders above a path, the outermost first. */
export const foldersAbove = (path: string): string[] => {
  const levels = path.split('/').filter(Boolean).slice(0, -1);
  return levels.map((_, at) => levels.slice(0, at + 1).join('/'));
};
