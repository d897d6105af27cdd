import { METADATA_GROUPS, type MetadataGroup, type MetadataRung } from '../preset/schema';
import { fieldsOf, isField, saysWhere } from './groups';
import type { MetadataPlan } from './tags';

/** Everything a reader found in a file, by `Group:Tag` with the most exact group. */
export type TagsRead = Readonly<Record<string, unknown>>;

/**
 * Holds what a finished file carries against its preset.
 * @param rung the Metadata rung
 * @param plan what was to be written
 * @param read what a reader found
 * @param carries which standards the file type can hold at all
 * @returns sentences for what differs; empty when all is as it should be
 */
export function metadataDifferences(rung: MetadataRung, plan: MetadataPlan, read: TagsRead, carries: { iptc: boolean }): string[] {
  const keys = Object.keys(read);
  const groups = METADATA_GROUPS.filter((group): group is Exclude<MetadataGroup, 'other'> => group !== 'other');
  const kept = groups.filter((group) => rung[group] === 'keep').flatMap(fieldsOf);
  const left = groups
    .filter((group) => rung[group] === 'remove')
    .flatMap((group) =>
      keys.filter((key) => fieldsOf(group).some((field) => isField(field, key)) && !kept.some((field) => isField(field, key))),
    );
  const places = rung.place === 'remove' ? keys.filter(saysWhere) : [];
  const missing = Object.entries(plan.set)
    .filter(([field]) => carries.iptc || !field.startsWith('IPTC:'))
    .filter(([field, value]) => !keys.some((key) => isField(field, key) && sameText(read[key], value)));
  return [
    ...[...new Set([...left, ...places])].map((key) => `it carries ${key}, which the preset removes`),
    ...missing.map(([field]) => `${field} is missing or differs`),
  ];
}

/** IPTC-IIM fields have a length that longer texts are cut to (IPTC-IIM 4.2, chapter 6); spaces at the ends may go. */
function sameText(read: unknown, written: string | string[]): boolean {
  const flat = (value: unknown) => [value].flat().map((item) => String(item).trim().toLowerCase());
  const a = flat(read);
  const b = flat(written);
  return a.length === b.length && a.every((text, at) => text === b[at] || (text.length >= 32 && b[at]!.startsWith(text)));
}
