import { isLeftOut, NO_DECISIONS } from '../decisions/decisions';
import type { MasterFacts } from '../facts/facts';
import { sameTag } from '../gather/marks';
import { folderSafe } from '../name/folder';
import { partsOfPicture } from '../making/making';
import type { OutputOf } from '../parts/output-of';
import { missingInWords, type PresetPart } from '../parts/parts';
import type { Preset } from '../preset/schema';
import type { Problem } from '../problem';
import { type Finding, finding } from '../vet/finding';
import { type Outcome, outcomeOf } from './outcome';
import type { PlanMaster, PlanRequest } from './plan';

/** A preset makes something of a master. */
export interface Possible {
  is: 'possible';
  target: string;
  folder: string;
  facts: MasterFacts;
  outcome: Extract<Outcome, { ok: true }>;
}

/** What can come of one master by one file of a preset, whatever it is called. */
export type Chance = Possible | { is: 'not-for'; reason: Finding } | { is: 'failed'; error: Problem };

/** What can come of each cell of a run sheet. */
export class Chances {
  private readonly masters: ReadonlyMap<string, PlanMaster>;
  private readonly presets: ReadonlyMap<string, AskedPreset>;
  /** Of presets that make the same files of every picture. */
  private readonly sameParts = new Map<string, readonly PresetPart[]>();

  constructor(private readonly request: PlanRequest) {
    this.masters = new Map(request.masters.map((master) => [master.id, master]));
    this.presets = new Map(
      request.presets.map((one) => [one.id, { ...one, unnamed: namesAlike(one.preset), folder: folderSafe(one.preset.folder) }]),
    );
  }

  /** @returns null where the master, the preset or the part is not of this run sheet */
  of(output: OutputOf): Chance | null {
    const master = this.masters.get(output.masterId);
    const asked = this.presets.get(output.presetId);
    const part = master && asked && this.parts(master, asked.id).find(({ part: own }) => own === output.part);
    return part ? this.workOut(master, asked, part.preset) : null;
  }

  /** The same of a cell that is known to be of it. @param preset as it makes this file */
  ofCell({ master, presetId, preset }: { master: PlanMaster; presetId: string; preset: Preset }): Chance {
    return this.workOut(master, this.presets.get(presetId)!, preset);
  }

  /** Whether a picture and a preset are of this run sheet, whatever files come of them. */
  isOfRun({ masterId, presetId }: OutputOf): boolean {
    return this.masters.has(masterId) && this.presets.has(presetId);
  }

  /** The files that a preset of the run sheet makes of a master. */
  parts(master: PlanMaster, presetId: string): readonly PresetPart[] {
    const { preset } = this.presets.get(presetId)!;
    const known = this.sameParts.get(presetId);
    if (known) return known;
    const { read, decisions = NO_DECISIONS } = master;
    const parts = partsOfPicture(read.ok ? read.facts : null, preset, presetId, decisions);
    if ((preset.panels?.width ?? null) === null) this.sameParts.set(presetId, parts);
    return parts;
  }

  private workOut(master: PlanMaster, { id, problem, unnamed, folder }: AskedPreset, preset: Preset): Chance {
    const reason = notFor(preset, master, id);
    if (reason) return { is: 'not-for', reason };
    if (problem) return { is: 'failed', error: problem };
    if (unnamed) return { is: 'failed', error: unnamed };
    if (!master.read.ok) return { is: 'failed', error: master.read.problem };
    const target = this.request.targetOf ? this.request.targetOf(master, id) : '';
    if (typeof target !== 'string') return { is: 'failed', error: target };
    const { facts } = master.read;
    const outcome = outcomeOf(master.fileName, facts, master.decisions, id, preset, this.request.fills ?? false);
    return outcome.ok ? { is: 'possible', target, folder, facts, outcome } : { is: 'failed', error: outcome.problem };
  }
}

type AskedPreset = PlanRequest['presets'][number] & { unnamed: Problem | null; folder: string };

/** Why the files that a preset makes of one picture would have one name; null: they are told apart, or there is only one. */
export function namesAlike(preset: Pick<Preset, 'size' | 'panels' | 'name'>): Problem | null {
  const words = missingInWords(preset);
  if (words === '') return null;
  return {
    code: 'names-alike',
    field: 'name.parts',
    message: `It makes several files of each picture, and their names do not tell them apart. Add ${words} to the name.`,
  };
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

const LEFT_OUT = finding('not-for', 'It was decided that this preset makes nothing of it.');
