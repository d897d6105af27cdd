import type { MasterFacts, Rights } from '../facts/facts';
import type { MetadataGroup, Preset } from '../preset/schema';
import { labelAt } from '../preset/labels';
import { fillContact, fillRights, StudioDetails } from './studio';

/** What becomes of one field of a picture. */
export interface FieldFate {
  group: MetadataGroup;
  label: string;
  /** What will stand in the file, or what is taken out of it. */
  value: string;
  fate: 'kept' | 'filled' | 'removed';
}

const RIGHTS: Record<keyof Rights, string> = {
  creator: 'Creator',
  copyright: 'Copyright notice',
  credit: 'Credit',
  terms: 'Terms of use',
  email: 'E-mail',
  website: 'Website',
  webStatement: 'Page on the rights',
};

/**
 * What of a picture's metadata would stand in an output, field by field, as far as the picture has them.
 * @param studio what fills missing rights
 */
export function fateOfFields(facts: MasterFacts, { metadata, file }: Preset, studio: StudioDetails): FieldFate[] {
  const isCopy = file.type === 'original';
  const kept = (group: MetadataGroup) => isCopy || metadata[group] === 'keep';
  const fate = (group: MetadataGroup) => (kept(group) ? 'kept' : 'removed');
  const field = (group: MetadataGroup, label: string, value: string | null): FieldFate[] =>
    value ? [{ group, label, value, fate: fate(group) }] : [];
  const filled = metadata.fill && !isCopy && kept('rights') ? fillRights(facts, studio) : facts.rights;
  const rights = (Object.keys(RIGHTS) as (keyof Rights)[]).flatMap((key): FieldFate[] => {
    const value = filled[key];
    if (!value) return [];
    return [{ group: 'rights', label: RIGHTS[key], value, fate: facts.rights[key] === null ? 'filled' : fate('rights') }];
  });
  const contact = metadata.fill && !isCopy && kept('rights') ? fillContact(facts, studio) : [];
  return [
    ...rights,
    ...contact.map(([name, value]): FieldFate => ({ group: 'rights', label: labelAt(StudioDetails, name) ?? name, value, fate: 'filled' })),
    ...field('description', 'Title', facts.title),
    ...field('description', 'Caption', facts.caption),
    ...field('description', 'Keywords', facts.keywords.join(', ')),
    ...field('capture', 'Time', facts.captured && facts.captured.replace('T', ', ')),
    ...field('capture', 'Camera', facts.camera),
    ...field('capture', 'Lens', facts.lens),
    ...field('place', 'Place', facts.gps ? 'a GPS position' : null),
    ...field('rating', 'Rating', facts.rating === null ? null : String(facts.rating)),
    ...field('other', 'Everything else', 'whatever else is in the file'),
  ];
}
