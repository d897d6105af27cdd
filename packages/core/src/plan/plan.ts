import * as z from 'zod';
import type { MasterFacts } from '../facts/facts';
import { extensionsOf, FILE_TYPES } from '../types/table';
import { type Decisions, isLeftOut } from '../decisions/decisions';
import { sameTag } from '../gather/marks';
import { folderSafe } from '../name/folder';
import { extensionOf, outputStem } from '../name/output-name';
import type { Preset } from '../preset/schema';
import { Problem } from '../problem';
import { Finding, finding } from '../vet/finding';
import type { PixelSize } from '../size/geometry';
import type { HouseRules } from '../vet/house-rules';
import { outcomeOf } from './outcome';
import { MadeFile, StaleReason, type Standing } from './place';

export { smallerThanAsked } from './outcome';

const About = z.object({ masterId: z.string(), presetId: z.string() });

const Placed = About.extend({
  target: z.string().meta({ description: 'The folder that `folder` is below: a whole path on the machine, or a name in Rundle’s own' }),
  folder: z.string().meta({ description: 'Below the target, "/" between levels' }),
  fileName: z.string(),
});

/** Where an output goes and how large it will be. */
export const PlannedFile = Placed.extend({
  status: z.literal('planned'),
  width: z.int(),
  height: z.int(),
  expectedBytes: z.int(),
  expectedMs: z.int().meta({ description: 'How long a worker is busy with it on an ordinary machine' }),
  replaces: z.boolean().meta({ description: 'Whether a file of that name is there and will be replaced' }),
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
  targetOf?: (master: PlanMaster) => string | Problem;
  /** What stands at a path below a target now, as an output of a master by a preset would find it. */
  standing: (target: string, path: string, masterId: string, presetId: string) => Standing;
}

/**
 * Works out every output of a run: masters in the order of the set, for each all presets in their order. Pure; writes
 * nothing. Within one run no two outputs ever share a name, whatever the presets say.
 */
export function planRun(request: PlanRequest): PlannedOutput[] {
  const naming = new Naming(request);
  const folders = new Map(request.presets.map(({ preset }) => [preset, folderSafe(preset.folder)]));
  const planned: PlannedOutput[] = [];
  for (const [index, master] of request.masters.entries()) {
    let isDecoded = false;
    for (const { id, preset, problem } of request.presets) {
      const about = { masterId: master.id, presetId: id };
      const reason = notFor(preset, master, id);
      const cell: PlanCell = { master, index: (request.from ?? 0) + index, presetId: id, preset, folder: folders.get(preset)!, isDecoded };
      const output: PlannedOutput = reason
        ? { status: 'not-for', ...about, reason }
        : problem
          ? { status: 'failed', ...about, error: problem }
          : planOutput(request, cell, naming);
      isDecoded ||= output.status === 'planned';
      planned.push(output);
    }
  }
  return planned;
}

/** One cell of the run sheet, before it is planned. */
interface PlanCell {
  master: PlanMaster;
  /** Place in the set, for the counter. */
  index: number;
  presetId: string;
  preset: Preset;
  folder: string;
  /** Whether the master is decoded for another output anyway. */
  isDecoded: boolean;
}

/** Whether the marks of a master let it have a preset: enough stars, and one of the tags if the preset names any. */
export const appliesTo = (preset: Preset, master: Pick<PlanMaster, 'rating' | 'tags'>): boolean =>
  hasStars(preset, master) && hasTag(preset, master);

const hasStars = ({ applies }: Preset, { rating }: Pick<PlanMaster, 'rating'>): boolean => rating >= applies.minRating;
const hasTag = ({ applies }: Preset, { tags }: Pick<PlanMaster, 'tags'>): boolean =>
  applies.tags.length === 0 || applies.tags.some((tag) => tags.some((own) => sameTag(own, tag)));

/** Why a preset makes nothing of a master; null: it does. */
function notFor(preset: Preset, master: PlanMaster, presetId: string): Finding | null {
  if (master.decisions && isLeftOut(master.decisions, presetId)) return LEFT_OUT;
  if (!hasStars(preset, master)) return finding('not-for', `Only for ${preset.applies.minRating} stars and up.`);
  if (hasTag(preset, master)) return null;
  const tags = preset.applies.tags.map((tag) => `“${tag}”`);
  return finding('not-for', `Only for pictures tagged ${tags.join(' or ')}.`);
}

function planOutput(request: PlanRequest, cell: PlanCell, naming: Naming): PlannedOutput {
  const { master, presetId, preset, folder } = cell;
  const about = { masterId: master.id, presetId };
  const failed = (error: Problem): PlannedOutput => ({ status: 'failed', ...about, error });
  if (!master.read.ok) return failed(master.read.problem);
  const target = request.targetOf ? request.targetOf(master) : '';
  if (typeof target !== 'string') return failed(target);
  const { house = null, fills = false } = request;
  const outcome = outcomeOf(master.fileName, master.read.facts, master.decisions, presetId, preset, house, fills);
  if (!outcome.ok) return failed(outcome.problem);
  const { fileName, at, wantedAt, warnings } = naming.nameOf(
    cell,
    target,
    wantedName(request.setTitle, cell, master.read.facts, outcome.size),
  );
  const place = { target, folder, fileName };
  const made = at.is === 'ours' ? at.made : null;
  if (isUpToDate(at)) return { status: 'skipped', ...about, ...place, reason: UNCHANGED, made };
  if (at.is !== 'free' && preset.existing === 'leave') return { status: 'skipped', ...about, ...place, reason: LEFT, made };
  if (at.is !== 'free' && preset.existing === 'stop') return failed(stopped(fileName));
  return {
    status: 'planned',
    ...about,
    ...place,
    ...outcome.size,
    expectedBytes: outcome.bytes,
    expectedMs: cell.isDecoded ? outcome.ms.next : outcome.ms.first,
    replaces: at.is === 'ours',
    made,
    stale: wantedAt.is === 'ours' ? wantedAt.stale : null,
    warnings: [...outcome.warnings, ...warnings],
  };
}

/** The name that a preset gives, before it is known whether that is free. */
function wantedName(set: string, { master, index, preset }: PlanCell, facts: MasterFacts, size: PixelSize): FileName {
  const stem = outputStem(preset.name, {
    fileName: master.fileName,
    set,
    preset: preset.title,
    index,
    ...size,
    captured: facts.captured,
    creator: facts.rights.creator,
  });
  return { stem, extension: FILE_TYPES[preset.file.type].extension || extensionOf(master.fileName) || extensionsOf(facts.format)[0]! };
}

interface FileName {
  stem: string;
  extension: string;
}

const isUpToDate = (at: Standing): boolean => at.is === 'ours' && at.upToDate;

/** The names of one run: no two outputs ever share one. */
class Naming {
  private readonly claimed = new Set<string>();

  constructor(private readonly request: PlanRequest) {}

  /** The name that an output gets, what stands there and at the wanted one, and what is to be said of it. */
  nameOf({ master, presetId, preset, folder }: PlanCell, target: string, name: FileName) {
    const prefix = folder ? `${folder}/` : '';
    const wanted = fileNameOf(name, 1);
    const wantedKey = claimKey(target, prefix + wanted);
    const keyOf = (fileName: string) => (fileName === wanted ? wantedKey : claimKey(target, prefix + fileName));
    const isClaimed = (fileName: string) => this.claimed.has(keyOf(fileName));
    const there = new Map<string, Standing>();
    const standingOf = (fileName: string): Standing => {
      const known = there.get(fileName) ?? this.request.standing(target, prefix + fileName, master.id, presetId);
      there.set(fileName, known);
      return known;
    };
    const fileName = firstName(name, (one) => !isClaimed(one) && mayUse(standingOf(one), preset));
    const wantedAt = standingOf(wanted);
    const isOther = fileName !== wanted;
    const warnings = [
      ...(isOther && isClaimed(wanted) ? [sameName(wanted, fileName)] : []),
      ...(wantedAt.is === 'master' ? [isMaster(wanted, fileName)] : []),
      ...(wantedAt.is === 'stranger' && isOther ? [isStranger(wanted, fileName)] : []),
    ];
    this.claimed.add(keyOf(fileName));
    return { fileName, at: standingOf(fileName), wantedAt, warnings };
  }
}

/** Whether an output may have the name of what stands there; what is not ours is never touched: it may at most be left, or stop the picture. */
function mayUse(at: Standing, { existing }: Preset): boolean {
  if (at.is === 'free' || isUpToDate(at)) return true;
  if (at.is === 'ours') return existing !== 'keep-both';
  return at.is === 'stranger' && (existing === 'leave' || existing === 'stop');
}

/** The first of `name`, `name-2`, `name-3` ... that may be used. */
function firstName(name: FileName, isFree: (fileName: string) => boolean): string {
  for (let copy = 1; ; copy++) {
    const fileName = fileNameOf(name, copy);
    if (isFree(fileName)) return fileName;
  }
}

const fileNameOf = ({ stem, extension }: FileName, copy: number): string => `${stem}${copy === 1 ? '' : `-${copy}`}.${extension}`;

/** Two names that differ only in case or Unicode form are one file on many disks. */
const claimKey = (target: string, path: string): string => `${target}\n${path.normalize('NFC').toLowerCase()}`;

/** A path below the target, `/` between levels. */
export const joinPath = (folder: string, fileName: string): string => (folder ? `${folder}/${fileName}` : fileName);

const LEFT_OUT = finding('not-for', 'It was decided that this preset makes nothing of it.');

/** Code of the reason why an output of a run is not made again. */
const UNCHANGED = finding('unchanged', 'Made before, and nothing has changed since.');

const LEFT = finding('left', 'A file of that name is there; the preset leaves it.');

const sameName = (wanted: string, got: string): Finding =>
  finding('same-name', `Another output of this run is called ${wanted}; this one becomes ${got}.`);

const isMaster = (wanted: string, got: string): Finding =>
  finding('is-master', `${wanted} is a master in the target folder and stays untouched; the output becomes ${got}.`);

const isStranger = (wanted: string, got: string): Finding =>
  finding(
    'is-stranger',
    `${wanted} is there, was not made here or has been changed since, and stays untouched; the output becomes ${got}.`,
  );

const stopped = (fileName: string): Problem => ({
  code: 'exists',
  message: `${fileName} is already there and the preset says stop. Move the file away, or choose keep both, replace or leave.`,
  file: fileName,
});
