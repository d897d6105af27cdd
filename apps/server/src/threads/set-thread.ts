import { readlinkSync } from 'node:fs';
import { setPriority } from 'node:os';
import { basename } from 'node:path';
import type { Forecast, PlanView, Preset, RunDetail, VetView } from '@rundle/core';
import { isDatabaseAway, openDatabase, openFiles, outputView, runView } from '@rundle/store';
import { workerData } from 'piscina';
import { databaseAway, HttpProblem, type ProblemParts } from '../http/problem';
import { forecastOf, planSet } from '../runs/plan-set';
import { startRun } from '../runs/start-run';
import { findSet } from '../sets/find';
import { vetSetNow } from '../vet/vet-set';

/** What a thread needs to know of the configuration. */
export interface SetThreadData {
  databaseUrl: string;
  data: string;
}

/** Work over all pictures of a set. */
export type SetTask = { setId: string } & ({ kind: 'vet' | 'plan' | 'run'; presetIds: string[] } | { kind: 'forecast'; preset: Preset });

/** JSON as it is sent, so that the request's thread need not make it. */
export type SetAnswer = { ok: true; json: Uint8Array } | { ok: false; problem: ProblemParts };

/**
 * Nice value of this thread, below the one that answers requests: 0 is equal, 19 the lowest priority (nice(2)). Somebody waits for a plan, too: at
 * 10, beside three busy programs on two cores, its share would be less than a tenth of a core.
 */
const STANDS_BACK = 3;

// On Linux each thread has its own priority, set by its thread id. Elsewhere both have the same.
try {
  setPriority(Number(basename(readlinkSync('/proc/thread-self'))), STANDS_BACK);
} catch {
  // Without it, other requests are merely slower while a set is planned.
}

const { databaseUrl, data } = workerData as SetThreadData;
const database = openDatabase(databaseUrl);
const services = { database, files: await openFiles(data) };

/** Does one task; problems come back as data, since an error object loses its fields between threads. */
export default async function work(task: SetTask): Promise<SetAnswer> {
  try {
    return { ok: true, json: new TextEncoder().encode(JSON.stringify(await answerTo(task))) };
  } catch (error) {
    if (error instanceof HttpProblem) return { ok: false, problem: error.parts };
    if (isDatabaseAway(error)) return { ok: false, problem: databaseAway().parts };
    throw error;
  }
}

async function answerTo(task: SetTask): Promise<VetView | PlanView | RunDetail | Forecast> {
  const { setId } = task;
  if (task.kind === 'forecast') return forecastOf(database, await findSet(database, setId), task.preset);
  const { kind, presetIds } = task;
  switch (kind) {
    case 'vet':
      return vetSetNow(database, setId, presetIds);
    case 'plan': {
      const { outputs, notices, credits } = await planSet(services, await findSet(database, setId), presetIds);
      return { outputs, notices, credits };
    }
    case 'run': {
      const { run, outputs } = await startRun(services, setId, presetIds);
      return { ...runView(run), outputs: outputs.map(outputView) };
    }
  }
}
