import { stat, statfs } from 'node:fs/promises';
import { basename } from 'node:path';
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
  /** How often what was told is held against what is there, in ms. */
  again?: number;
}

/** How long a file has to keep its size before it counts as finished, in ms, and how often its size is looked at: writers pause for less. */
const STEADY_MS = 1500;
const LOOK_MS = 200;
/** How often a folder is looked through that has to be, in ms. */
const POLLING_MS = 2000;
/** How often, in ms, files are looked at that nothing was heard of: events get lost where a queue overflows or a disk is far away. */
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
  /** Files that were another than was told when they were looked at again: they may just be written. */
  private readonly changed = new Map<string, SeenFile>();
  private readonly looking: ReturnType<typeof setInterval>;

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
      seenNow(path).then((seen) => seen && this.tell(seen, onFile), onError);
    };
    // One look at a time: on a slow disk the next would take what the one before has just seen for two looks.
    let isLooking = false;
    const look = async () => {
      if (isLooking) return;
      isLooking = true;
      await this.lookAgain(onFile).catch(onError);
      isLooking = false;
    };
    this.looking = setInterval(() => void look(), again);
    this.looking.unref();
    this.watcher.on('add', tell).on('change', tell).on('error', onError);
    this.begun = new Promise((resolve) => this.watcher.once('ready', () => resolve()));
  }

  private tell(seen: SeenFile, onFile: WatchOptions['onFile']): void {
    this.told.set(seen.path, seen);
    this.changed.delete(seen.path);
    onFile(seen);
  }

  /** Tells of files that have changed without a word, once they are the same at two looks. */
  private async lookAgain(onFile: WatchOptions['onFile']): Promise<void> {
    for (const [path, told] of this.told) {
      const now = await seenNow(path);
      if (this.watcher.closed) return;
      if (!now) this.told.delete(path);
      if (!now || isSame(now, told)) this.changed.delete(path);
      else if (isSame(now, this.changed.get(path))) this.tell(now, onFile);
      else this.changed.set(path, now);
    }
  }

  /** Ends it; nothing is told any more. */
  async close(): Promise<void> {
    clearInterval(this.looking);
    await this.watcher.close();
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
