import type { MasterFacts } from '../facts/facts';
import { FILE_TYPE_NAMES, FILE_TYPES } from '../types/table';
import type { PresetPart } from '../parts/parts';
import type { EdgeFill } from '../parts/schema';
import { METADATA_GROUPS, type Preset } from '../preset/schema';
import type { Problem } from '../problem';
import { type Decisions, NO_DECISIONS } from '../decisions/decisions';
import { bordered, lacksPanel, type Making, makingOf, withEdge } from '../making/making';
import type { PixelSize } from '../size/geometry';
import { type Finding, finding } from '../vet/finding';
import { expectedMs } from './time';
import { bytesWithoutCeiling } from './weight';

/** What one master becomes by one preset, whatever it is called and whatever else is made. */
export type Outcome =
  | { ok: false; problem: Problem }
  | {
      ok: true;
      size: PixelSize;
      /** Expected by the picture alone, without a ceiling. */
      bytes: number;
      /** Expected ms on an ordinary machine: alone, and where another output of the master has been made. */
      ms: { first: number; next: number };
      warnings: readonly Finding[];
      /** What it was called last; null: it was not yet. */
      named: { last: WantedName | null };
    };

export interface FileName {
  stem: string;
  extension: string;
}

/** The name that a preset gives, where it leads, and what it was worked out from beside what the outcome stands for. */
export interface WantedName {
  name: FileName;
  fileName: string;
  /** Below the target. */
  path: string;
  /** The same for places that are one on many disks. */
  key: string;
  from: { set: string; index: number; named: PresetPart['named']; target: string; folder: string };
}

/**
 * What has been worked out of a master, for as long as facts and preset are the same objects: a plan after a change works out what it touches. The
 * oldest first. Lists, since the collector goes through the entries of thousands of weak maps again and again.
 */
const known = new WeakMap<MasterFacts, Known[]>();
/** Presets, drafts of them included, whose outcomes are kept for each master. */
const MOST_KNOWN = 16;

interface Known {
  preset: Preset;
  asked: Asked;
  outcome: Outcome;
}

interface Asked {
  fileName: string;
  presetId: string;
  decisions: Decisions;
  fills: boolean;
}

/**
 * What one master becomes by one preset.
 * @param fileName its own, for messages
 * @param presetId the preset's own, by which decisions about it are known
 * @param fills whether there are rights details to fill in
 */
export function outcomeOf(
  fileName: string,
  facts: MasterFacts,
  decisions: Decisions | undefined,
  presetId: string,
  preset: Preset,
  fills: boolean,
): Outcome {
  let ofFacts = known.get(facts);
  if (!ofFacts) known.set(facts, (ofFacts = []));
  const decided = decisions ?? NO_DECISIONS;
  const at = ofFacts.findIndex((one) => one.preset === preset);
  const was = ofFacts[at];
  if (was && isAsked(was.asked, fileName, presetId, decided, fills)) return was.outcome;
  const asked: Asked = { fileName, presetId, decisions: decided, fills };
  const outcome = workOut(facts, preset, asked);
  if (at >= 0) ofFacts.splice(at, 1);
  else if (ofFacts.length === MOST_KNOWN) ofFacts.shift();
  ofFacts.push({ preset, asked, outcome });
  return outcome;
}

const isAsked = (was: Asked, fileName: string, presetId: string, decisions: Decisions, fills: boolean): boolean =>
  was.fileName === fileName && was.presetId === presetId && was.decisions === decisions && was.fills === fills;

function workOut(facts: MasterFacts, preset: Preset, { fileName, presetId, decisions, fills }: Asked): Outcome {
  const isCopy = preset.file.type === 'original';
  const making = makingOf(facts, preset, presetId, decisions);
  const { preset: carried, geometry, size, cutBy } = making;
  const failed = (problem: Problem): Outcome => ({ ok: false, problem });
  if (isCopy && facts.gps && decisions.dropPlace) return failed(placeWouldStay(fileName));
  if (!isCopy && facts.metadataUnread && keepsMetadata(carried)) return failed(unread(fileName));
  const notKept = isCopy ? null : colourProblem(preset, facts);
  if (notKept) return failed(notKept);
  if (lacksPanel(making)) return failed(panelTooLarge(bordered(geometry.output, preset)));
  const { longest, label } = FILE_TYPES[preset.file.type];
  if (Math.max(size.width, size.height) > longest) return failed(tooLong(size, label, longest));
  return {
    ok: true,
    size,
    bytes: bytesOf(facts, making, fills),
    ms: { first: expectedMs(facts, size, preset, true), next: expectedMs(facts, size, preset, false) },
    named: { last: null },
    warnings: [
      ...(geometry.short ? [smallerThanAsked(geometry.view ?? facts)] : []),
      ...(cutBy === 'proposed' || cutBy === 'middle' ? [CROP_PROPOSED] : []),
      ...(isCopy ? [keptWhole(facts.gps, decisions.crop !== null)] : []),
    ],
  };
}

/** What a file is expected to weigh by its picture; the edges of a canvas have the more, the more of the picture they show. */
function bytesOf(facts: MasterFacts, { preset, size, edge, magnified }: Making, fills: boolean): number {
  const inner = withEdge(size, -edge);
  const bytes = bytesWithoutCeiling(facts, inner, preset, magnified, fills);
  if (!preset.canvas) return bytes;
  const added = (size.width * size.height) / (inner.width * inner.height) - 1;
  return Math.round(bytes * (1 + added * ((EDGE_DETAIL as Partial<Record<string, number>>)[preset.canvas.fill] ?? COLOUR_DETAIL)));
}

/** How much as heavy as the picture its edges are, px for px: medians of 23 demo pictures as JPEGs of 1,800 px and quality 80 with edges of 150 px. */
const EDGE_DETAIL: Record<EdgeFill, number> = { mirror: 0.73, 'soft-mirror': 0.31, stretch: 0.49 };
const COLOUR_DETAIL = 0.11;

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

const keepsMetadata = ({ metadata }: Pick<Preset, 'metadata'>): boolean => METADATA_GROUPS.some((group) => metadata[group] === 'keep');

/** What an untouched copy carries: everything. */
const keptWhole = (gps: boolean, isCropped: boolean): Finding => {
  const uncropped = isCropped ? ' It is not cropped.' : '';
  return gps
    ? finding('place-kept', `An untouched copy: everything in the file goes out, where it was made included.${uncropped}`)
    : finding('kept-whole', `An untouched copy: everything in the file goes out.${uncropped}`);
};

/** Of a cut that nobody has looked at. */
const CROP_PROPOSED = finding('crop-proposed', 'Where it is cropped to the preset’s ratio is a proposal that nobody has looked at.');

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

const panelTooLarge = ({ width, height }: PixelSize): Problem => ({
  code: 'panel-too-large',
  field: 'panels',
  message: `The picture becomes ${width} × ${height} px, which has no room for such a panel. Choose smaller panels, a larger size, or allow enlarging.`,
});

const tooLong = ({ width, height }: PixelSize, label: string, longest: number): Problem => ({
  code: 'too-long',
  field: 'file.type',
  message: `${width} x ${height} px: a side of a ${label} file has at most ${longest} px. Choose a smaller size or another type.`,
});

/** The one sentence for it, wherever it is told. @param of the picture, or what is used of it */
export const smallerThanAsked = ({ width, height }: PixelSize): Finding =>
  finding('smaller-than-asked', `${width} × ${height} px: smaller than the preset asks, so it keeps its size.`);
