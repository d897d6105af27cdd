import type { WorkerStats } from '@rundle/store';
import * as z from 'zod';

/** Over how long the pace of a worker is told, in ms. */
const PACE_OVER = 300_000;

/** How long it is made files for at least until a pace is told as that of a minute, in ms. */
const PACE_FROM = 20_000;

/** Files of which it is handed on when they were made: it goes by the environment, which holds 128 KiB of one variable (execve(2)). */
const MOST_HANDED_ON = 2000;

/** What one worker hands on to the one that takes its place to give memory back. */
const Earlier = z.object({ since: z.number(), done: z.int(), failed: z.int(), ends: z.array(z.number()) });

/** What this worker, and those whose place it took, have done, and what of that has not been told yet. */
export class Tally {
  private readonly untold = new Map<string, number>();
  /** When the last files were made, in ms since 1970. */
  private ends: number[];
  private readonly since: number;
  private done: number;
  private failed: number;
  private busySince: number | null = null;

  /** @param earlier what {@link handedOn} gave, as JSON; undefined: nobody was before */
  constructor(earlier: string | undefined) {
    const before = earlier === undefined ? { since: Date.now(), done: 0, failed: 0, ends: [] } : Earlier.parse(JSON.parse(earlier));
    ({ since: this.since, done: this.done, failed: this.failed, ends: this.ends } = before);
  }

  handedOn(): z.infer<typeof Earlier> {
    const { since, done, failed, ends } = this;
    return { since, done, failed, ends: ends.slice(-MOST_HANDED_ON) };
  }

  begin(): void {
    this.busySince = Date.now();
  }

  end(work: string): void {
    this.busySince = null;
    this.add(`work ${work}`, 1);
  }

  /** @param bytes of the file that was made */
  made(bytes: number): void {
    this.done++;
    this.ends.push(Date.now());
    this.add('done', 1);
    this.add('bytes', bytes);
  }

  couldNot(): void {
    this.failed++;
    this.add('failed', 1);
  }

  /** @param seconds that a stage of a file took */
  stage(name: string, seconds: number): void {
    this.add(`seconds ${name}`, seconds);
  }

  stats(): WorkerStats {
    const now = Date.now();
    this.ends = this.ends.filter((end) => end > now - PACE_OVER);
    const minutes = Math.max(PACE_FROM, Math.min(PACE_OVER, now - this.since)) / 60_000;
    return {
      since: this.since,
      done: this.done,
      failed: this.failed,
      perMinute: this.ends.length / minutes,
      busyMs: this.busySince === null ? null : now - this.busySince,
      memoryBytes: process.memoryUsage.rss(),
    };
  }

  /** What has not been told yet; {@link told} is called once it has been. */
  open(): Record<string, number> {
    return Object.fromEntries(this.untold);
  }

  told(values: Readonly<Record<string, number>>): void {
    for (const [name, value] of Object.entries(values)) {
      const left = (this.untold.get(name) ?? 0) - value;
      if (left === 0) this.untold.delete(name);
      else this.untold.set(name, left);
    }
  }

  private add(name: string, value: number): void {
    this.untold.set(name, (this.untold.get(name) ?? 0) + value);
  }
}
