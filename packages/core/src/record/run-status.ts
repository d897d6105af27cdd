import type { OutputState, Run, RunCounts } from '../api/runs';
import { counted, weight } from '../figures';
import { figure } from '../preset/fields';

/**
 * What a run is doing, or has come to.
 * - `waiting`: others go first, and nothing of it is being made
 * - `beginning`: it is its turn, and nothing of it has been begun yet
 * - `stopping`: it was cancelled, and what had been begun is coming to its end
 */
export type RunStage = 'waiting' | 'beginning' | 'running' | 'paused' | 'stopping' | 'ended';

/** A run as every place tells it: the list of runs, the head of every page, Plan, Hand over, its record. */
export interface RunStatus {
  stage: RunStage;
  /** Files that are through, of all that it has to make: what was up to date is none of them. */
  past: number;
  of: number;
  /** 0-1. */
  share: number;
  /** Failed files of pictures that are still in the set: only these can be mended by another run. */
  failed: number;
  /** @example "12 of 40, 2 failed", "waits for its turn", "38 of 38 done, all checked, no errors" */
  words: string;
}

type Told = Pick<Run, 'state' | 'stopping'> & { counts: RunCounts };

/**
 * Tells a run, the same way wherever it is told.
 * @param ahead open runs that go before it and are not paused
 */
export function runStatus({ state, stopping, counts }: Told, ahead = 0): RunStatus {
  const { total, done, failed, skipped, cancelled, working, failedRemoved } = counts;
  const [past, of] = [done + failed + cancelled, total - skipped];
  const about = { past, of, share: of ? past / of : 1, failed: failed - failedRemoved };
  if (state === 'done' || state === 'cancelled') return { ...about, stage: 'ended', words: endSentence(counts) };
  const so = `${figure(past)} of ${figure(of)}`;
  const trouble = failed ? `, ${figure(failed)} failed` : '';
  if (stopping) return { ...about, stage: 'stopping', words: `${so}${trouble}, cancelled: what had been begun is coming to its end` };
  if (state === 'paused') return { ...about, stage: 'paused', words: `${so}${trouble}, paused` };
  if (working === 0 && ahead > 0) return { ...about, stage: 'waiting', words: `${past ? `${so}${trouble}, ` : ''}waits for its turn` };
  if (working === 0 && past === 0) return { ...about, stage: 'beginning', words: `${counted(of, 'file')}, not begun yet` };
  return { ...about, stage: 'running', words: `${so}${trouble}` };
}

/**
 * How a run has ended, in one sentence that is the same wherever it is told.
 * @example "48 of 48 done, all checked, no errors", "46 done, 2 failed: LFS_0412.jpg, LFS_0415.jpg. The disk is full.",
 *   "23 done; 23 were up to date; 1 failed: LFS_0584.jpg. The file is cut off."
 */
export function endSentence(counts: RunCounts): string {
  const { total, done, failed, skipped, cancelled, overCeiling } = counts;
  const wanted = total - skipped;
  const left = skipped ? `; ${figure(skipped)} ${skipped === 1 ? 'was' : 'were'} up to date` : '';
  if (total === 0) return 'It had no files to make';
  if (wanted === 0) return total === 1 ? 'The file was up to date' : `All ${figure(total)} files were up to date`;
  const over = overCeiling ? `; ${ceilingWords(overCeiling)}` : '';
  if (failed === 0 && cancelled === 0) return `${figure(done)} of ${figure(wanted)} done, all checked, no errors${over}${left}`;
  const stopped = cancelled ? `, ${figure(cancelled)} cancelled` : '';
  if (failed === 0) return `${figure(done)} done${stopped}${over}${left}`;
  // Their names come last: whatever stood before a colon would be told of them.
  return `${figure(done)} done${stopped}${over}${left}${over || left ? ';' : ','} ${figure(failed)} failed${failuresInWords(counts)}`;
}

/** Which files failed, and why the first of them did. */
function failuresInWords({ failed, failedRemoved, failures }: RunCounts): string {
  const [first] = failures;
  if (!first) return '';
  const names = [...new Set(failures.map(({ file }) => file))];
  const which = failed > failures.length ? `${first.file} and others` : names.join(', ');
  if (failedRemoved === failed) return `, no longer in the set: ${which}`;
  const gone = failedRemoved ? ` (${failedRemoved} no longer in the set)` : '';
  return `: ${which}${gone}. ${first.message}`;
}

/** A file of a run, as far as it counts. */
export interface CountedOutput {
  masterId: string;
  /** Name of its master. */
  master: string;
  state: OutputState;
  bytes: number | null;
  remarks: readonly { code: string }[];
  error: { message: string } | null;
  /** Whether its picture is no longer in the set. */
  isRemoved?: boolean;
}

/** How far a run is whose files are known, as the server counts them. */
export function runCounts(outputs: readonly CountedOutput[]): RunCounts {
  const count = (state: OutputState) => outputs.filter((output) => output.state === state).length;
  const done = outputs.filter(({ state }) => state === 'done');
  const failed = outputs
    .filter(({ state }) => state === 'failed')
    .toSorted((a, b) => Number(a.isRemoved ?? false) - Number(b.isRemoved ?? false));
  return {
    total: outputs.length,
    done: done.length,
    failed: failed.length,
    skipped: count('skipped'),
    cancelled: count('cancelled'),
    working: count('running'),
    bytes: done.reduce((sum, { bytes }) => sum + (bytes ?? 0), 0),
    overCeiling: done.filter(({ remarks }) => remarks.some(({ code }) => code === 'over-ceiling')).length,
    failedRemoved: failed.filter(({ isRemoved }) => isRemoved).length,
    failures: failed
      .slice(0, MOST_FAILURES)
      .map(({ masterId, master, error }) => ({ masterId, file: master, message: error?.message ?? '' })),
  };
}

/** Whether there is still something to come of it. */
export const isOpenRun = (run: Pick<Run, 'state'> | null): boolean => run?.state === 'running' || run?.state === 'paused';

/** Failures that are told by name. */
export const MOST_FAILURES = 3;

const ceilingWords = (files: number): string => `${files} over ${files === 1 ? 'its' : 'their'} ceiling, as the preset allows`;

/**
 * What can be relied on of all that can be handed over, in one sentence.
 * @param files how many, @param after their weight, bytes, @param before that of their masters
 * @param overCeiling how many of them weigh more than their ceiling, as their presets allow
 * @param run the newest run of the set: while it goes on, or where something of it has failed, that is told beside this
 * @example "48 files, 7.7 MB from 204 MB, all re-opened and checked, no errors"
 */
export function reviewSentence(files: number, after: number, before: number, overCeiling: number, run: RunStatus | null): string {
  const isSound = run === null || (run.stage === 'ended' && run.failed === 0);
  const over = overCeiling ? `; ${ceilingWords(overCeiling)}` : '';
  return `${counted(files, 'file')}, ${weight(after)} from ${weight(before)}, all re-opened and checked${isSound ? ', no errors' : ''}${over}`;
}
