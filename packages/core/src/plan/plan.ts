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
  const claimed = new Set<string>();
  const folders = new Map(request.presets.map(({ preset }) => [preset, folderSafe(preset.folder)]));
  const planned: PlannedOutput[] = [];
  for (const [index, master] of request.masters.entries()) {
    const decoded = { yet: false };
    for (const { id, preset, problem } of request.presets) {
      const about = { masterId: master.id, presetId: id };
      const reason = notFor(preset, master, id);
      if (reason) planned.push({ status: 'not-for', ...about, reason });
      else if (problem) planned.push({ status: 'failed', ...about, error: problem });
      else planned.push(planOutput(request, master, (request.from ?? 0) + index, id, preset, folders.get(preset)!, claimed, decoded));
    }
  }
  return planned;
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

function planOutput(
  { setTitle, house = null, fills = false, targetOf, standing }: PlanRequest,
  master: PlanMaster,
  index: number,
  presetId: string,
  preset: Preset,
  folder: string,
  claimed: Set<string>,
  decoded: { yet: boolean },
): PlannedOutput {
  const about = { masterId: master.id, presetId };
  if (!master.read.ok) return { status: 'failed', ...about, error: master.read.problem };
  const { facts } = master.read;
  const target = targetOf ? targetOf(master) : '';
  if (typeof target !== 'string') return { status: 'failed', ...about, error: target };
  const outcome = outcomeOf(master.fileName, facts, master.decisions, presetId, preset, house, fills);
  if (!outcome.ok) return { status: 'failed', ...about, error: outcome.problem };
  const { size, bytes, ms } = outcome;
  const stem = outputStem(preset.name, {
    fileName: master.fileName,
    set: setTitle,
    preset: preset.title,
    index,
    ...size,
    captured: facts.captured,
    creator: facts.rights.creator,
  });
  const extension = FILE_TYPES[preset.file.type].extension || extensionOf(master.fileName) || extensionsOf(facts.format)[0]!;
  const wanted = `${stem}.${extension}`;
  const prefix = folder ? `${folder}/` : '';
  const wantedKey = claimKey(target, prefix + wanted);
  const keyOf = (name: string) => (name === wanted ? wantedKey : claimKey(target, prefix + name));
  const isClaimed = (name: string) => claimed.has(keyOf(name));
  const there = new Map<string, Standing>();
  const standingOf = (name: string): Standing => {
    const known = there.get(name) ?? standing(target, prefix + name, master.id, presetId);
    there.set(name, known);
    return known;
  };
  const isUpToDate = (at: Standing) => at.is === 'ours' && at.upToDate;
  const fileName = firstName(stem, extension, (name) => {
    if (isClaimed(name)) return false;
    const at = standingOf(name);
    if (at.is === 'free' || isUpToDate(at)) return true;
    if (at.is === 'ours') return preset.existing !== 'keep-both';
    // What is not ours is never touched: then it may at most be left, or stop the picture.
    return at.is === 'stranger' && (preset.existing === 'leave' || preset.existing === 'stop');
  });
  const place = { target, folder, fileName };
  const at = standingOf(fileName);
  const wantedAt = standingOf(wanted);
  const taken = fileName !== wanted && isClaimed(wanted);
  claimed.add(keyOf(fileName));
  const made = at.is === 'ours' ? at.made : null;
  if (isUpToDate(at)) return { status: 'skipped', ...about, ...place, reason: UNCHANGED, made };
  if (at.is !== 'free' && preset.existing === 'leave') return { status: 'skipped', ...about, ...place, reason: LEFT, made };
  if (at.is !== 'free' && preset.existing === 'stop') return { status: 'failed', ...about, error: stopped(fileName) };
  const first = !decoded.yet;
  decoded.yet = true;
  return {
    status: 'planned',
    ...about,
    ...place,
    ...size,
    expectedBytes: bytes,
    expectedMs: first ? ms.first : ms.next,
    replaces: at.is === 'ours',
    made,
    stale: wantedAt.is === 'ours' ? wantedAt.stale : null,
    warnings: [
      ...outcome.warnings,
      ...(taken ? [sameName(wanted, fileName)] : []),
      ...(wantedAt.is === 'master' ? [isMaster(wanted, fileName)] : []),
      ...(wantedAt.is === 'stranger' && fileName !== wanted ? [isStranger(wanted, fileName)] : []),
    ],
  };
}

/** The first of `name`, `name-2`, `name-3` ... that may be used. */
function firstName(stem: string, extension: string, mayUse: (fileName: string) => boolean): string {
  for (let copy = 1; ; copy++) {
    const fileName = `${stem}${copy === 1 ? '' : `-${copy}`}.${extension}`;
    if (mayUse(fileName)) return fileName;
  }
}

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
