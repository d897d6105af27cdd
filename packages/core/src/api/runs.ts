import * as z from 'zod';
import { CreditLine } from '../plan/credits';
import { EarlierFate, EarlierFiles } from '../plan/earlier';
import { PlannedOutput } from '../plan/plan';
import { Problem } from '../problem';
import { Finding } from '../vet/finding';
import { GamutLoss } from '../colour/gamut';
import { Halo } from '../sharpen/halo';
import { OnceByPreset } from '../plan/once';
import { Place } from '../plan/place';
import { Id, Time } from './sets';

/** Which presets to plan or to run over a set, in this order. */
export const PresetChoice = z
  .strictObject({ presetIds: z.array(Id).min(1, { error: 'at least one preset' }).max(12, { error: 'at most 12 presets' }) })
  .meta({ id: 'PresetChoice' });
export type PresetChoice = z.infer<typeof PresetChoice>;

/** Which of the files that a preset makes of a picture: the label of a size, or `r1c2` of a panel; empty: it makes one. */
export const OutputPart = z.string().max(60);

/** Which outputs to make: of all pictures, of some, or only these. The counter in names counts in the set all the same. */
export const RunRequest = PresetChoice.extend({
  earlier: EarlierFate.default('keep'),
  masterIds: z.array(Id).min(1).max(5000).optional().meta({ description: 'Only these pictures' }),
  pairs: z
    .array(
      z.strictObject({
        masterId: Id,
        presetId: Id,
        part: OutputPart.optional().meta({ description: 'Only this of its files; all, unless it is said' }),
      }),
    )
    .min(1)
    .max(50_000)
    .optional()
    .meta({ description: 'Only these outputs' }),
}).meta({ id: 'RunRequest' });
export type RunRequest = z.infer<typeof RunRequest>;

/** Which presets to plan, and the plan that the caller has already. */
export const PlanRequested = PresetChoice.extend({
  earlier: EarlierFate.default('keep'),
  since: Id.optional().meta({ description: 'Of the plan that the caller has' }),
}).meta({
  id: 'PlanRequested',
});

export const PlanView = z
  .object({
    id: Id,
    since: Id.nullable().meta({ description: 'The plan of which only the changes are told; null: everything is' }),
    outputs: z.array(PlannedOutput).meta({ description: 'In the order of the set; with `since` those that have changed' }),
    gone: z
      .array(z.object({ masterId: Id, presetId: Id, part: OutputPart }))
      .meta({ description: 'With `since`: what is not planned any more' }),
    earlier: EarlierFiles.meta({
      description: 'Files of earlier runs that do not stay where they are when those at an earlier name or place go',
    }),
    notices: z.array(Finding).meta({ description: 'What is to be said once, of the whole plan' }),
    credits: z.array(CreditLine).meta({ description: 'How many pictures go out with which credit line' }),
    timeMs: z.int().meta({ description: 'How long the run is expected to take, from what this machine has done so far' }),
    unseen: z
      .int()
      .meta({ description: 'Pictures that are still being analysed: where they are cropped to a ratio is not known until then' }),
    rough: z.int().meta({ description: 'Pictures that are still being weighed: what is expected of them is rough until then' }),
    freeBytes: z.int().nullable().meta({ description: 'Room where the files go; null: not known' }),
    path: z
      .string()
      .nullable()
      .meta({ description: 'Where the files go on the machine that runs Rundle; null: into the folders of the masters' }),
    placeProblem: Problem.nullable().meta({ description: 'Why nothing can be written there' }),
  })
  .meta({ id: 'PlanView' });
export type PlanView = z.infer<typeof PlanView>;

export const OutputState = z.enum(['planned', 'running', 'done', 'failed', 'skipped', 'cancelled']);
export type OutputState = z.infer<typeof OutputState>;

/** What was measured while an output was made. */
export const Measures = z.object({
  gamut: GamutLoss.nullable().meta({ description: 'Null where nothing was converted' }),
  halo: Halo.nullable().meta({ description: 'Null where nothing was sharpened' }),
});
export type Measures = z.infer<typeof Measures>;

const AnyOutput = z.object({
  id: Id,
  runId: Id,
  masterId: Id,
  presetId: Id,
  part: OutputPart,
  presetVersion: z.int().meta({ description: 'The version of the preset that made it' }),
  folder: z.string(),
  fileName: z.string(),
  target: z.string(),
  width: z.int(),
  height: z.int(),
  expectedBytes: z.int(),
  warnings: z.array(Finding),
  ms: z.int().nullable().meta({ description: 'How long a worker was busy with it; null: not known' }),
});

const NOT_MADE = { bytes: z.null(), quality: z.null(), measures: z.null() };

const DoneOutput = AnyOutput.extend({
  state: z.literal('done'),
  bytes: z.int(),
  quality: z.int().nullable().meta({ description: 'Null for file types without loss' }),
  measures: Measures.nullable().meta({ description: 'Null for outputs of the first releases' }),
  error: z.null(),
});

/** One file of a run: where it stands now, and what came out. */
export const Output = z
  .discriminatedUnion('state', [
    AnyOutput.extend({ state: z.enum(['planned', 'running', 'skipped', 'cancelled']), ...NOT_MADE, error: z.null() }),
    DoneOutput,
    AnyOutput.extend({ state: z.literal('failed'), ...NOT_MADE, error: Problem }),
  ])
  .meta({ id: 'Output' });
export type Output = z.infer<typeof Output>;

export const RunState = z.enum(['running', 'paused', 'done', 'cancelled']);

/** A file that a run could not make. */
const Failure = z.object({
  masterId: Id,
  file: z.string().meta({ description: 'Name of the master' }),
  message: z.string(),
});

/** How far a run is. */
export const RunCounts = z.object({
  total: z.int(),
  done: z.int(),
  failed: z.int(),
  skipped: z.int(),
  cancelled: z.int(),
  working: z.int().meta({ description: 'Files that are being made at this moment' }),
  bytes: z.number().meta({ description: 'Weight of what is done' }),
  overCeiling: z.int().meta({ description: 'Of what is done, files over their ceiling, as their presets allow' }),
  failedRemoved: z.int().meta({ description: 'Of what failed, files of pictures that are no longer in the set' }),
  failures: z.array(Failure).meta({ description: 'The first that failed, three at most; pictures that are still in the set first' }),
});
export type RunCounts = z.infer<typeof RunCounts>;

export const Run = z
  .object({
    id: Id,
    setId: Id,
    state: RunState,
    startedAt: Time,
    finishedAt: Time.nullable(),
    presetIds: z.array(Id),
    setTitle: z.string(),
    line: z.int().meta({ description: 'Place among the open runs; lower goes first' }),
    place: Place,
    once: OnceByPreset,
    counts: RunCounts,
    stopping: z.boolean().meta({ description: 'Cancelled; what had been begun is still coming to its end' }),
  })
  .meta({ id: 'Run' });
export type Run = z.infer<typeof Run>;

export const RunDetail = Run.extend({ outputs: z.array(Output) }).meta({ id: 'RunDetail' });
export type RunDetail = z.infer<typeof RunDetail>;

/** What has become of the file of an output since it was made. */
export const OutputFileState = z.enum(['stands', 'changed', 'missing', 'moving']).meta({
  id: 'OutputFileState',
  description:
    'stands: as it was made; changed: somebody has changed it, so that it stays where it is and is not handed over; missing: it is not at its place any more; moving: it is getting its new name',
});
export type OutputFileState = z.infer<typeof OutputFileState>;

/** Files that still lie there, as they were made, of pictures that were taken out of a set. */
export const RemovedOutputs = z
  .object({
    files: z.int(),
    pictures: z.int(),
    bytes: z.int(),
    examples: z.array(z.string()).meta({ description: 'The first of them, folder and name' }),
  })
  .meta({ id: 'RemovedOutputs' });
export type RemovedOutputs = z.infer<typeof RemovedOutputs>;

/** What can be handed over: for each master and preset the newest finished output. */
export const HandOverView = z
  .object({
    outputs: z.array(DoneOutput.extend({ presetTitle: z.string(), masterName: z.string(), masterBytes: z.int(), file: OutputFileState })),
    path: z.string().nullable().meta({ description: 'Folder on the machine that runs Rundle; null where there is none (yet)' }),
  })
  .meta({ id: 'HandOverView' });
export type HandOverView = z.infer<typeof HandOverView>;
