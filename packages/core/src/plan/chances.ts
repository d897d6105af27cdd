import { isLeftOut } from '../decisions/decisions';
import { sameTag } from '../gather/marks';
import { folderSafe } from '../name/folder';
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
  outcome: Extract<Outcome, { ok: true }>;
}

/** What can come of one master by one preset, whatever it is called. */
export type Chance = Possible | { is: 'not-for'; reason: Finding } | { is: 'failed'; error: Problem };

/** What can come of each cell of a run sheet; each is worked out when it is first asked for. */
export class Chances {
  private readonly known = new Map<string, Chance>();
  private readonly masters: ReadonlyMap<string, PlanMaster>;
  private readonly presets: ReadonlyMap<string, PlanRequest['presets'][number] & { folder: string }>;

  constructor(private readonly request: PlanRequest) {
    this.masters = new Map(request.masters.map((master) => [master.id, master]));
    this.presets = new Map(request.presets.map((one) => [one.id, { ...one, folder: folderSafe(one.preset.folder) }]));
  }

  /** @returns null where the master or the preset is not of this run sheet */
  of(masterId: string, presetId: string): Chance | null {
    const key = `${masterId} ${presetId}`;
    const known = this.known.get(key);
    if (known) return known;
    const master = this.masters.get(masterId);
    const one = this.presets.get(presetId);
    if (!master || !one) return null;
    const chance = this.workOut(master, one);
    this.known.set(key, chance);
    return chance;
  }

  private workOut(master: PlanMaster, { id, preset, problem, folder }: PlanRequest['presets'][number] & { folder: string }): Chance {
    const reason = notFor(preset, master, id);
    if (reason) return { is: 'not-for', reason };
    if (problem) return { is: 'failed', error: problem };
    if (!master.read.ok) return { is: 'failed', error: master.read.problem };
    const target = this.request.targetOf ? this.request.targetOf(master) : '';
    if (typeof target !== 'string') return { is: 'failed', error: target };
    const { house = null, fills = false } = this.request;
    const outcome = outcomeOf(master.fileName, master.read.facts, master.decisions, id, preset, house, fills);
    return outcome.ok ? { is: 'possible', target, folder, outcome } : { is: 'failed', error: outcome.problem };
  }
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
