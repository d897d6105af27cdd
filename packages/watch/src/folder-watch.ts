import { readdir, stat, statfs } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { isPictureName, isSystemFile } from '@rundle/core';
import { type FSWatcher, watch } from 'chokidar';
import { type SeenFile, seenNow } from './content';

export interface WatchOptions {
  folder: string;
  /** Whether sub-folders are watched as well. */
  deeper: boolean;
  /** Whether the folder is looked through again and again, since its file system does not tell of changes. */
  polling: boolean;
  /** A picture has come to rest: it was there, has come, or has changed. It may be one that is known. */
  onFile: (file: SeenFile) => void;
  /** Something could not be watched; the rest goes on. */
  onError: (error: unknown) => void;
  /** How often what was told is held against what is there, in ms; sooner while there is something that was not told. */
  again?: number;
}

/** How long a file has to keep its size before it counts as finished, in ms, and how often its size is looked at: writers pause for less. */
const STEADY_MS = 1500;
const LOOK_MS = 200;
/** How often a folder is looked through that has to be, in ms. */
const POLLING_MS = 2000;
/**
 * How often, in ms, files are looked at that nothing was heard of: events get lost where a queue overflows, a disk is far away, or a file came
 * between the first look into a folder and the moment from which its changes are told.
 */
const AGAIN_MS = 30_000;
/** How deep sub-folders are followed. */
const DEEPEST = 12;

/** Follows a folder, and tells of each picture in it that is not being written (any more). */
export class FolderWatch {
  private readonly watcher: FSWatcher;
  /** Settled when all that lay there at the beginning has been come upon; what is still growing is told later. */
  readonly begun: Promise<void>;
  /** Files as they were told last. */
  private readonly told = new Map<string, SeenFile>();
  /** Files that were another than was told when they were looked at again, or are new: they may just be written. */
  private changed = new Map<string, SeenFile>();
  /** Files that were told without being heard of, as yet. */
  private readonly found = new Set<string>();
  private looking: ReturnType<typeof setTimeout> | null = null;

  constructor({ folder, deeper, polling, onFile, onError, again = AGAIN_MS }: WatchOptions) {
    this.watcher = watch(folder, {
      depth: deeper ? DEEPEST : 0,
      usePolling: polling,
      interval: POLLING_MS,
      binaryInterval: POLLING_MS,
      // A link out of the folder would bring in what nobody put there.
      followSymlinks: false,
      awaitWriteFinish: { stabilityThreshold: STEADY_MS, pollInterval: LOOK_MS },
      ignored: (path, stats) => path !== folder && (isSystemFile(basename(path)) || (stats?.isFile() === true && !isPictureName(path))),
    });
    const tell = (path: string) => {
      if (!isPictureName(path)) return;
      // As it is now: what the watcher saw may be older.
      seenNow(path).then((seen) => seen && this.heard(seen, onFile), onError);
    };
    // One look after the other: on a slow disk the next would take what the one before has just seen for two looks.
    const look = async () => {
      await this.lookAgain(folder, deeper ? DEEPEST : 0, onFile).catch(onError);
      if (!this.watcher.closed)
        this.looking = setTimeout(() => void look(), this.changed.size ? Math.min(STEADY_MS, again) : again).unref();
    };
    this.watcher.on('add', tell).on('change', tell).on('error', onError);
    this.begun = new Promise((resolve) => this.watcher.once('ready', () => resolve()));
    void this.begun.then(look);
  }

  /** Unless it was found at a look a moment before. */
  private heard(seen: SeenFile, onFile: WatchOptions['onFile']): void {
    if (!this.found.delete(seen.path) || !isSame(seen, this.told.get(seen.path))) this.tell(seen, onFile);
  }

  private tell(seen: SeenFile, onFile: WatchOptions['onFile']): void {
    this.told.set(seen.path, seen);
    this.changed.delete(seen.path);
    onFile(seen);
  }

  /** Tells of files that have come or changed without a word, once they are the same at two looks. */
  private async lookAgain(folder: string, depth: number, onFile: WatchOptions['onFile']): Promise<void> {
    const there = new Map<string, SeenFile>();
    for await (const seen of picturesIn(folder, depth)) {
      if (this.watcher.closed) return;
      there.set(seen.path, seen);
    }
    for (const path of this.told.keys())
      if (!there.has(path)) {
        this.told.delete(path);
        this.found.delete(path);
      }
    const before = this.changed;
    this.changed = new Map();
    for (const [path, now] of there)
      if (isSame(now, this.told.get(path))) continue;
      else if (isSame(now, before.get(path))) {
        this.found.add(path);
        this.tell(now, onFile);
      } else this.changed.set(path, now);
  }

  /** Ends it; nothing is told any more. */
  async close(): Promise<void> {
    const closing = this.watcher.close();
    if (this.looking) clearTimeout(this.looking);
    await closing;
  }
}

/** Pictures in a folder as they stand now, links left aside. A folder that cannot be read is passed over. */
async function* picturesIn(folder: string, depth: number): AsyncGenerator<SeenFile> {
  for (const entry of await readdir(folder, { withFileTypes: true }).catch(() => [])) {
    if (isSystemFile(entry.name)) continue;
    const path = join(folder, entry.name);
    if (entry.isDirectory() && depth > 0) yield* picturesIn(path, depth - 1);
    const seen = entry.isFile() && isPictureName(entry.name) ? await seenNow(path) : null;
    if (seen) yield seen;
  }
}

const isSame = (one: SeenFile, other: SeenFile | undefined): boolean => one.bytes === other?.bytes && one.mtimeMs === other.mtimeMs;

/**
 * File systems of other machines, which tell of no change that was made there, by the number that statfs(2) gives them: NFS, the three of SMB,
 * FUSE (sshfs, cloud disks), 9P, AFS, Ceph.
 */
const REMOTE = new Set([0x6969, 0x517b, 0xff534d42, 0xfe534d42, 0x65735546, 0x01021997, 0x5346414f, 0x00c36400]);

/** Whether a folder lies on a disk of another machine, as far as the system says. */
export async function isRemote(folder: string): Promise<boolean> {
  const { type } = await statfs(folder).catch(() => ({ type: 0 }));
  return REMOTE.has(type >>> 0);
}

/** What tells a folder from another that has come to stand at its place, such as that of a disk that was away for a while; null: none. */
export async function identityOf(folder: string): Promise<string | null> {
  const there = await stat(folder).catch(() => null);
  return there?.isDirectory() ? `${there.dev}:${there.ino}` : null;
}
