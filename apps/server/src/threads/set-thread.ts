import { readlinkSync } from 'node:fs';
import { setPriority } from 'node:os';
import { basename } from 'node:path';
import {
  type EarlierFate,
  earlierFilesOf,
  isAvifWeighed,
  type NewDelivery,
  type OutputsRemoval,
  type PlannedOutput,
  type PlanView,
  type Preset,
  type RunRequest,
} from '@rundle/core';
import { addMeasuring, isDatabaseAway, openDatabase, openFiles, type MasterRecord, outputView, runViews } from '@rundle/store';
import { contentOf, type SeenFile } from '@rundle/watch';
import { workerData } from 'piscina';
import { viewGallery } from '../deliveries/gallery-views';
import { previewDelivery } from '../deliveries/start-delivery';
import { snippetOf } from '../deliveries/snippet';
import { removedOutputs, takeAwayRemoved } from '../hand-over/removed-outputs';
import { standingOutputs } from '../hand-over/standing-outputs';
import { databaseAway, HttpProblem, type ProblemParts } from '../http/problem';
import { changesSince } from '../runs/plan-changes';
import { forecastOf, newNamesOf, planSet } from '../runs/plan-set';
import { runDetail } from '../runs/run-detail';
import { startRun } from '../runs/start-run';
import { findSet } from '../sets/find';
import { finishSet, previewClearing, removeOutputs } from '../storage/make-room';
import { measureStorage } from '../storage/measure';
import { vetSetNow } from '../vet/vet-set';

/** What a thread needs to know of the configuration. */
export interface SetThreadData {
  databaseUrl: string;
  data: string;
  writeRoots: string[];
}

/** Work over all pictures of a set, or the whole of a large file. */
export type SetTask =
  | { kind: 'vet'; setId: string; presetIds: string[] }
  | { kind: 'plan'; setId: string; presetIds: string[]; earlier: EarlierFate; since?: string | undefined }
  | { kind: 'run'; setId: string; wanted: RunRequest }
  | { kind: 'run-detail'; runId: string }
  | { kind: 'forecast' | 'new-names'; setId: string; preset: Preset }
  | { kind: 'preview'; setId: string; wish: NewDelivery }
  /** What is out, with what has become of each file. */
  | { kind: 'outputs'; setId: string }
  /** What lies there of pictures that were taken out. */
  | { kind: 'removed-outputs'; setId: string; takesAway: boolean }
  /** The page of a gallery as it will be. */
  | { kind: 'gallery'; setId: string; delivery: NewDelivery }
  /** The HTML of a gallery for a page of one's own. */
  | { kind: 'snippet'; setId: string; delivery: NewDelivery; base: string }
  /** What uses space, and how room is made. */
  | { kind: 'storage' }
  | { kind: 'remove-outputs'; wanted: OutputsRemoval }
  | { kind: 'finish-set'; setId: string }
  | { kind: 'clearing'; setId: string; masterIds: readonly string[] }
  /** What a file of the machine holds: {@link contentOf}. */
  | { kind: 'content'; file: SeenFile };

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

const { databaseUrl, data, writeRoots } = workerData as SetThreadData;
const database = openDatabase(databaseUrl);
const services = { database, files: await openFiles(data, writeRoots) };

/** Does one task; problems come back as data, since an error object loses its fields between threads. */
export default async function work(task: SetTask): Promise<SetAnswer> {
  try {
    return { ok: true, json: new TextEncoder().encode(await answerTo(task)) };
  } catch (error) {
    if (error instanceof HttpProblem) return { ok: false, problem: error.parts };
    if (isDatabaseAway(error)) return { ok: false, problem: databaseAway().parts };
    throw error;
  }
}

/** Masters, each with its content and what is to be found out about it, for which this thread has asked. */
const asked = new Set<string>();
const MOST_ASKED = 50_000;

/**
 * Has the pictures of a plan weighed more exactly, when workers have nothing else to do, and looked at where a crop is to be proposed: its figures
 * come finer then. Not once they have been read: pictures are sorted by hand then, and that wants the machine for itself.
 * @param rough those of which it is not known yet
 */
function measureInTime(name: 'weigh-master' | 'see-master', rough: readonly MasterRecord[], withAvif = false): void {
  const keyOf = ({ id, sha256 }: MasterRecord) => `${name} ${withAvif} ${id} ${sha256}`;
  if (asked.size > MOST_ASKED) asked.clear();
  const open = rough.filter((master) => !asked.has(keyOf(master)));
  if (open.length === 0) return;
  for (const master of open) asked.add(keyOf(master));
  addMeasuring(
    database.sequelize,
    name,
    open.map(({ id }) => id),
    { how: withAvif ? 'withAvif' : null },
  ).catch(() => {
    for (const master of open) asked.delete(keyOf(master)); // the next plan asks again
  });
}

const isProposed = (output: PlannedOutput): boolean =>
  output.status === 'planned' && output.warnings.some(({ code }) => code === 'crop-proposed');

/** The answer as JSON. */
async function answerTo(task: SetTask): Promise<string> {
  switch (task.kind) {
    case 'content':
      return JSON.stringify(await contentOf(task.file));
    case 'preview':
      return JSON.stringify(await previewDelivery(services, task.setId, task.wish, await standingOutputs(services, task.setId)));
    case 'outputs':
      return JSON.stringify(await standingOutputs(services, task.setId));
    case 'removed-outputs':
      return JSON.stringify(await (task.takesAway ? takeAwayRemoved : removedOutputs)(services, task.setId));
    case 'storage':
      return JSON.stringify(await measureStorage(services, data));
    case 'remove-outputs':
      return JSON.stringify(await removeOutputs(services, task.wanted));
    case 'finish-set':
      return JSON.stringify(await finishSet(services, data, task.setId));
    case 'clearing':
      return JSON.stringify(await previewClearing(services, task.setId, task.masterIds));
    case 'gallery':
      return JSON.stringify(await viewGallery(database, task.setId, task.delivery, await standingOutputs(services, task.setId)));
    case 'snippet':
      return JSON.stringify({ html: await snippetOf(database, task) });
    case 'forecast':
      return JSON.stringify(await forecastOf(database, await findSet(database, task.setId), task.preset));
    case 'new-names':
      return JSON.stringify(await newNamesOf(database, await findSet(database, task.setId), task.preset));
    case 'vet':
      return JSON.stringify(await vetSetNow(database, task.setId, task.presetIds));
    case 'plan':
      return planAnswer(task);
    case 'run-detail':
      return JSON.stringify(await runDetail(database, task.runId));
    case 'run': {
      const { run, outputs } = await startRun(services, task.setId, task.wanted);
      const [view] = await runViews(database, [run]);
      return JSON.stringify({ ...view, outputs: outputs.map(outputView) });
    }
  }
}

/** Only what has changed since the plan that the caller has. */
async function planAnswer({ setId, presetIds, earlier, since }: Extract<SetTask, { kind: 'plan' }>): Promise<string> {
  const set = await findSet(database, setId);
  const plan = await planSet(services, set, { presetIds, earlier });
  const going = new Set(plan.outputs.flatMap(({ status, masterId }) => (status === 'planned' ? [masterId] : [])));
  const withAvif = plan.presets.some(({ preset }) => preset.file.type === 'avif');
  const isRough = ({ facts }: MasterRecord) => facts?.finelyWeighed !== true || (withAvif && !isAvifWeighed(facts));
  const rough = plan.masters.filter((master) => going.has(master.id) && master.state === 'ready' && isRough(master));
  measureInTime('weigh-master', rough, withAvif);
  const proposing = new Set(plan.outputs.flatMap((output) => (isProposed(output) ? [output.masterId] : [])));
  const unseen = plan.masters.filter(({ id, facts }) => proposing.has(id) && facts !== null && !facts.salience);
  measureInTime('see-master', unseen);
  const { notices, credits, timeMs, freeBytes, placeProblem, target } = plan;
  const path = target === null ? null : services.files.outputs.pathOf(target);
  const view: PlanView = {
    ...changesSince(setId, plan.outputs, since),
    earlier: earlierFilesOf(plan.moves),
    notices,
    credits,
    timeMs,
    rough: rough.length,
    unseen: unseen.length,
    freeBytes,
    placeProblem,
    path,
  };
  return JSON.stringify(view);
}
