import * as z from 'zod';
import { FINDING_CODES, type FindingCode } from '../codes/finding-codes';
import { type Decisions, isLeftOut } from '../decisions/decisions';
import type { MasterFacts } from '../facts/facts';
import type { Choice } from '../gather/marks';
import { fillRights, type StudioDetails } from '../metadata/studio';
import { makingOf } from '../making/making';
import { appliesTo, planRun, type PlanMaster, smallerThanAsked } from '../plan/plan';
import { partPreset } from '../parts/parts';
import type { Preset } from '../preset/schema';
import type { Problem } from '../problem';
import { Finding } from './finding';
import type { HouseRules } from './house-rules';
import { KINDS, KINDS_IN_ORDER } from './kinds';
import { firstAlike } from '../judge/likeness';
import { masterFindings } from './master-findings';

/** What can be done about findings of a kind, by one press. */
export const Remedy = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('assume-srgb') }),
  z.object({ kind: z.literal('fill-rights') }),
  z
    .object({ kind: z.literal('name-studio') })
    .meta({ description: 'There is nothing to fill rights with: the studio’s own details come first' }),
  z.object({ kind: z.literal('drop-place') }),
  z.object({ kind: z.literal('leave-out') }),
  z.object({ kind: z.literal('read-again') }),
  z.object({ kind: z.literal('without'), presetId: z.uuid(), title: z.string() }),
]);
export type Remedy = z.infer<typeof Remedy>;

/** All findings of one kind in a set. */
export const VetGroup = z
  .object({
    code: Finding.shape.code,
    severity: Finding.shape.severity,
    title: z.string().meta({ description: 'What they have in common' }),
    consequence: z.string().meta({ description: 'What it would cause' }),
    remedy: Remedy.nullable(),
    pictures: z.array(z.object({ masterId: z.uuid(), message: z.string() })),
  })
  .meta({ id: 'VetGroup' });
export type VetGroup = z.infer<typeof VetGroup>;

/** A master as it is vetted. Pictures that are left out are not asked about. */
export interface VetMaster {
  id: string;
  fileName: string;
  read: { ok: true; facts: MasterFacts } | { ok: false; problem: Problem };
  stars: number;
  choice: Choice;
  tags: readonly string[];
  decisions: Decisions;
}

export interface VetRequest {
  setTitle: string;
  masters: readonly VetMaster[];
  presets: readonly { id: string; preset: Preset }[];
  house: HouseRules | null;
  studio: StudioDetails;
}

interface PictureFinding {
  code: FindingCode;
  masterId: string;
  message: string;
  /** The preset it is about, where it is about one. */
  presetId?: string;
}

/** Bits of two fingerprints that may differ in frames of one moment (common practice, no source). */
const ALIKE = 4;

/** Everything that would go wrong with a set and the presets chosen for it, grouped by kind, worst first. */
export function vetSet(request: VetRequest): VetGroup[] {
  const { presets } = request;
  const masters = request.masters.filter(({ choice }) => choice !== 'out');
  const found = [
    ...masters.flatMap((master) => [...ofMaster(master, request), ...ofPresets(master, presets), ...ofHouse(master, request.house)]),
    ...sameNames(masters, request),
    ...nearDuplicates(masters),
  ];
  return KINDS_IN_ORDER.flatMap((code) => groupsOf(code, found, request));
}

function groupsOf(code: FindingCode, found: readonly PictureFinding[], { presets, studio }: VetRequest): VetGroup[] {
  const { title, consequence, remedy: usual } = KINDS[code]!;
  const { severity } = FINDING_CODES[code];
  const nameless = studio.creator === '' && studio.copyrightHolder === '';
  const remedy = nameless && usual !== 'without' && usual?.kind === 'fill-rights' ? { kind: 'name-studio' as const } : usual;
  const ofKind = found.filter((one) => one.code === code);
  return [...new Set(ofKind.map(({ presetId }) => presetId))].map((presetId) => {
    const preset = presets.find(({ id }) => id === presetId)?.preset;
    const pictures = ofKind.filter((one) => one.presetId === presetId).map(({ masterId, message }) => ({ masterId, message }));
    const without: Remedy | null = preset && presetId ? { kind: 'without', presetId, title: preset.title } : null;
    return { code, severity, title: title(preset?.title ?? ''), consequence, pictures, remedy: remedy === 'without' ? without : remedy };
  });
}

/** What is to be said of the master itself, less what has been decided about it already. */
function ofMaster({ id, fileName, read, decisions }: VetMaster, { presets, studio }: VetRequest): PictureFinding[] {
  if (!read.ok)
    return [{ code: read.problem.code === 'interrupted' ? 'interrupted' : 'unreadable', masterId: id, message: read.problem.message }];
  const { facts } = read;
  const filled = fillRights(facts, studio);
  const fills =
    decisions.fillRights || (presets.length > 0 && presets.every(({ preset }) => preset.metadata.fill && preset.file.type !== 'original'));
  const settled: Partial<Record<FindingCode, boolean>> = {
    'no-profile': decisions.assumeSrgb,
    'rights-missing': fills && (filled.creator !== null || filled.copyright !== null),
    'out-of-gamut': presets.length > 0 && presets.every(({ preset }) => preset.colour.space !== 'srgb'),
    deep: presets.length > 0 && presets.every(({ preset }) => preset.file.bits === 16),
  };
  return masterFindings(facts, fileName)
    .filter(({ code }) => !settled[code])
    .map(({ code, message }) => ({ code, masterId: id, message }));
}

/** What one of the chosen presets would make of it. */
function ofPresets({ id, read, stars, tags, decisions }: VetMaster, presets: VetRequest['presets']): PictureFinding[] {
  if (!read.ok) return [];
  const { facts } = read;
  return presets
    .filter(({ id: presetId, preset }) => !isLeftOut(decisions, presetId) && appliesTo(preset, { rating: stars, tags }))
    .flatMap(({ id: presetId, preset }) => {
      // An untouched copy is as large as its master, and keeps its place; where that is to be removed, Plan makes none.
      const isCopy = preset.file.type === 'original';
      const { short, view } = makingOf(facts, partPreset(preset, ''), presetId, decisions).geometry;
      const kept = facts.gps && (isCopy || preset.metadata.place === 'keep') && !decisions.dropPlace;
      return [
        ...(short ? [{ ...smallerThanAsked(view ?? facts), masterId: id, presetId }] : []),
        ...(kept ? [{ code: 'place-kept' as const, masterId: id, message: `${preset.title} keeps where it was made.` }] : []),
      ];
    });
}

function ofHouse({ id, read }: VetMaster, house: HouseRules | null): PictureFinding[] {
  const least = house?.leastShortSide ?? null;
  if (!read.ok || !house || least === null) return [];
  const short = Math.min(read.facts.width, read.facts.height);
  if (short >= least) return [];
  return [
    { code: 'house-short', masterId: id, message: `${short} px on the short side; ${house.title} asks for ${house.leastShortSide}.` },
  ];
}

/** Masters that one preset would give one name: the planner tells them apart, but a number behind a name is hardly wanted. */
function sameNames(masters: readonly VetMaster[], { setTitle, presets }: VetRequest): PictureFinding[] {
  const planned = planRun({
    setTitle,
    masters: masters.map(planMasterOf),
    standing: () => ({ is: 'free' }),
    presets: presets.map((preset) => ({ ...preset, problem: null })),
  });
  return planned.flatMap((output) => {
    const warning = output.status === 'planned' && output.warnings.find(({ code }) => code === 'same-name');
    return warning ? [{ code: 'same-name', masterId: output.masterId, presetId: output.presetId, message: warning.message }] : [];
  });
}

/** A master as the planner takes it: left out ones are left out before. */
export function planMasterOf({ id, fileName, read, stars, tags, decisions }: VetMaster): PlanMaster {
  return { id, fileName, read, rating: stars, tags, decisions };
}

/** Frames that look almost the same, each told of the first of its kind. */
function nearDuplicates(masters: readonly VetMaster[]): PictureFinding[] {
  const prints = masters.map(({ read }) => (read.ok ? read.facts.likeness : null));
  return firstAlike(prints, ALIKE).flatMap((first, at) =>
    first === null
      ? []
      : [{ code: 'near-duplicate', masterId: masters[at]!.id, message: `Looks almost like ${masters[first]!.fileName}.` }],
  );
}
