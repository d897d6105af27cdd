import { lstatSync } from 'node:fs';
import { copyFile, lstat, mkdir, readdir, rename, rm, rmdir, stat, statfs } from 'node:fs/promises';
import { basename, dirname, isAbsolute, join } from 'node:path';
import { type Problem, ProblemError, writeProblem } from '@rundle/core';
import {
  codeOf,
  flush,
  type HeldFolder,
  holdPlace,
  isContent,
  isSameBody,
  markOf,
  nearest,
  type OpenFile,
  openOnce,
  putFile,
  sha256Of,
  trueReason,
} from '@rundle/place';
import { AttemptOver, type FinishedFile, type OutputPlace, type Outputs } from './outputs';

/** Files that are not finished lie here, on the disk of the outputs, so that they get into their place by a new name alone. */
const UNFINISHED = '.unfinished';
/** The same in a folder of the machine, where its owner should know what it is. */
const UNFINISHED_ELSEWHERE = '.rundle-unfinished';

/** What lay in a folder at a look. */
interface Look {
  /** Time of change of the folder itself, ms: another one when something has come, gone or got another name. */
  mtimeMs: number;
  at: number;
  files: ReadonlyMap<string, string>;
}

/** Folders whose last look is kept. */
const MOST_LOOKS = 2000;

/** Outputs in folders that people can open. Files follow the umask, so that others can be given access. */
export class FolderOutputs implements Outputs {
  private readonly looks = new Map<string, Look>();
  /** Folders of unfinished files that attempts at work have open, by the path of their file. */
  private readonly work = new Map<string, HeldFolder>();

  /**
   * @param root folder of Rundle's own targets
   * @param writeRoots folders of the machine below which outputs may go, absolute
   */
  constructor(
    readonly root: string,
    private readonly writeRoots: readonly string[] = [],
  ) {}

  async workFile(target: string, outputId: string, attempt: number, extension: string): Promise<string> {
    const held = await this.hold(target, this.unfinishedOf(target), true).catch(async (error: unknown) => {
      throw writeProblem(await trueReason(error, this.unfinishedOf(target)), 'The output');
    });
    const path = join(held!.path, `${outputId}.${attempt}${extension}`);
    this.work.set(path, held!);
    return path;
  }

  async release(path: string): Promise<void> {
    const held = this.work.get(path);
    this.work.delete(path);
    await rm(path, { force: true }).finally(() => held?.close());
  }

  async hasVanished(path: string): Promise<boolean> {
    // A folder that was deleted while it was held has no name left, and so no links (POSIX.1-2017, rmdir).
    const folder = await stat(dirname(path)).catch(() => null);
    return folder === null || folder.nlink === 0;
  }

  async commit(file: FinishedFile, place: OutputPlace, replaces: boolean, onRecord: readonly string[] = []): Promise<string | null> {
    return this.put(file, place, async (there) => replaces && isOnRecord(place.fileName, await there(), onRecord));
  }

  private async put(
    { path, content }: FinishedFile,
    place: OutputPlace,
    mayReplace: (there: () => Promise<string | null>) => boolean | Promise<boolean>,
  ): Promise<string | null> {
    let held: HeldFolder | null = null;
    const { target, fileName } = place;
    try {
      held = await this.hold(target, dirname(this.fileAt(place)), true);
      const to = join(held!.path, basename(fileName));
      const finished = await markAt(path);
      const became = await putFile(path, to, { content, durable: true, mayReplace });
      const mark = await markAt(to);
      // Touched since it was finished: what it is now, the next look tells by its content.
      return mark && finished && became === 'put' && isSameBody(mark, finished) ? mark : null;
    } catch (error) {
      if (codeOf(error) === 'ENOENT' && !(await stat(path).catch(() => null))) throw new AttemptOver();
      if (error instanceof ProblemError) throw error;
      throw writeProblem(await trueReason(error, this.fileAt(place)), fileName);
    } finally {
      await held?.close();
    }
  }

  async take(place: OutputPlace, outputId: string, content: string, toTarget: string): Promise<boolean> {
    const held = await this.hold(toTarget, this.unfinishedOf(toTarget), true).catch(async (error: unknown) => {
      throw writeProblem(await trueReason(error, this.unfinishedOf(toTarget)), place.fileName);
    });
    const taken = join(held!.path, takenName(outputId));
    try {
      if (await stat(taken).catch(() => null)) return true;
      return (await this.within(place, (path) => takeFile(path, taken, content))) ?? false;
    } catch (error) {
      throw writeProblem(await trueReason(error, this.fileAt(place)), place.fileName);
    } finally {
      await held!.close();
    }
  }

  async putTaken(outputId: string, place: OutputPlace, content: string): Promise<{ mark: string | null } | null> {
    const held = await this.hold(place.target, this.unfinishedOf(place.target), false).catch(unlessProblem);
    if (!held) return null;
    const path = join(held.path, takenName(outputId));
    try {
      if (!(await stat(path).catch(() => null))) return null;
      return { mark: await this.put({ path, content }, place, () => false) };
    } finally {
      await held.close();
    }
  }

  async dropTaken(outputId: string, target: string): Promise<void> {
    const held = await this.hold(target, this.unfinishedOf(target), false).catch(unlessProblem);
    if (held) await rm(join(held.path, takenName(outputId)), { force: true }).finally(() => held.close());
  }

  async holds(place: OutputPlace, content: string): Promise<boolean> {
    return (await this.within(place, (path) => isContent(path, content))) ?? false;
  }

  async dropOlder(outputs: readonly { id: string; target: string }[], attempt: number): Promise<void> {
    const wanted = new Set(outputs.map(({ id }) => id));
    const isOlder = (found: Unfinished) => wanted.has(found.outputId) && found.attempt < attempt;
    for (const target of new Set(outputs.map(({ target }) => target)))
      await this.clear(target, (found) => Promise.resolve(found.filter(isOlder)));
  }

  async sweep(targets: readonly string[], isOpen: (outputIds: readonly string[]) => Promise<ReadonlySet<string>>): Promise<number> {
    let swept = 0;
    // All of Rundle's own targets have one such folder.
    for (const target of new Set(['', ...targets.filter(isAbsolute)]))
      swept += await this.clear(target, async (found) => {
        const open = found.length ? await isOpen([...new Set(found.map(({ outputId }) => outputId))]) : new Set<string>();
        return found.filter(({ outputId, attempt }) => !open.has(`${outputId}.${attempt}`));
      });
    return swept;
  }

  /** Deletes those unfinished files of a target that are chosen; none where that folder leads elsewhere. @returns how many */
  private async clear(target: string, choose: (found: Unfinished[]) => Promise<Unfinished[]>): Promise<number> {
    const held = await this.hold(target, this.unfinishedOf(target), false).catch(unlessProblem);
    if (!held) return 0;
    try {
      const chosen = await choose(await unfinishedIn(held.path));
      for (const { path } of chosen) await rm(path, { force: true });
      return chosen.length;
    } finally {
      await held.close();
    }
  }

  async tidy(targets: readonly string[]): Promise<void> {
    for (const target of targets.filter(isAbsolute)) {
      const held = await this.hold(target, target, false).catch(unlessProblem);
      if (held) await rmdir(join(held.path, UNFINISHED_ELSEWHERE)).catch(() => {});
      await held?.close();
    }
  }

  async standing(target: string, folders: readonly string[], since = 0): Promise<Map<string, string>> {
    const found = new Map<string, string>();
    for (const folder of new Set(folders))
      for (const [name, mark] of await this.look(join(this.folderOf(target), folder), since))
        found.set(folder ? `${folder}/${name}` : name, mark);
    return found;
  }

  private async look(folder: string, since: number): Promise<ReadonlyMap<string, string>> {
    const mtimeMs = (await stat(folder).catch(() => null))?.mtimeMs ?? 0; // 0: none has been made yet
    const known = this.looks.get(folder);
    if (known?.mtimeMs === mtimeMs && Date.now() - known.at < since) return known.files;
    const at = Date.now();
    const entries = await readdir(folder, { withFileTypes: true }).catch((error: unknown) => {
      if (['ENOENT', 'ENOTDIR'].includes(codeOf(error))) return [];
      throw error;
    });
    const names = entries.filter((entry) => !entry.isDirectory()).map(({ name }) => name);
    const files = await marksOf(folder, names);
    this.looks.delete(folder);
    this.looks.set(folder, { mtimeMs, at, files });
    for (const oldest of this.looks.keys()) {
      if (this.looks.size <= MOST_LOOKS) break;
      this.looks.delete(oldest);
    }
    return files;
  }

  async open(place: OutputPlace): Promise<OpenFile | null> {
    return this.within(place, async (path) => {
      try {
        return (await openOnce(path)).opened;
      } catch (error) {
        if (['ENOENT', 'ENOTDIR', 'ELOOP', 'EISDIR'].includes(codeOf(error))) return null;
        throw error;
      }
    });
  }

  pathOf(target: string): string {
    return this.folderOf(target);
  }

  async freeBytes(target = ''): Promise<number | null> {
    const there = await nearest(this.folderOf(target));
    const { bavail, bsize } = await statfs(there).catch(() => ({ bavail: null, bsize: 0 }));
    return bavail === null ? null : bavail * bsize;
  }

  async refusal(target: string, folder = ''): Promise<Problem | null> {
    try {
      await (await this.hold(target, join(this.folderOf(target), folder), false))?.close();
    } catch (error) {
      if (error instanceof ProblemError) return error.problem;
      if (codeOf(error) === 'ENOENT' && isAbsolute(target)) return placeAway(target);
      // What else stands in the way is told when it is written to.
    }
    return null;
  }

  async makeFolder(path: string): Promise<void> {
    await (await this.hold(path, path, true))?.close();
  }

  /** Opens a folder of a target; what leads out of all that may be written to is refused by name. @throws ProblemError `not-written` */
  private async hold(target: string, folder: string, make: boolean): Promise<HeldFolder | null> {
    const roots = isAbsolute(target) ? this.writeRoots : [this.root, ...this.writeRoots];
    // Rundle's own tree is made again where it has vanished; a disk that is away is not.
    if (make && !isAbsolute(target)) await mkdir(this.root, { recursive: true });
    return holdPlace(folder, roots, make);
  }

  /** Does something with the path of a file whose folder is held; null: there is no such folder, or it leads elsewhere. */
  private async within<T>(place: OutputPlace, act: (path: string) => Promise<T>): Promise<T | null> {
    const held = await this.hold(place.target, dirname(this.fileAt(place)), false).catch(unlessProblem);
    if (!held) return null;
    try {
      return await act(join(held.path, basename(place.fileName)));
    } finally {
      await held.close();
    }
  }

  private folderOf(target: string): string {
    return isAbsolute(target) ? target : join(this.root, target);
  }

  private unfinishedOf(target: string): string {
    return isAbsolute(target) ? join(target, UNFINISHED_ELSEWHERE) : join(this.root, UNFINISHED);
  }

  private fileAt({ target, folder, fileName }: OutputPlace): string {
    return join(this.folderOf(target), folder, fileName);
  }
}

const placeAway = (target: string): Problem => ({
  code: 'not-written',
  field: 'place',
  message: `${target} is on a disk, or in a folder, that is not there now. Connect the disk or make the folder, or choose another place.`,
});

const takenName = (outputId: string): string => `${outputId}.taken`;

/** The mark of what stands at a path; a link is its own. */
const markAt = async (path: string): Promise<string | null> => {
  const found = await lstat(path, { bigint: true }).catch(() => null);
  return found && markOf(found);
};

/** Files that are looked at in one go. */
const AT_ONCE = 200;

/** The marks of many files of a folder: one after the other, with pauses, which takes a tenth of the time of asking for all of them at once. */
async function marksOf(folder: string, names: readonly string[]): Promise<Map<string, string>> {
  const marks = new Map<string, string>();
  for (const [at, name] of names.entries()) {
    if (at % AT_ONCE === AT_ONCE - 1) await new Promise((resolve) => setImmediate(resolve));
    try {
      const found = lstatSync(join(folder, name), { bigint: true, throwIfNoEntry: false });
      if (found) marks.set(name, markOf(found));
    } catch {
      marks.set(name, ''); // it is there, and nobody may look at it
    }
  }
  return marks;
}

/** Takes a file from a path to another, by its name where that is the same disk; only while it is what it is expected to be. */
async function takeFile(path: string, to: string, content: string): Promise<boolean> {
  const opened = await openOnce(path).catch(() => null);
  if (!opened) return false;
  const { file, opened: found } = opened;
  try {
    if ((await found.sha256()) !== content) return false;
    const before = await markAt(path);
    if (!before || !isSameBody(before, found.mark)) return false;
    try {
      await rename(path, to);
      const taken = await markAt(to);
      if (taken && isSameBody(taken, found.mark)) return true;
      // Another was put there in this very moment: it goes back.
      await putFile(to, path, { mayReplace: () => false });
      return false;
    } catch (error) {
      if (codeOf(error) !== 'EXDEV') throw error;
      await copyFile(await found.path(), `${to}.part`);
      if ((await sha256Of(`${to}.part`)) !== content) return false;
      await flush(`${to}.part`);
      await rename(`${to}.part`, to);
      await rm(path);
    }
    return true;
  } finally {
    await file.close();
  }
}

interface Unfinished {
  path: string;
  outputId: string;
  attempt: number;
}

/** ExifTool works on a file beside the one that it was given, so that what counts is how a name begins. */
async function unfinishedIn(folder: string): Promise<Unfinished[]> {
  const names = await readdir(folder).catch((): string[] => []);
  return names.flatMap((name) => {
    const [, outputId, attempt] = /^([0-9a-f-]{36})\.(\d+)\D/.exec(name) ?? [];
    return outputId === undefined ? [] : [{ path: join(folder, name), outputId, attempt: Number(attempt) }];
  });
}

/** A folder that may not be used is one in which there is nothing. */
const unlessProblem = (error: unknown): null => {
  if (error instanceof ProblemError || ['ENOENT', 'ENOTDIR'].includes(codeOf(error))) return null;
  throw error;
};

/** A file is only replaced when its content, now, is what was made there. @throws ProblemError `not-ours` */
function isOnRecord(fileName: string, content: string | null, onRecord: readonly string[]): boolean {
  if (content === null || onRecord.includes(content)) return true;
  throw new ProblemError(notOurs(fileName));
}

const notOurs = (file: string): Problem => ({
  code: 'not-ours',
  file,
  message: `${file} has been changed since it was made here, so it stays. Run again: the output then gets another name.`,
});
