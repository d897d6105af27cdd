import * as z from 'zod';
import type { MasterFacts } from '../facts/facts';
import type { Decisions } from '../decisions/decisions';
import type { OutputOf } from '../parts/output-of';
import type { Preset } from '../preset/schema';
import { Problem } from '../problem';
import { Finding, finding } from '../vet/finding';
import { type HouseRules, houseFindings, judgedAs } from '../vet/house-rules';
import { Chances, type Possible } from './chances';
import { type CurrentFile, type EarlierFate, movesOn } from './earlier';
import { samePlace } from './file-place';
import { isUpToDate, Naming, outputOf, type PlanCell } from './naming';
import { MadeFile, StaleReason, type Standing } from './place';
import { bytesAfter, mostBytes, type WeightBefore } from './weight';

export { appliesTo } from './chances';
export { smallerThanAsked } from './outcome';

const About = z.object({
  masterId: z.string(),
  presetId: z.string(),
  part: z.string().meta({ description: 'Which of the files that the preset makes of the picture; empty: it makes one' }),
});

const Placed = About.extend({
  target: z.string().meta({ description: 'The folder that `folder` is below: a whole path on the machine, or a name in Rundle’s own' }),
  folder: z.string().meta({ description: 'Below the target, "/" between levels' }),
  fileName: z.string(),
});

/** Where a file stands: a folder below a target, and its name. */
const FilePlace = z.object({ target: z.string(), folder: z.string(), fileName: z.string() });

const From = FilePlace.optional().meta({
  description:
    'Where the file that was made of it before stands, when that is elsewhere: it gets this place, or goes when this one is made',
});

/** Where an output goes and how large it will be. */
export const PlannedFile = Placed.extend({
  status: z.literal('planned'),
  width: z.int(),
  height: z.int(),
  expectedBytes: z.int(),
  guessedBytes: z.int().meta({ description: 'Expected by the picture alone, whatever came of it before' }),
  expectedMs: z.int().meta({ description: 'How long a worker is busy with it on an ordinary machine' }),
  replaces: z.boolean().meta({ description: 'Whether it takes the place of a file that is there' }),
  from: From,
  made: MadeFile.nullable().meta({ description: 'What will be replaced' }),
  stale: StaleReason.nullable().meta({ description: 'Why what was made before is not up to date; null: nothing was' }),
  warnings: z.array(Finding),
});
export type PlannedFile = z.infer<typeof PlannedFile>;

/** One cell of the run sheet: what will come of one master by one preset. */
export const PlannedOutput = z.discriminatedUnion('status', [
  PlannedFile,
  Placed.extend({
    status: z.literal('skipped'),
    from: From,
    reason: Finding,
    made: MadeFile.nullable().meta({ description: 'What stands there, where it was made here' }),
  }),
  About.extend({ status: z.literal('failed'), error: Problem }),
  About.extend({ status: z.literal('not-for'), reason: Finding }),
]);
export type PlannedOutput = z.infer<typeof PlannedOutput>;

/** A master as the planner sees it: its facts, or why there are none. */
export interface PlanMaster {
  id: string;
  fileName: string;
  read: { ok: true; facts: MasterFacts } | { ok: false; problem: Problem };
  /** Marks decide which presets a master gets. */
  rating: number;
  tags: readonly string[];
  /** What was decided about it beside the presets. */
  decisions?: Decisions;
}

export interface PlanRequest {
  setTitle: string;
  masters: readonly PlanMaster[];
  /** Place in the set of the first of them, for the counter; 0 unless it is said. */
  from?: number;
  /** `problem`: why a preset cannot be carried out at all; each of its outputs then fails with it. */
  presets: readonly { id: string; preset: Preset; problem: Problem | null }[];
  /** What the receiver demands, where that was written down. */
  house?: HouseRules | null;
  /** Whether there are rights details that fill in what masters have not. */
  fills?: boolean;
  /** The target of a master's outputs, or why it has none; one for all where it is left out. */
  targetOf?: (master: PlanMaster, presetId: string) => string | Problem;
  /** What stands at a path below a target now, as an output of a master by a preset would find it. */
  standing: (target: string, path: string, output: OutputOf) => Standing;
  /** The file that was made last as an output, where nobody has changed it since; null: there is none. */
  current?: (output: OutputOf) => CurrentFile | null;
  /** What the file weighed that was made last as an output; null: there was none, or one of another type than `fileName` has. */
  weightBefore?: (output: OutputOf, fileName: string) => WeightBefore | null;
  /** What becomes of current files whose name or place is not theirs any more: `go`: they give way; `keep`, unless it is said: they stay. */
  earlier?: EarlierFate;
  /** Whether an output is one of this run; all are, unless it is said. The files of others stay where they are. */
  isInRun?: (output: OutputOf) => boolean;
}

/**
 * Works out every output of a run: masters in the order of the set, for each all presets in their order. Pure; writes
 * nothing. Within one run no two outputs ever share a name, whatever the presets say. What is ours gives way to its newer self, whatever
 * a preset says of files that are there: that speaks of others'.
 */
export function planRun(request: PlanRequest): PlannedOutput[] {
  const chances = new Chances(request);
  const naming = new Naming(request, chances);
  const planned: PlannedOutput[] = [];
  for (const [index, master] of request.masters.entries()) {
    let isDecoded = false;
    for (const { id } of request.presets)
      for (const { part, preset, named } of chances.parts(master, id)) {
        const cell = { master, index: (request.from ?? 0) + index, presetId: id, part, preset, named };
        const about = outputOf(cell);
        const chance = chances.ofCell(cell);
        const output: PlannedOutput =
          chance.is === 'not-for'
            ? { status: 'not-for', ...about, reason: chance.reason }
            : chance.is === 'failed'
              ? { status: 'failed', ...about, error: chance.error }
              : planOutput(request, cell, about, chance, naming, isDecoded);
        isDecoded ||= output.status === 'planned';
        planned.push(output);
      }
  }
  return planned;
}

/** One cell of thousands; field by field, since to spread objects into it takes three times as long. */
function planOutput(
  request: PlanRequest,
  cell: PlanCell,
  about: OutputOf,
  chance: Possible,
  naming: Naming,
  isDecoded: boolean,
): PlannedOutput {
  const { preset } = cell;
  const { target, folder, facts, outcome } = chance;
  const own = request.current?.(about) ?? null;
  const { fileName, at, wantedAt, warnings } = naming.nameOf(cell, about, chance, own);
  const { masterId, presetId, part } = about;
  const place = { masterId, presetId, part, target, folder, fileName };
  const stays = own !== null && samePlace(own, place);
  const self = stays || movesOn(request, about) ? own : null;
  const from = self && !stays ? { target: self.target, folder: self.folder, fileName: self.fileName } : undefined;
  const there = at.is === 'ours' ? at.made : null;
  const isTaken = (at.is !== 'free' && at.is !== 'current') || naming.isKept(about, at);
  if (isUpToDate(at)) return { ...place, status: 'skipped', reason: UNCHANGED, made: there };
  if (isTaken && preset.existing === 'leave') return { ...place, status: 'skipped', reason: LEFT, made: there };
  if (isTaken && preset.existing === 'stop') return { status: 'failed', ...about, error: stopped(fileName) };
  if (self?.upToDate) return { ...place, status: 'skipped', from, reason: UNCHANGED, made: self.made };
  const guessedBytes = Math.min(outcome.bytes, mostBytes(preset.file));
  const before = request.weightBefore?.(about, fileName);
  const bytes = before ? bytesAfter(before, outcome.bytes, preset.file) : guessedBytes;
  const expected = preset.file.type !== 'original';
  const broken = request.house ? houseFindings(request.house, outcome.size, { bytes, expected }, judgedAs(preset, facts)) : [];
  return {
    status: 'planned',
    masterId,
    presetId,
    part,
    target,
    folder,
    fileName,
    width: outcome.size.width,
    height: outcome.size.height,
    expectedBytes: bytes,
    guessedBytes,
    expectedMs: isDecoded ? outcome.ms.next : outcome.ms.first,
    replaces: at.is === 'ours' || self !== null,
    from,
    made: self?.made ?? there,
    stale: self?.stale ?? (wantedAt.is === 'ours' ? wantedAt.stale : null),
    warnings: outcome.warnings.concat(broken, warnings),
  };
}

/** Code of the reason why an output of a run is not made again. */
const UNCHANGED = finding('unchanged', 'Made before, and nothing has changed since.');

const LEFT = finding('left', 'A file of that name is there; the preset leaves it.');

const stopped = (fileName: string): Problem => ({
  code: 'exists',
  message: `${fileName} is already there and the preset says stop. Move the file away, or choose keep both, replace or leave.`,
  file: fileName,
});
