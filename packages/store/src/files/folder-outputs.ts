import { constants } from 'node:fs';
import { access, link, mkdir, readdir, realpath, rename, rm, rmdir, stat, statfs } from 'node:fs/promises';
import { dirname, isAbsolute, join, sep } from 'node:path';
import { type Problem, ProblemError, writeProblem } from '@rundle/core';
import { codeOf, flush, openOnce, sha256Of } from './opened';
import { AttemptOver, type FinishedFile, type OpenFile, type OutputPlace, type Outputs } from './outputs';

/** Files that are not finished lie here, on the disk of the outputs, so that they get into their place by a new name alone. */
const UNFINISHED = '.unfinished';
/** The same in a folder of the machine, where its owner should know what it is. */
const UNFINISHED_ELSEWHERE = '.rundle-unfinished';

/** What lay in a folder at a look. */
interface Look {
  /** Time of change of the folder itself, ms: another one when something has come, gone or got another name. */
  mtimeMs: number;
  at: number;
  files: ReadonlyMap<string, number>;
}

/** Folders whose last look is kept. */
const MOST_LOOKS = 2000;

/** Outputs in folders that people can open. Files follow the umask, so that others can be given access. */
export class FolderOutputs implements Outputs {
  private readonly looks = new Map<string, Look>();

  /**
   * @param root folder of Rundle's own targets
   * @param writeRoots folders of the machine below which outputs may go, absolute
   */
  constructor(
    readonly root: string,
    private readonly writeRoots: readonly string[] = [],
  ) {}

  async workFile(target: string, outputId: string, attempt: number, extension: string): Promise<string> {
    const refused = await this.refusal(target);
    if (refused) throw new ProblemError(refused);
    const unfinished = this.unfinishedOf(target);
    await mkdir(unfinished, { recursive: true }).catch(async (error: unknown) => {
      throw writeProblem(await this.trueReason(error, target), 'The output');
    });
    return join(unfinished, `${outputId}.${attempt}${extension}`);
  }

  async commit({ path, content }: FinishedFile, place: OutputPlace, replaces: boolean, onRecord: readonly string[] = []): Promise<void> {
    const to = this.fileAt(place);
    if (await this.holds(place, content)) return rm(path, { force: true });
    try {
      await mkdir(dirname(to), { recursive: true });
      await flush(path);
      if (replaces) await this.exchange(path, to, place, onRecord);
      else await link(path, to);
      await flush(dirname(to));
    } catch (error) {
      // A newer attempt may have put the same content there since we looked.
      if (codeOf(error) === 'EEXIST' && (await this.holds(place, content))) return rm(path, { force: true });
      if (codeOf(error) === 'ENOENT' && !(await stat(path).catch(() => null))) throw new AttemptOver();
      if (error instanceof ProblemError) throw error;
      throw writeProblem(await this.trueReason(error, place.target), place.fileName);
    }
    if (!replaces) await rm(path, { force: true });
  }

  /** Outside Rundle's own tree a file is only replaced when its content, now, is what was made there. */
  private async exchange(path: string, to: string, { target, fileName }: OutputPlace, onRecord: readonly string[]): Promise<void> {
    const there = isAbsolute(target) ? await sha256Of(to).catch(() => null) : null;
    if (there !== null && !onRecord.includes(there)) throw new ProblemError(notOurs(fileName));
    await rename(path, to);
  }

  async holds(place: OutputPlace, content: string): Promise<boolean> {
    const path = this.fileAt(place);
    const there = await stat(path).catch(() => null);
    return there !== null && there.isFile() && (await sha256Of(path).catch(() => '')) === content;
  }

  async dropOlder(outputs: readonly { id: string; target: string }[], attempt: number): Promise<void> {
    const wanted = new Set(outputs.map(({ id }) => id));
    for (const folder of new Set(outputs.map(({ target }) => this.unfinishedOf(target))))
      for (const { path, outputId, attempt: other } of await unfinishedIn(folder))
        if (wanted.has(outputId) && other < attempt) await rm(path, { force: true });
  }

  async sweep(targets: readonly string[], isOpen: (outputIds: readonly string[]) => Promise<ReadonlySet<string>>): Promise<number> {
    const folders = [...new Set([this.unfinishedOf(''), ...targets.map((target) => this.unfinishedOf(target))])];
    const files = (await Promise.all(folders.map(unfinishedIn))).flat();
    const open = files.length ? await isOpen([...new Set(files.map(({ outputId }) => outputId))]) : new Set<string>();
    const over = files.filter(({ outputId, attempt }) => !open.has(`${outputId}.${attempt}`));
    for (const { path } of over) await rm(path, { force: true });
    return over.length;
  }

  async tidy(targets: readonly string[]): Promise<void> {
    for (const target of targets) if (isAbsolute(target)) await rmdir(this.unfinishedOf(target)).catch(() => {});
  }

  async standing(target: string, folders: readonly string[], since = 0): Promise<Map<string, number>> {
    const found = new Map<string, number>();
    for (const folder of new Set(folders))
      for (const [name, bytes] of await this.look(join(this.folderOf(target), folder), since))
        found.set(folder ? `${folder}/${name}` : name, bytes);
    return found;
  }

  private async look(folder: string, since: number): Promise<ReadonlyMap<string, number>> {
    const mtimeMs = (await stat(folder).catch(() => null))?.mtimeMs ?? 0; // 0: none has been made yet
    const known = this.looks.get(folder);
    if (known?.mtimeMs === mtimeMs && Date.now() - known.at < since) return known.files;
    const at = Date.now();
    const entries = await readdir(folder, { withFileTypes: true }).catch((error: unknown) => {
      if (['ENOENT', 'ENOTDIR'].includes(codeOf(error))) return [];
      throw error;
    });
    const names = entries.filter((entry) => !entry.isDirectory()).map(({ name }) => name);
    const sized = await Promise.all(
      names.map(async (name) => [name, (await stat(join(folder, name)).catch(() => null))?.size ?? 0] as const),
    );
    const files = new Map(sized);
    this.looks.delete(folder);
    this.looks.set(folder, { mtimeMs, at, files });
    for (const oldest of this.looks.keys()) {
      if (this.looks.size <= MOST_LOOKS) break;
      this.looks.delete(oldest);
    }
    return files;
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
    return this.folderOf(target);
  }

  async freeBytes(target = ''): Promise<number | null> {
    const there = await nearest(this.folderOf(target));
    const { bavail, bsize } = await statfs(there).catch(() => ({ bavail: null, bsize: 0 }));
    return bavail === null ? null : bavail * bsize;
  }

  async refusal(target: string): Promise<Problem | null> {
    if (!isAbsolute(target)) return null;
    // By the true path: a link below a folder that is allowed may lead out of it.
    const real = await realpath(await nearest(target)).catch(() => null);
    const roots = await Promise.all(this.writeRoots.map((root) => realpath(root).catch(() => root)));
    const allowed = real !== null && roots.some((root) => real === root || real.startsWith(root.endsWith(sep) ? root : root + sep));
    return allowed ? null : notAllowed(target);
  }

  /** Node tells a folder that cannot be made on a read-only disk as one that is missing. */
  private async trueReason(error: unknown, target: string): Promise<unknown> {
    if (codeOf(error) !== 'ENOENT') return error;
    return access(isAbsolute(target) ? await nearest(target) : this.root, constants.W_OK).then(
      () => error,
      (reason: unknown) => reason,
    );
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

/** The folder itself, or the nearest one above it that is there. */
async function nearest(folder: string): Promise<string> {
  for (let at = folder; ; at = dirname(at)) if (dirname(at) === at || (await stat(at).catch(() => null))?.isDirectory()) return at;
}

/** ExifTool works on a file beside the one that it was given, so that what counts is how a name begins. */
async function unfinishedIn(folder: string): Promise<{ path: string; outputId: string; attempt: number }[]> {
  const names = await readdir(folder).catch((): string[] => []);
  return names.flatMap((name) => {
    const [, outputId, attempt] = /^([0-9a-f-]{36})\.(\d+)\D/.exec(name) ?? [];
    return outputId === undefined ? [] : [{ path: join(folder, name), outputId, attempt: Number(attempt) }];
  });
}

const notOurs = (file: string): Problem => ({
  code: 'not-ours',
  file,
  message: `${file} has been changed since it was made here, so it stays. Run again: the output then gets another name.`,
});

const notAllowed = (target: string): Problem => ({
  code: 'not-written',
  field: 'place',
  message: `Rundle may not write to ${target}. Choose another place, or name the folder where Rundle is started (RUNDLE_WRITE_ROOTS).`,
});
