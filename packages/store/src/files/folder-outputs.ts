import { constants } from 'node:fs';
import { access, link, mkdir, readdir, rename, rm, stat, statfs } from 'node:fs/promises';
import { dirname, join, relative } from 'node:path';
import { writeProblem } from '@rundle/core';
import { codeOf, flush, openOnce, sha256Of } from './opened';
import { AttemptOver, type FinishedFile, type OpenFile, type OutputPlace, type Outputs } from './outputs';

/** Files that are not finished lie here, on the disk of the outputs, so that they get into their place by a new name alone. */
const UNFINISHED = '.unfinished';

/** Outputs in a tree of folders that people can open. Files follow the umask, so that others can be given access. */
export class FolderOutputs implements Outputs {
  private readonly unfinished: string;

  /** @param root folder of all targets */
  constructor(readonly root: string) {
    this.unfinished = join(root, UNFINISHED);
  }

  async workFile(outputId: string, attempt: number, extension: string): Promise<string> {
    await mkdir(this.unfinished, { recursive: true }).catch(async (error: unknown) => {
      throw writeProblem(await this.trueReason(error), 'The output');
    });
    return join(this.unfinished, `${outputId}.${attempt}${extension}`);
  }

  async commit({ path, content }: FinishedFile, place: OutputPlace, replaces: boolean): Promise<void> {
    const to = this.fileAt(place);
    if (await this.holds(place, content)) return rm(path, { force: true });
    try {
      await mkdir(dirname(to), { recursive: true });
      await flush(path);
      if (replaces) await rename(path, to);
      else await link(path, to);
      await flush(dirname(to));
    } catch (error) {
      // A newer attempt may have put the same content there since we looked.
      if (codeOf(error) === 'EEXIST' && (await this.holds(place, content))) return rm(path, { force: true });
      if (codeOf(error) === 'ENOENT' && !(await stat(path).catch(() => null))) throw new AttemptOver();
      throw writeProblem(await this.trueReason(error), place.fileName);
    }
    if (!replaces) await rm(path, { force: true });
  }

  async holds(place: OutputPlace, content: string): Promise<boolean> {
    const path = this.fileAt(place);
    const there = await stat(path).catch(() => null);
    return there !== null && there.isFile() && (await sha256Of(path).catch(() => '')) === content;
  }

  async dropOlder(outputIds: readonly string[], attempt: number): Promise<void> {
    const wanted = new Set(outputIds);
    for (const { name, outputId, attempt: other } of await this.unfinishedFiles())
      if (wanted.has(outputId) && other < attempt) await rm(join(this.unfinished, name), { force: true });
  }

  async sweep(isOpen: (outputIds: readonly string[]) => Promise<ReadonlySet<string>>): Promise<number> {
    const files = await this.unfinishedFiles();
    if (files.length === 0) return 0;
    const open = await isOpen([...new Set(files.map(({ outputId }) => outputId))]);
    const over = files.filter(({ outputId, attempt }) => !open.has(`${outputId}.${attempt}`));
    for (const { name } of over) await rm(join(this.unfinished, name), { force: true });
    return over.length;
  }

  async list(target: string): Promise<Map<string, number>> {
    const folder = join(this.root, target);
    const entries = await readdir(folder, { recursive: true, withFileTypes: true }).catch((error: unknown) => {
      if (codeOf(error) === 'ENOENT') return []; // none has been made yet
      throw error;
    });
    const files = entries.filter((entry) => !entry.isDirectory()).map(({ parentPath, name }) => join(parentPath, name));
    const sized = await Promise.all(files.map(async (path) => [path, (await stat(path).catch(() => null))?.size ?? 0] as const));
    return new Map(sized.map(([path, bytes]) => [relative(folder, path), bytes]));
  }

  async open(place: OutputPlace): Promise<OpenFile | null> {
    try {
      return (await openOnce(this.fileAt(place))).opened;
    } catch (error) {
      if (['ENOENT', 'ENOTDIR', 'ELOOP', 'EISDIR'].includes(codeOf(error))) return null;
      throw error;
    }
  }

  async remove(place: OutputPlace): Promise<void> {
    await rm(this.fileAt(place), { force: true });
  }

  pathOf(target: string): string {
    return join(this.root, target);
  }

  async freeBytes(): Promise<number | null> {
    const { bavail, bsize } = await statfs(this.root).catch(() => ({ bavail: null, bsize: 0 }));
    return bavail === null ? null : bavail * bsize;
  }

  /** Node tells a folder that cannot be made on a read-only disk as one that is missing. */
  private async trueReason(error: unknown): Promise<unknown> {
    if (codeOf(error) !== 'ENOENT') return error;
    return access(this.root, constants.W_OK).then(
      () => error,
      (reason: unknown) => reason,
    );
  }

  private fileAt({ target, folder, fileName }: OutputPlace): string {
    return join(this.root, target, folder, fileName);
  }

  /** ExifTool works on a file beside the one that it was given, so that what counts is how a name begins. */
  private async unfinishedFiles(): Promise<{ name: string; outputId: string; attempt: number }[]> {
    const names = await readdir(this.unfinished).catch((): string[] => []);
    return names.flatMap((name) => {
      const [, outputId, attempt] = /^([0-9a-f-]{36})\.(\d+)\D/.exec(name) ?? [];
      return outputId === undefined ? [] : [{ name, outputId, attempt: Number(attempt) }];
    });
  }
}
