import { type ChildProcess, spawn } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import type { HandOverView } from '@rundle/core';
import { Application } from '../application';
import { LookingClock } from '../patience';
import { added, contentsOf, type Damage, damageOf, NO_DAMAGE } from './check';
import { ChangingSet } from './changing';
import { type Fault, faultBy, inflict } from './faults';
import { seeded } from './random';
import { fingerprint, makePictures, Studio } from './studio';

export interface StormOptions {
  seed: number;
  /** How many kills and pauses there are. */
  faults: number;
  pictures: number;
  longestPauseMs: number;
  /** Between the end of one fault and the next, in ms. */
  calmMs: number;
  /** After so long no further fault is inflicted, in ms, once there have been `leastFaults`. */
  mostMs: number;
  leastFaults: number;
  say: (line: string) => void;
}

export interface StormReport {
  runs: number;
  faults: (Fault & {
    busy: boolean;
    /** Until the next output was done, ms; null: there was nothing left to do. */ recoveredMs: number | null;
  })[];
  damage: Damage;
  mastersUntouched: boolean;
  /** Whether every run gave the same files, byte for byte. */
  sameFiles: boolean;
  /** Whether the set that was changed between its runs is what a fresh studio would make of it. */
  asFresh: boolean;
  seconds: number;
}

/** Pictures of the set that is changed between its runs. */
const CHANGING = 12;

/** Three programs that do nothing but keep the cores busy. */
const BUSY_LOOPS = 3;

/**
 * Kills and pauses parts of the whole application by chance while runs go on, half of the time on a busy machine, and counts the damage.
 */
export async function storm(options: StormOptions): Promise<StormReport> {
  const { seed, faults, pictures, longestPauseMs, calmMs, mostMs, leastFaults, say } = options;
  const random = seeded(seed);
  const machine = mkdtempSync(join(tmpdir(), 'rundle-storm-machine-'));
  await makePictures(machine, pictures);
  const before = fingerprint(machine);
  const fewer = mkdtempSync(join(tmpdir(), 'rundle-storm-changing-'));
  await makePictures(fewer, CHANGING);
  const application = await Application.start('', undefined, { RUNDLE_ROOTS: `${machine}:${fewer}`, RUNDLE_DURABLE: 'yes' });
  const studio = new Studio(application);
  const begun = Date.now();
  const report: StormReport = {
    runs: 0,
    faults: [],
    damage: NO_DAMAGE,
    mastersUntouched: false,
    sameFiles: true,
    asFresh: false,
    seconds: 0,
  };
  let loops: ChildProcess[] = [];
  try {
    const setId = await studio.setOf('Storm', machine, pictures);
    const changing = await ChangingSet.of(studio, fewer, CHANGING, application.data);
    let first: Map<string, string> | undefined;
    const over = () => {
      const { length } = report.faults;
      return length >= faults || (length >= leastFaults && Date.now() - begun > mostMs);
    };
    while (!over()) {
      const number = ++report.runs;
      const busy = number % 2 === 0;
      loops = busy ? Array.from({ length: BUSY_LOOPS }, () => spawn(process.execPath, ['-e', 'for (;;);'])) : [];
      const presetIds = await studio.presets(number);
      const runId = await studio.run(setId, presetIds);
      await changing.change(random);
      // It waits behind the other: both are hit.
      const changed = await changing.run();
      const progress = new Progress(studio, [runId, changed]);
      while (!progress.ended) {
        if (over()) {
          await wait(500);
          continue;
        }
        await wait(calmMs * (0.5 + random()));
        if (progress.ended) break;
        const fault = faultBy(random, longestPauseMs);
        if (!(await inflict(fault, application, random))) continue;
        const recoveredMs = await progress.next();
        report.faults.push({ ...fault, busy, recoveredMs });
        say(
          `${report.faults.length} of ${faults}: ${describeFault(fault)}${busy ? ', busy' : ''}; ${recoveredMs === null ? 'the run had ended' : `work went on after ${(recoveredMs / 1000).toFixed(1)} s`}`,
        );
      }
      loops.forEach((loop) => loop.kill('SIGKILL'));
      const { path } = await studio.call<HandOverView>('GET', `/api/sets/${setId}/outputs`);
      const folders = [1200, 600].map((px) => `run-${number}-${px}`);
      const damage = await damageOf(await studio.detail(runId), path!, folders, 2 * pictures);
      report.damage = added(report.damage, damage);
      const files = contentsOf(path!, folders[1]!);
      first ??= files;
      report.sameFiles &&= JSON.stringify([...first]) === JSON.stringify([...files]);
      say(`run ${number}: ${JSON.stringify(damage)}`);
    }
    report.damage = added(report.damage, { ...NO_DAMAGE, leftOver: await unfinished(application.data) });
    report.asFresh = await changing.isAsFresh(fewer, CHANGING);
    report.mastersUntouched = fingerprint(machine) === before;
    report.seconds = (Date.now() - begun) / 1000;
    return report;
  } finally {
    loops.forEach((loop) => loop.kill('SIGKILL'));
    await application.stop();
  }
}

export const describeFault = ({ target, pauseMs }: Fault): string =>
  pauseMs === null ? `${target} killed` : `${target} stopped for ${Math.round(pauseMs / 1000)} s`;

/** What unfinished files are still there once the server has had the time to clear them away. */
async function unfinished(data: string): Promise<number> {
  const folder = join(data, 'outputs', '.unfinished');
  const count = () => (existsSync(folder) ? readdirSync(folder).length : 0);
  for (let tries = 0; tries < 90 && count() > 0; tries++) await wait(1000);
  return count();
}

/** Follows runs by asking. */
class Progress {
  ended = false;
  private done = 0;
  private answers = 0;
  private readonly clock = new LookingClock();

  constructor(
    private readonly studio: Studio,
    private readonly runIds: readonly string[],
  ) {
    void this.follow();
  }

  /** Until one more output is done than now, in ms; null when the run has ended. */
  async next(): Promise<number | null> {
    const since = this.clock.look();
    // What was asked before the fault may be answered after it: only the second answer from here on says how far the run was then.
    const { answers } = this;
    while (!this.ended && this.answers < answers + 2) await wait(20);
    const { done } = this;
    while (!this.ended && this.done === done) await wait(20);
    return this.ended ? null : this.clock.ms - since;
  }

  private async follow(): Promise<void> {
    while (!this.ended) {
      const runs = [];
      for (const runId of this.runIds) runs.push(await this.studio.detail(runId));
      this.done = runs.flatMap(({ outputs }) => outputs).filter(({ state }) => state !== 'planned' && state !== 'running').length;
      this.ended = runs.every(({ state }) => state !== 'running');
      this.answers++;
      this.clock.look();
      await wait(100);
    }
  }
}
