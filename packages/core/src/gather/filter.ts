import * as z from 'zod';
import { MASTER_FORMATS } from '../types/table';
import type { MasterFacts } from '../facts/facts';
import { line } from '../preset/fields';
import { type Marks, sameTag, Tag } from './marks';

/** Which pictures of a set are shown. Every part narrows what the others leave. */
export const Filter = z.strictObject({
  text: line(200).default('').meta({ description: 'Letters of the file name, a tag or a keyword' }),
  stars: z.enum(['any', 'unrated', '1', '2', '3', '4', '5']).default('any').meta({ description: 'At least so many' }),
  choice: z.enum(['any', 'picked', 'left-out', 'in']).default('any').meta({ description: 'in: whatever is not left out' }),
  tags: z.array(Tag).max(100).default([]).meta({ description: 'At least one of them' }),
  findings: z.array(line(60)).max(100).default([]).meta({ description: 'Codes of findings, at least one of them' }),
  types: z.array(z.enum(MASTER_FORMATS)).max(MASTER_FORMATS.length).default([]),
  orientation: z.enum(['any', 'landscape', 'upright', 'square']).default('any'),
  ids: z.array(z.uuid()).max(5000).nullable().default(null).meta({ description: 'Only these, as another screen asked for; null: all' }),
});
export type Filter = z.infer<typeof Filter>;

export const ALL_PICTURES: Filter = Filter.parse({});

interface Filtered extends Marks {
  id: string;
  fileName: string;
  codes: readonly string[];
  facts: Pick<MasterFacts, 'width' | 'height' | 'format' | 'keywords'> | null;
}

/** Whether a picture passes a filter. What cannot be read passes no filter on facts. */
export function passes(filter: Filter, picture: Filtered): boolean {
  const { text, stars, choice, tags, findings, types, orientation, ids } = filter;
  return (
    (ids === null || ids.includes(picture.id)) &&
    (text === '' || wordsOf(picture).some((word) => includes(word, text))) &&
    (stars === 'any' || (stars === 'unrated' ? picture.stars === 0 : picture.stars >= Number(stars))) &&
    (choice === 'any' || CHOICES[choice](picture)) &&
    (tags.length === 0 || tags.some((tag) => picture.tags.some((own) => sameTag(own, tag)))) &&
    (findings.length === 0 || findings.some((code) => picture.codes.includes(code))) &&
    (types.length === 0 || (picture.facts !== null && types.includes(picture.facts.format))) &&
    (orientation === 'any' || (picture.facts !== null && orientationOf(picture.facts) === orientation))
  );
}

/** Whether a filter lets everything pass. */
export const isOpen = (filter: Filter): boolean => JSON.stringify(filter) === JSON.stringify(ALL_PICTURES);

export const orientationOf = ({ width, height }: { width: number; height: number }): 'landscape' | 'upright' | 'square' =>
  width === height ? 'square' : width > height ? 'landscape' : 'upright';

const CHOICES: Record<Exclude<Filter['choice'], 'any'>, (marks: Marks) => boolean> = {
  picked: ({ choice }) => choice === 'pick',
  'left-out': ({ choice }) => choice === 'out',
  in: ({ choice }) => choice !== 'out',
};

const wordsOf = ({ fileName, tags, facts }: Filtered): string[] => [fileName, ...tags, ...(facts?.keywords ?? [])];

const includes = (word: string, text: string): boolean => word.toLocaleLowerCase('en').includes(text.trim().toLocaleLowerCase('en'));
