import * as z from 'zod';
import { carriedPreset, type Decisions } from '../decisions/decisions';
import type { MasterFacts, Rights } from '../facts/facts';
import { fillRights, type StudioDetails } from '../metadata/studio';
import type { Preset } from '../preset/schema';

/** One credit line and how many pictures of a run go out with it. */
export const CreditLine = z
  .object({
    text: z.string().meta({ description: 'The copyright notice, else the creator; empty: none' }),
    from: z.enum(['file', 'set', 'studio', 'nobody']).meta({ description: 'Whose words they are; nobody: there are none to fill in' }),
    pictures: z.int(),
  })
  .meta({ id: 'CreditLine' });
export type CreditLine = z.infer<typeof CreditLine>;

/** A picture of a run with what makes outputs of it. */
export interface CreditedMaster {
  facts: MasterFacts;
  decisions: Decisions;
  presets: readonly { id: string; preset: Preset }[];
}

/**
 * The credit lines of a run, the most frequent first. Pictures whose presets all remove rights have none to speak of and do not count.
 * @param own the set's own details, over the studio's; empty fields are the studio's
 */
export function creditLines(masters: readonly CreditedMaster[], studio: StudioDetails, own: StudioDetails): CreditLine[] {
  const lines = new Map<string, CreditLine>();
  for (const { facts, decisions, presets } of masters) {
    const rungs = presets
      .map(({ id, preset }) => {
        const { metadata, file } = carriedPreset(preset, id, decisions);
        // Nothing is filled into an untouched copy.
        return file.type === 'original' ? { ...metadata, fill: false } : metadata;
      })
      .filter(({ rights }) => rights === 'keep');
    if (rungs.length === 0) continue;
    const line = lineOf(facts, rungs.some(({ fill }) => fill) && !facts.metadataUnread, studio, own);
    const key = `${line.from} ${line.text}`;
    const known = lines.get(key) ?? { ...line, pictures: 0 };
    lines.set(key, { ...known, pictures: known.pictures + 1 });
  }
  return [...lines.values()].sort((a, b) => b.pictures - a.pictures);
}

function lineOf(facts: MasterFacts, fills: boolean, studio: StudioDetails, own: StudioDetails): Omit<CreditLine, 'pictures'> {
  const told = (rights: Rights) => rights.copyright ?? rights.creator ?? '';
  const inFile = told(facts.rights);
  if (inFile || !fills) return { text: inFile, from: inFile ? 'file' : 'nobody' };
  const text = told(fillRights(facts, withOwn(studio, own)));
  return { text, from: !text ? 'nobody' : own.copyrightHolder || own.creator ? 'set' : 'studio' };
}

/** The studio's details under those that a set has of its own. */
export function withOwn(studio: StudioDetails, own: StudioDetails): StudioDetails {
  const said = Object.entries(own).filter(([, value]) => value !== '');
  return { ...studio, ...(Object.fromEntries(said) as Partial<StudioDetails>) };
}
