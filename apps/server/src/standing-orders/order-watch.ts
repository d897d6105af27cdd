import { basename } from 'node:path';
import { fateOf, isUnchanged, isUnread, type KnownFile, naturally, type Problem } from '@rundle/core';
import { isDatabaseAway, type StandingOrderRow } from '@rundle/store';
import { FolderWatch, isRemote, type SeenFile, seenNow } from '@rundle/watch';
import { lookInto } from '../machine/folders';
import type { Services } from '../services';
import { followFile, keepFates, knownFiles, leftTwins, madeWith, type RestedFile, sameElsewhere, takeFiles } from './take-files';

/** Files that are gathered at a time. */
const PART = 100;
/** After so long those that have been looked at are gathered, ms. */
const GATHERED_AFTER_MS = 2000;
/** How long after the last file has come to rest it is waited for another, in ms: what is copied together is gathered together. */
const TOGETHER_MS = 500;

/** After so long a file that could not be read is tried again, in ms. */
const AGAIN_MS = 60_000;
const NOT_WHOLE = 'It is not whole, or damaged. It is taken as soon as the rest of it has come.';
/** How often it is looked whether what was told as a twin is the only one by now, ms. */
const TWINS_MS = 20_000;
const NOT_READ = 'It cannot be read at present. Allow Rundle to read it; it is tried again every minute.';

/** Follows the folder of one standing order, and gathers what comes to rest there. */
export class OrderWatch {
  private readonly waiting = new Map<string, SeenFile>();
  /** What lay there before and has not been read. */
  private readonly unread = new Map<string, SeenFile>();
  /** What could not be read, and when it is looked at again, in ms: nobody says so when it can be. */
  private readonly unreadable = new Map<string, { file: SeenFile; at: number }>();
  private cameLast = 0;
  private twinsLast = 0;
  private working: Promise<void> | null = null;
  private closed = false;
  private folder: FolderWatch | null = null;

  private constructor(
    private readonly services: Services,
    private readonly order: StandingOrderRow,
    /** Of the folder that is followed: another one may come to stand at its place. */
    readonly identity: string,
    private readonly known: Map<string, KnownFile[]>,
  ) {}

  /** Begins to follow the folder of an order, as it stands now. */
  static async start(services: Services, order: StandingOrderRow, identity: string): Promise<OrderWatch> {
    const watch = new OrderWatch(services, order, identity, await knownFiles(services.database, order.id));
    const { folder, deeper } = order;
    watch.folder = new FolderWatch({
      folder,
      deeper,
      polling: await isRemote(folder),
      onFile: (file) => watch.came(file),
      onError: (error) => services.log.warn({ err: error, order: order.id }, 'a part of a watched folder cannot be followed'),
    });
    return watch;
  }

  private came(file: SeenFile): void {
    const known = this.known.get(file.path) ?? [];
    if (isUnchanged(file, known)) return;
    if (isUnread(file, known)) {
      this.unread.set(file.path, file);
      return;
    }
    this.waiting.set(file.path, file);
    this.cameLast = Date.now();
  }

  /**
   * Gathers what has come to rest, unless that is being done; where nothing has, reads one of the files that lay there before. To be called again
   * and again.
   */
  turn(): void {
    if (this.working || Date.now() - this.cameLast < TOGETHER_MS) return;
    for (const [path, { file, at }] of this.unreadable)
      if (Date.now() > at) {
        this.unreadable.delete(path);
        if (!this.waiting.has(path)) this.waiting.set(path, file);
      }
    const [next] = this.unread.values();
    const looksAtTwins = this.waiting.size === 0 && Date.now() - this.twinsLast > TWINS_MS;
    if (this.waiting.size === 0 && !next && !looksAtTwins) return;
    this.working = (looksAtTwins ? this.followTwins() : this.waiting.size > 0 || !next ? this.gather() : this.learn(next))
      .catch((error: unknown) => {
        const { log } = this.services;
        log[isDatabaseAway(error) ? 'warn' : 'error']({ err: error, order: this.order.id }, 'gathering failed; it is tried again');
      })
      .finally(() => (this.working = null));
  }

  /** A file stays in the list until it is on record what became of it, so that nothing is lost when the database is away. */
  private async gather(): Promise<void> {
    // What is copied together comes to rest in any order; in a set it stands as in its folder.
    const part = [...this.waiting.values()].sort((a, b) => naturally(a.path, b.path)).slice(0, PART);
    const taken = new Map<string, RestedFile>();
    const begun = Date.now();
    for (const file of part) {
      if (this.closed) return;
      // Each is decoded once: what has been found by now need not wait for all.
      if (taken.size > 0 && Date.now() - begun > GATHERED_AFTER_MS) break;
      const rested = await this.decided(file);
      // Of two that come together and are the same, the other is looked at when the first is on record.
      if (rested && !taken.has(rested.sha256)) taken.set(rested.sha256, rested);
    }
    if (taken.size === 0) return;
    const all = [...taken.values()];
    const later = new Set(await takeFiles(this.services.database, this.order, all));
    for (const file of all.filter((one) => !later.has(one))) this.settled(file);
  }

  private async followTwins(): Promise<void> {
    this.twinsLast = Date.now();
    for (const { file, other } of await leftTwins(this.services.database, this.order.id)) await this.follow(file, [other]);
  }

  private async follow(file: RestedFile, from: readonly string[]): Promise<void> {
    await followFile(this.services.database, this.order.id, file);
    // It may come back: then it has to be followed once more.
    for (const path of from) this.known.delete(path);
  }

  private async learn(file: SeenFile): Promise<void> {
    this.unread.delete(file.path);
    await this.decided(file);
  }

  /** What a file is. @returns it with its content when it is to be taken; null: nothing more is to be done about it */
  private async decided(file: SeenFile): Promise<RestedFile | null> {
    const { config, database, files } = this.services;
    const looked = await lookInto(file.path, config.roots, files.masters);
    // It cannot be opened: because it has gone, or because it may not be read.
    if ('code' in looked && looked.code === 'missing') return this.notRead(file);
    if ('code' in looked) return this.refused(file, looked);
    const sha256 = await this.contentOf(file);
    if (sha256 === 'not read') return this.notRead(file);
    // It is being written again, or has gone: when it comes to rest, that is told.
    if (sha256 === null) return this.forget(file);
    const rested = { ...file, sha256 };
    const [made, same] = [await madeWith(database, files, sha256), await sameElsewhere(database, this.order.id, rested)];
    const fate = fateOf(rested, this.known.get(file.path) ?? [], made, same);
    if (fate === 'taken') {
      const problem = await this.services.samplers.wholeProblem(file.path);
      return problem?.code === 'damaged' ? this.refused(file, { ...problem, file: basename(file.path), message: NOT_WHOLE }) : rested;
    }
    if (fate === 'moved')
      await this.follow(
        rested,
        same.map(({ path }) => path),
      );
    else if (fate !== 'known') await keepFates(database, this.order.id, [{ ...rested, fate, problem: null }]);
    this.settled(rested);
    return null;
  }

  private async contentOf(file: SeenFile): Promise<string | null> {
    try {
      const { bytes } = await this.services.threads.ask({ kind: 'content', file });
      return JSON.parse(new TextDecoder().decode(bytes)) as string | null;
    } catch (error) {
      this.services.log.warn({ err: error, path: file.path }, 'a file of a watched folder could not be read');
      return 'not read';
    }
  }

  private async refused(file: SeenFile, problem: Problem): Promise<null> {
    await keepFates(this.services.database, this.order.id, [{ ...file, sha256: null, fate: 'refused', problem }]);
    return this.forget(file);
  }

  /** One that has gone since is nothing to be told; one that is still there is tried again. */
  private async notRead(file: SeenFile): Promise<null> {
    const now = await seenNow(file.path);
    if (!now) return this.forget(file);
    this.unreadable.set(file.path, { file: now, at: Date.now() + AGAIN_MS });
    return this.refused(file, { code: 'no-permission', file: basename(file.path), message: NOT_READ });
  }

  private settled(file: RestedFile): void {
    this.known.set(file.path, [...(this.known.get(file.path) ?? []), file]);
    this.forget(file);
  }

  private forget(file: SeenFile): null {
    // Unless it has changed meanwhile and come to rest again.
    const waiting = this.waiting.get(file.path);
    if (waiting?.bytes === file.bytes && waiting.mtimeMs === file.mtimeMs) this.waiting.delete(file.path);
    return null;
  }

  /** Ends it, after what is being gathered. */
  async close(): Promise<void> {
    this.closed = true;
    await this.folder?.close();
    await this.working;
  }
}
