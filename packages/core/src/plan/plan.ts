import * as z from 'zod';
import type { MasterFacts } from '../facts/facts';
import { extensionsOf } from '../facts/formats';
import { FILE_TYPE_NAMES, FILE_TYPES } from '../file/types';
import { sameTag } from '../gather/marks';
import { folderSafe } from '../name/folder';
import { extensionOf, outputStem } from '../name/output-name';
import { METADATA_GROUPS, type Preset } from '../preset/schema';
import { Problem } from '../problem';
import { outputGeometry, type PixelSize } from '../size/geometry';
import { Finding, finding } from '../vet/finding';
import { type HouseRules, houseFindings, judgedAs } from '../vet/house-rules';
import { type Overrides, presetWithOverrides } from '../vet/overrides';
import { expectedBytes } from './weight';

const About = z.object({ masterId: z.string(), presetId: z.string() });

/** Where an output goes and how large it will be. */
export const PlannedFile = About.extend({
  status: z.literal('planned'),
  folder: z.string().meta({ description: 'Relative to the target, "/" between levels' }),
  fileName: z.string(),
  width: z.int(),
  height: z.int(),
  expectedBytes: z.int(),
  replaces: z.boolean().meta({ description: 'Whether a file of that name is there and will be replaced' }),
  warnings: z.array(Finding),
});
export type PlannedFile = z.infer<typeof PlannedFile>;

/** One cell of the run sheet: what will come of one master by one preset. */
export const PlannedOutput = z.discriminatedUnion('status', [
  PlannedFile,
  About.extend({ status: z.literal('skipped'), folder: z.string(), fileName: z.string(), reason: Finding }),
  About.extend({ status: z.literal('failed'), error: Problem }),
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
  overrides?: Overrides;
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
  /** What stands at a path below the target now: nothing, some file, or a master, which is never written over. */
  occupied: (path: string) => 'free' | 'file' | 'master';
  /** Whether the file that stands at a path was made of this master by this preset, and nothing has changed since. */
  unchanged: (path: string, masterId: string, presetId: string) => boolean;
}

/**
 * Works out every output of a run: masters in the order of the set, for each all presets in their order. Pure; writes
 * nothing. Within one run no two outputs ever share a name, whatever the presets say.
 */
export function planRun(request: PlanRequest): PlannedOutput[] {
  const claimed = new Set<string>();
  return request.masters.flatMap((master, index) =>
    request.presets
      .filter(({ id, preset }) => appliesTo(preset, master) && !master.overrides?.without.includes(id))
      .map(({ id, preset, problem }) =>
        problem
          ? { status: 'failed' as const, masterId: master.id, presetId: id, error: problem }
          : planOutput(request, master, (request.from ?? 0) + index, id, preset, claimed),
      ),
  );
}

/** Whether the marks of a master let it have a preset: enough stars, and one of the tags if the preset names any. */
export function appliesTo({ applies }: Preset, master: Pick<PlanMaster, 'rating' | 'tags'>): boolean {
  const tagged = applies.tags.length === 0 || applies.tags.some((tag) => master.tags.some((own) => sameTag(own, tag)));
  return master.rating >= applies.minRating && tagged;
}

function planOutput(
  { setTitle, house, occupied, unchanged }: PlanRequest,
  master: PlanMaster,
  index: number,
  presetId: string,
  preset: Preset,
  claimed: Set<string>,
): PlannedOutput {
  const about = { masterId: master.id, presetId };
  if (!master.read.ok) return { status: 'failed', ...about, error: master.read.problem };
  const { facts } = master.read;
  const isCopy = preset.file.type === 'original';
  if (isCopy && facts.gps && master.overrides?.dropPlace) return { status: 'failed', ...about, error: placeWouldStay(master.fileName) };
  if (!isCopy && facts.metadataUnread && keepsMetadata(master.overrides ? presetWithOverrides(preset, master.overrides) : preset))
    return { status: 'failed', ...about, error: unread(master.fileName) };
  const notKept = isCopy ? null : colourProblem(preset, facts);
  if (notKept) return { status: 'failed', ...about, error: notKept };
  const { output, short } = isCopy
    ? { output: { width: facts.width, height: facts.height }, short: false }
    : outputGeometry(preset.size, facts);
  const size = bordered(output, preset);
  const stem = outputStem(preset.name, {
    fileName: master.fileName,
    set: setTitle,
    preset: preset.title,
    index,
    ...size,
    captured: facts.captured,
    creator: facts.rights.creator,
  });
  const { longest, label, ...type } = FILE_TYPES[preset.file.type];
  const extension = type.extension || extensionOf(master.fileName) || extensionsOf(facts.format)[0]!;
  if (Math.max(size.width, size.height) > longest) return { status: 'failed', ...about, error: tooLong(size, label, longest) };
  const wanted = `${stem}.${extension}`;
  const folder = folderSafe(preset.folder);
  const isClaimed = (name: string) => claimed.has(claimKey(joinPath(folder, name)));
  const standing = (name: string) => occupied(joinPath(folder, name));
  const asBefore = (name: string) => standing(name) === 'file' && unchanged(joinPath(folder, name), master.id, presetId);
  const fileName = firstName(stem, extension, (name) => {
    if (isClaimed(name) || standing(name) === 'master') return false;
    return preset.existing !== 'keep-both' || standing(name) === 'free' || asBefore(name);
  });
  const place = { folder, fileName };
  const bytes = expectedBytes(facts, size, preset.file);
  const warnings = [
    ...(short ? [smallerThanAsked(facts)] : []),
    ...(isCopy ? [keptWhole(facts.gps)] : []),
    ...(isClaimed(wanted) ? [sameName(wanted, fileName)] : []),
    ...(standing(wanted) === 'master' ? [isMaster(wanted, fileName)] : []),
    ...(house ? houseFindings(house, size, { bytes, expected: !isCopy }, judgedAs(preset, facts)) : []),
  ];
  claimed.add(claimKey(joinPath(folder, fileName)));
  const isThere = standing(fileName) === 'file';
  if (asBefore(fileName)) return { status: 'skipped', ...about, ...place, reason: UNCHANGED };
  if (isThere && preset.existing === 'leave') return { status: 'skipped', ...about, ...place, reason: LEFT };
  if (isThere && preset.existing === 'stop') return { status: 'failed', ...about, error: stopped(fileName) };
  return {
    status: 'planned',
    ...about,
    ...place,
    ...size,
    warnings,
    expectedBytes: bytes,
    replaces: isThere,
  };
}

/** Why the colours of a master cannot be kept as the preset asks; null: they can. */
function colourProblem({ colour, file }: Preset, { colourModel, profile }: MasterFacts): Problem | null {
  if (colour.space !== 'keep' || (colourModel !== 'grey' && colourModel !== 'cmyk')) return null;
  const types = FILE_TYPE_NAMES.filter((name) => FILE_TYPES[name].keeps.includes(colourModel));
  const what = colourModel === 'grey' ? 'a grey picture' : 'print colour (CMYK)';
  const about = { code: 'colours-not-kept', field: 'colour.space' } as const;
  if (profile === null)
    return { ...about, message: `It is ${what} without a profile, so that there are no colours to keep. Choose a space in the preset.` };
  if (types.includes(file.type)) return null;
  const names = types.map((type) => FILE_TYPES[type].label).join(', ');
  return {
    ...about,
    message: `${FILE_TYPES[file.type].label} cannot keep ${what}. Choose one of ${names}, or another space in the preset.`,
  };
}

const keepsMetadata = ({ metadata }: Preset): boolean => METADATA_GROUPS.some((group) => metadata[group] === 'keep');

/** What an untouched copy carries: everything. */
const keptWhole = (gps: boolean): Finding =>
  gps
    ? finding('place-kept', 'An untouched copy: everything in the file goes out, where it was made included.')
    : finding('kept-whole', 'An untouched copy: everything in the file goes out.');

const placeWouldStay = (file: string): Problem => ({
  code: 'place-would-stay',
  field: 'file.type',
  file,
  message: 'Its location is to be removed, and an untouched copy would hand it over. Leave this preset out for it, or keep the location.',
});

const unread = (file: string): Problem => ({
  code: 'metadata-unread',
  field: 'metadata',
  file,
  message:
    'Its metadata could not be read, so that nothing of them can be kept. Export it again, or use a preset that removes all metadata.',
});

/** The first of `name`, `name-2`, `name-3` ... that may be used. */
function firstName(stem: string, extension: string, mayUse: (fileName: string) => boolean): string {
  for (let copy = 1; ; copy++) {
    const fileName = `${stem}${copy === 1 ? '' : `-${copy}`}.${extension}`;
    if (mayUse(fileName)) return fileName;
  }
}

/** Two names that differ only in case or Unicode form are one file on many disks. */
const claimKey = (path: string): string => path.normalize('NFC').toLowerCase();

/** A path below the target, `/` between levels. */
export const joinPath = (folder: string, fileName: string): string => (folder ? `${folder}/${fileName}` : fileName);

function bordered({ width, height }: { width: number; height: number }, { border }: Preset) {
  const edge = 2 * (border?.px ?? 0);
  return { width: width + edge, height: height + edge };
}

/** Code of the reason why an output of a run is not made again. */
const UNCHANGED = finding('unchanged', 'Made before, and nothing has changed since.');

const tooLong = ({ width, height }: PixelSize, label: string, longest: number): Problem => ({
  code: 'too-long',
  field: 'file.type',
  message: `${width} x ${height} px: a side of a ${label} file has at most ${longest} px. Choose a smaller size or another type.`,
});

const LEFT = finding('left', 'A file of that name is there; the preset leaves it.');

/** The one sentence for it, wherever it is told. */
export const smallerThanAsked = ({ width, height }: PixelSize): Finding =>
  finding('smaller-than-asked', `${width} × ${height} px: smaller than the preset asks, so it keeps its size.`);

const sameName = (wanted: string, got: string): Finding =>
  finding('same-name', `Another output of this run is called ${wanted}; this one becomes ${got}.`);

const isMaster = (wanted: string, got: string): Finding =>
  finding('is-master', `${wanted} is a master in the target folder and stays untouched; the output becomes ${got}.`);

const stopped = (fileName: string): Problem => ({
  code: 'exists',
  message: `${fileName} is already there and the preset says stop. Move the file away, or choose keep both, replace or leave.`,
  file: fileName,
});
