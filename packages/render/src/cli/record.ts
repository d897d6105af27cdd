import { createHash } from 'node:crypto';
import { appendFileSync, existsSync, mkdirSync, readFileSync, renameSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { jsonOrNull, MasterFacts } from '@rundle/core';
import * as z from 'zod';

/** The file in a target folder that remembers what was made there, and of what. */
const FILE = '.rundle-record.jsonl';

/** What tells a file that was changed from one that was not, without reading it. */
const Stamp = z.object({ bytes: z.number(), mtimeMs: z.number() });
type Stamp = z.infer<typeof Stamp>;

const Line = z.union([
  z.object({ master: z.string(), stamp: Stamp, facts: MasterFacts, page: z.int().optional() }),
  z.object({ output: z.string(), stamp: Stamp, recipe: z.string() }),
]);
type Line = z.infer<typeof Line>;

/**
 * Remembers the facts of masters and the recipes of outputs of a target folder from one call to the next. Each entry is a
 * line that is appended as it comes, so that a call that is cut off loses at most its last line.
 */
export class TargetRecord {
  private readonly masters = new Map<string, { stamp: Stamp; facts: MasterFacts; page?: number | undefined }>();
  private readonly outputs = new Map<string, { stamp: Stamp; recipe: string }>();
  private readonly file: string;

  /** @param writes false: nothing is ever written, as for `plan` */
  constructor(
    private readonly target: string,
    private readonly writes: boolean,
  ) {
    this.file = join(target, FILE);
    const lines = existsSync(this.file) ? readFileSync(this.file, 'utf8').split('\n').filter(Boolean) : [];
    for (const line of lines) this.take(line);
    if (writes && lines.length > 2 * (this.masters.size + this.outputs.size) + 100) this.compact();
  }

  /**
   * The facts of a master that has not changed since they were read; null: they have to be read.
   * @param page which one of a file with several, from 2; null: the first
   */
  factsOf(path: string, page: number | null): MasterFacts | null {
    const known = this.masters.get(path);
    return known && (known.page ?? null) === page && same(known.stamp, stampOf(path)) ? known.facts : null;
  }

  keepFacts(path: string, page: number | null, facts: MasterFacts): void {
    const stamp = stampOf(path);
    if (stamp) this.append({ master: path, stamp, facts, ...(page === null ? {} : { page }) });
  }

  /** Stands for a master's content in a recipe. */
  identity(path: string): string {
    const stamp = stampOf(path);
    return stamp ? `${stamp.bytes} ${stamp.mtimeMs}` : 'missing';
  }

  /** Whether the output at a path of the target was made by this recipe and has not been touched since. */
  holds(path: string, recipe: string): boolean {
    const known = this.outputs.get(path);
    return known?.recipe === hashOf(recipe) && this.isOurs(path);
  }

  /** Whether what stands at a path of the target was made here and has not been touched since. */
  isOurs(path: string): boolean {
    const known = this.outputs.get(path);
    return known !== undefined && same(known.stamp, stampOf(join(this.target, path)));
  }

  /**
   * To be called before a finished file is moved into its place, which changes neither its weight nor its time: if the call is
   * cut off between the two, the file is known all the same.
   * @param path where it will be, below the target
   * @param finished where it is now
   */
  keepOutput(path: string, recipe: string, finished: string): void {
    const stamp = stampOf(finished);
    if (stamp) this.append({ output: path, stamp, recipe: hashOf(recipe) });
  }

  /** Outputs get other names below the target, all at once: two may swap theirs. */
  renameAll(steps: readonly { from: string; to: string }[]): void {
    const known = steps.map(({ from, to }) => ({ to, entry: this.outputs.get(from) }));
    for (const { to, entry } of known) {
      if (!entry) continue;
      this.outputs.set(to, entry);
      this.append({ output: to, stamp: entry.stamp, recipe: entry.recipe });
    }
  }

  private take(line: string): void {
    const parsed = Line.safeParse(jsonOrNull(line));
    if (!parsed.success) return; // cut off, or written by another version: then the file is just made again
    if ('master' in parsed.data) this.masters.set(parsed.data.master, parsed.data);
    else this.outputs.set(parsed.data.output, parsed.data);
  }

  private append(line: Line): void {
    if (!this.writes) return;
    try {
      mkdirSync(this.target, { recursive: true });
      appendFileSync(this.file, `${JSON.stringify(line)}\n`);
    } catch {
      // A folder that cannot be written to is told by its outputs; without a record everything is made again.
    }
  }

  /** Writes each entry once, aside and then in one step. */
  private compact(): void {
    const lines: Line[] = [
      ...[...this.masters].map(([master, entry]) => ({ master, ...entry })),
      ...[...this.outputs].map(([output, entry]) => ({ output, ...entry })),
    ];
    try {
      writeFileSync(`${this.file}.new`, lines.map((line) => `${JSON.stringify(line)}\n`).join(''));
      renameSync(`${this.file}.new`, this.file);
    } catch {
      // The uncompacted record is still valid.
    }
  }
}

function stampOf(path: string): Stamp | null {
  const stat = statSync(path, { throwIfNoEntry: false });
  return stat ? { bytes: stat.size, mtimeMs: stat.mtimeMs } : null;
}

const same = (a: Stamp, b: Stamp | null): boolean => b !== null && a.bytes === b.bytes && a.mtimeMs === b.mtimeMs;

const hashOf = (text: string): string => createHash('sha256').update(text).digest('hex');
