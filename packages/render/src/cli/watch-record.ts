import { appendFileSync, existsSync, mkdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { jsonOrNull, type KnownFile, type MadeWithContent } from '@rundle/core';
import type { SeenFile } from '@rundle/watch';
import * as z from 'zod';

/** The file in a target folder that remembers which files of a watched folder were seen, and what was made of them. */
const FILE = '.rundle-watch.jsonl';

const Seen = z.object({
  path: z.string(),
  bytes: z.number(),
  mtimeMs: z.number(),
  sha256: z.string().nullable(),
  /** The day on which it was taken, `2026-05-14`; null: it was not. */
  day: z.string().nullable(),
  /** Whether it is the same as another that was there; what an earlier release wrote down never is. */
  isTwin: z.boolean().default(false),
});
type Seen = z.infer<typeof Seen>;
/** What was taken and has been made, so far as it can be. */
const Settled = z.object({ settled: z.string(), sha256: z.string() });
const Made = z.object({ made: z.string(), sha256: z.string(), isCopy: z.boolean() });

/** Remembers from one call to the next what became of the files of a watched folder: a line each, appended as it comes. */
export class WatchRecord {
  private readonly seen: Seen[] = [];
  private readonly byPath = new Map<string, Seen[]>();
  private readonly made = new Map<string, MadeWithContent[]>();
  private readonly settled = new Set<string>();
  private readonly file: string;
  /** Whether the folder was watched before: then what came meanwhile is taken. */
  readonly isOld: boolean;

  constructor(private readonly target: string) {
    this.file = join(target, FILE);
    this.isOld = existsSync(this.file);
    for (const line of this.isOld ? readFileSync(this.file, 'utf8').split('\n') : []) this.take(jsonOrNull(line));
  }

  knownAt(path: string): readonly KnownFile[] {
    return this.byPath.get(path) ?? [];
  }

  /** Files that were taken or left with some content, at other paths. */
  elsewhere(path: string, sha256: string): string[] {
    return [...new Set(this.seen.flatMap((file) => (file.sha256 === sha256 && file.path !== path && !file.isTwin ? [file.path] : [])))];
  }

  isTwin(path: string, sha256: string): boolean {
    return (this.byPath.get(path) ?? []).some((file) => file.sha256 === sha256 && file.isTwin);
  }

  madeWith(sha256: string): readonly MadeWithContent[] {
    return this.made.get(sha256) ?? [];
  }

  /** The files that were taken on a day, each once, in the order in which they came first. */
  takenOn(day: string): string[] {
    return [...new Set(this.seen.flatMap((file) => (file.day === day ? [file.path] : [])))];
  }

  /** Whether a file was taken and its outputs not all made: the program was ended meanwhile. */
  isOpen(path: string, sha256?: string): boolean {
    const taken = (this.byPath.get(path) ?? []).filter((file) => file.day !== null && file.sha256 !== null);
    return taken.some((file) => (sha256 === undefined || file.sha256 === sha256) && !this.settled.has(keyOf(path, file.sha256 ?? '')));
  }

  settle(path: string, sha256: string): void {
    this.append({ settled: path, sha256 });
  }

  /** @param sha256 null where it was not read; @param day null where it was not taken */
  keep(file: SeenFile, sha256: string | null, day: string | null, isTwin = false): void {
    const { path, bytes, mtimeMs } = file;
    this.append({ path, bytes, mtimeMs, sha256, day, isTwin });
  }

  keepMade(path: string, sha256: string, isCopy: boolean): void {
    this.append({ made: path, sha256, isCopy });
  }

  private append(line: z.infer<typeof Seen> | z.infer<typeof Made> | z.infer<typeof Settled>): void {
    this.take(line);
    mkdirSync(this.target, { recursive: true });
    appendFileSync(this.file, `${JSON.stringify(line)}\n`);
  }

  private take(line: unknown): void {
    const made = Made.safeParse(line);
    if (made.success) {
      const { made: path, sha256, isCopy } = made.data;
      this.made.set(sha256, [...this.madeWith(sha256), { path, isCopy }]);
      return;
    }
    const settled = Settled.safeParse(line);
    if (settled.success) {
      this.settled.add(keyOf(settled.data.settled, settled.data.sha256));
      return;
    }
    const seen = Seen.safeParse(line);
    if (!seen.success) return; // cut off: the file is looked at once more
    this.seen.push(seen.data);
    this.byPath.set(seen.data.path, [...(this.byPath.get(seen.data.path) ?? []), seen.data]);
  }
}

const keyOf = (path: string, sha256: string): string => `${sha256} ${path}`;
