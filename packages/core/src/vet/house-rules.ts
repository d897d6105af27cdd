import * as z from 'zod';
import { line, oneOf, text, whole } from '../preset/fields';
import type { MasterFacts } from '../facts/facts';
import { type Preset, SPACE_NAMES } from '../preset/schema';
import { ENCODED_TYPE_NAMES, FILE_TYPES, type AnyTypeName, typeLabel } from '../types/table';
import { FIELDS, kilobytes } from '../preset/descriptors';
import type { PixelSize } from '../size/geometry';
import { type Finding, finding } from './finding';

const limit = (title: string, description: string) => whole(1, 10_000_000_000).nullable().default(null).meta({ title, description });

/** What a receiver demands of the files it is sent. Null and empty: anything goes. */
export const HouseRules = z.strictObject({
  title: line(120, 1).meta({ title: 'Name of the receiver' }),
  notes: text(2000).default('').meta({ title: 'Notes' }),
  mostPixels: limit('Longest side at most', 'px'),
  leastShortSide: limit('Short side at least', 'px'),
  mostBytes: limit('Weight at most', 'Of one file, bytes'),
  types: z.array(oneOf(ENCODED_TYPE_NAMES)).max(ENCODED_TYPE_NAMES.length).default([]).meta({ title: 'File types' }),
  spaces: z.array(oneOf(SPACE_NAMES)).max(SPACE_NAMES.length).default([]).meta({ title: 'Colours' }),
});
export type HouseRules = z.infer<typeof HouseRules>;

const spaceName = (space: Preset['colour']['space']): string =>
  FIELDS['colour.space'].suggestions.find(({ value }) => value === space)!.label;

/** Whether a finding is one of {@link houseFindings}. */
export const isHouseCode = (code: string): boolean => code.startsWith('house-');

/** What of a preset a receiver has rules for. */
type JudgedPreset = { file: { type: AnyTypeName }; colour: Pick<Preset['colour'], 'space'> };

/** A preset as a receiver meets it: an untouched copy has the type and the colours of its master. */
export const judgedAs = (preset: Preset, { format, sRgb }: Pick<MasterFacts, 'format' | 'sRgb'>): JudgedPreset =>
  preset.file.type === 'original' ? { file: { type: format }, colour: { space: sRgb ? 'srgb' : 'keep' } } : preset;

/**
 * Holds one output against what its receiver demands.
 * @param weight its bytes; `expected`: not made yet, so that they are a guess, and said to be one
 */
export function houseFindings(
  rules: HouseRules,
  { width, height }: PixelSize,
  { bytes, expected }: { bytes: number; expected: boolean },
  { file, colour }: JudgedPreset,
): Finding[] {
  const { title, mostPixels, leastShortSide, mostBytes, types, spaces } = rules;
  const long = Math.max(width, height);
  const short = Math.min(width, height);
  return [
    ...(mostPixels !== null && long > mostPixels
      ? [finding('house-long', `${title} takes ${mostPixels} px at most; this has ${long}.`)]
      : []),
    ...(leastShortSide !== null && short < leastShortSide
      ? [finding('house-short', `${title} asks for ${leastShortSide} px on the short side; this has ${short}.`)]
      : []),
    ...(mostBytes !== null && bytes > mostBytes
      ? [
          finding(
            'house-heavy',
            `${title} takes ${kilobytes(mostBytes)} at most; this ${expected ? 'will have about' : 'has'} ${kilobytes(bytes)}.`,
          ),
        ]
      : []),
    ...(types.length && !(types as readonly AnyTypeName[]).includes(file.type)
      ? [
          finding(
            'house-type',
            `${title} takes ${types.map((type) => FILE_TYPES[type].label).join(', ')}; the preset makes ${typeLabel(file.type)}.`,
          ),
        ]
      : []),
    ...(spaces.length && (colour.space === 'keep' || !spaces.includes(colour.space))
      ? [
          finding(
            'house-space',
            `${title} wants its colours in ${spaces.map(spaceName).join(' or ')}; the preset gives ${spaceName(colour.space)}.`,
          ),
        ]
      : []),
  ];
}

/** Made-up receivers, as a start. */
export const exampleHouseRules = (): HouseRules[] => [
  HouseRules.parse({
    title: 'Quayside Shop',
    notes: 'Product pictures for zooming.',
    leastShortSide: 2000,
    mostPixels: 5000,
    mostBytes: 10_000_000,
    types: ['jpeg'],
    spaces: ['srgb'],
  }),
  HouseRules.parse({
    title: 'Lantern Post',
    notes: 'Pictures in articles.',
    mostPixels: 1600,
    mostBytes: 400_000,
    types: ['jpeg', 'webp'],
    spaces: ['srgb'],
  }),
  HouseRules.parse({ title: 'Regatta Club', notes: 'By mail.', mostPixels: 1200, mostBytes: 300_000, types: ['jpeg'] }),
];
