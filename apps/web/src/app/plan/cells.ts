import {
  type Finding,
  joinPath,
  type MadeFile,
  type Output,
  type OutputOf,
  type PlannedOutput,
  type Problem,
  type StaleReason,
} from '@rundle/core';

/** One cell of the run sheet: what will come of a picture by a preset, what is being done, or what stands there. */
export interface Cell extends OutputOf {
  state: 'planned' | 'waiting' | 'running' | 'made' | 'failed' | 'left' | 'cancelled' | 'not-for';
  /** Target, folder and name, as far as they are known. */
  target: string;
  folder: string;
  fileName: string;
  width: number;
  height: number;
  /** Of the file, or as it is expected. */
  bytes: number;
  expectedMs: number;
  quality: number | null;
  replaces: boolean;
  /** Where the file that was made before stands until then, folder and name; empty: at the same place, or there is none. */
  from: string;
  stale: StaleReason | null;
  /** What stands at its place now, where it was made here. */
  made: MadeFile | null;
  remarks: readonly Finding[];
  error: Problem | null;
  /** The output whose file can be looked at; null: none. */
  outputId: string | null;
  /** Why nothing is made. */
  reason: string;
  /** Whether a run has tried it and failed: then trying again makes sense. */
  tried: boolean;
  /** Where several files of a picture are told as one cell: all of them. */
  files: readonly Cell[];
}

const EMPTY = {
  target: '',
  folder: '',
  fileName: '',
  width: 0,
  height: 0,
  bytes: 0,
  expectedMs: 0,
  quality: null,
  replaces: false,
  from: '',
  stale: null,
  made: null,
  remarks: [],
  error: null,
  outputId: null,
  reason: '',
  tried: false,
  files: [],
};

/** How a run stands to the plan: it is under way, it has ended and the plan is from before that, or the plan has come after it. */
export type RunSide = 'open' | 'just-ended' | 'past';

/**
 * What a cell shows. While a run is under way that is what the run does; afterwards what a new plan finds, and what failed until it is tried
 * again or its preset is another.
 */
export function cellOf(planned: PlannedOutput | null, output: Output | null, side: RunSide, version: number): Cell | null {
  if (output && side !== 'past') return ofRun(output, planned);
  const failedLast = output?.state === 'failed' && output.presetVersion === version && planned?.status === 'planned' && !planned.made;
  if (failedLast) return ofRun(output, planned);
  return planned && ofPlan(planned);
}

function ofPlan(planned: PlannedOutput): Cell {
  const { masterId, presetId, part } = planned;
  const about = { ...EMPTY, masterId, presetId, part };
  switch (planned.status) {
    case 'planned': {
      const { target, folder, fileName, width, height, expectedBytes, expectedMs, replaces, stale, made, warnings } = planned;
      const place = { target, folder, fileName, width, height, from: fromOf(planned) };
      return { ...about, ...place, state: 'planned', bytes: expectedBytes, expectedMs, replaces, stale, made, remarks: warnings };
    }
    case 'skipped': {
      const { target, folder, fileName, made, reason } = planned;
      const place = { target, folder, fileName, from: fromOf(planned) };
      if (!made) return { ...about, ...place, state: 'left', reason: reason.message };
      const { width, height, bytes, quality, outputId, remarks } = made;
      const state = reason.code === 'unchanged' ? 'made' : 'left';
      return { ...about, ...place, state, width, height, bytes, quality, made, outputId, remarks, reason: reason.message };
    }
    case 'failed':
      return { ...about, state: 'failed', error: planned.error };
    case 'not-for':
      return { ...about, state: 'not-for', reason: planned.reason.message };
  }
}

const fromOf = ({ from }: { from?: { folder: string; fileName: string } | undefined }): string =>
  from ? joinPath(from.folder, from.fileName) : '';

function ofRun(output: Output, planned: PlannedOutput | null): Cell {
  const { masterId, presetId, part, target, folder, fileName, width, height, expectedBytes, warnings } = output;
  const about = { ...EMPTY, masterId, presetId, part, target, folder, fileName, width, height };
  switch (output.state) {
    case 'planned':
      return { ...about, state: 'waiting', bytes: expectedBytes, remarks: warnings };
    case 'running':
      return { ...about, state: 'running', bytes: expectedBytes, remarks: warnings };
    case 'done':
      return { ...about, state: 'made', bytes: output.bytes, quality: output.quality, outputId: output.id, remarks: warnings };
    case 'failed':
      return { ...about, state: 'failed', error: output.error, tried: planned?.status !== 'failed' };
    case 'cancelled':
      return { ...about, state: 'cancelled' };
    case 'skipped': {
      const made = planned?.status === 'skipped' ? planned.made : null;
      const known = made ? { bytes: made.bytes, quality: made.quality, outputId: made.outputId, made } : {};
      return { ...about, ...known, state: made ? 'made' : 'left', reason: warnings[0]?.message ?? '' };
    }
  }
}

/** What is told first of several files of a picture: what went wrong, what is being done, what is to be done. */
const TOLD_FIRST: readonly Cell['state'][] = ['failed', 'running', 'waiting', 'planned', 'cancelled', 'left', 'made', 'not-for'];

/** Several files of one picture as one cell. Its weight is that of the files in the state that it tells. */
export function cellOfFiles(files: readonly Cell[]): Cell | null {
  const [first] = files;
  if (!first || files.length === 1) return first ?? null;
  const state = TOLD_FIRST.find((one) => files.some((file) => file.state === one))!;
  const told = files.filter((file) => file.state === state);
  return {
    ...EMPTY,
    masterId: first.masterId,
    presetId: first.presetId,
    part: '',
    state,
    bytes: told.reduce((sum, { bytes }) => sum + bytes, 0),
    stale: told.find(({ stale }) => stale)?.stale ?? null,
    remarks: [...new Map(files.flatMap(({ remarks }) => remarks.map((remark) => [remark.message, remark] as const))).values()],
    error: told[0]!.error,
    reason: told[0]!.reason,
    tried: files.some(({ tried }) => tried),
    files,
  };
}

/** What a run over some cells would do. */
export interface Totals {
  files: number;
  bytes: number;
  /** Expected ms on an ordinary machine, of all. */
  ms: number;
  replaces: number;
  /** When the newest of what is replaced was made. */
  replacedAt: string | null;
  upToDate: number;
  upToDateBytes: number;
  failed: number;
  stale: StaleReason[];
}

export function totalsOf(cells: readonly Cell[]): Totals {
  const totals: Totals = { files: 0, bytes: 0, ms: 0, replaces: 0, replacedAt: null, upToDate: 0, upToDateBytes: 0, failed: 0, stale: [] };
  for (const { state, bytes, expectedMs, replaces, stale, made } of cells) {
    if (state === 'planned' || state === 'waiting' || state === 'running') {
      totals.files++;
      totals.bytes += bytes;
      totals.ms += expectedMs;
      if (replaces) totals.replaces++;
      if (replaces && made && (totals.replacedAt === null || made.at > totals.replacedAt)) totals.replacedAt = made.at;
      if (stale) totals.stale.push(stale);
    }
    if (state === 'made') {
      totals.upToDate++;
      totals.upToDateBytes += bytes;
    }
    if (state === 'failed') totals.failed++;
  }
  return totals;
}
