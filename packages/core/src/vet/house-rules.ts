import * as z from 'zod';
import { line, oneOf } from '../preset/fields';
import type { Preset } from '../preset/schema';
import type { PixelSize } from '../size/geometry';
import type { Finding } from './finding';

const limit = (description: string) => z.int().min(1).max(1e10).nullable().default(null).meta({ description });

/** What a receiver demands of the files it is sent. Null and empty: anything goes. */
export const HouseRules = z.strictObject({
  title: line(120, 1),
  notes: z.string().max(2000).default(''),
  mostPixels: limit('Longest side, px'),
  leastShortSide: limit('Least length of the short side, px'),
  mostBytes: limit('Most weight of a file, bytes'),
  types: z.array(oneOf(['jpeg', 'webp', 'avif', 'png', 'tiff'])).default([]),
  spaces: z.array(oneOf(['srgb', 'display-p3', 'adobe-rgb'])).default([]),
});
export type HouseRules = z.infer<typeof HouseRules>;

const look = (code: string, message: string): Finding => ({ code, severity: 'look', message });

/**
 * Holds one output, planned or made, against what its receiver demands.
 * @param bytes weight, expected or real
 */
export function houseFindings(rules: HouseRules, { width, height }: PixelSize, bytes: number, { file, colour }: Preset): Finding[] {
  const { title, mostPixels, leastShortSide, mostBytes, types, spaces } = rules;
  const long = Math.max(width, height);
  const short = Math.min(width, height);
  return [
    ...(mostPixels !== null && long > mostPixels ? [look('house-long', `${title} takes ${mostPixels} px at most; this has ${long}.`)] : []),
    ...(leastShortSide !== null && short < leastShortSide
      ? [look('house-short', `${title} asks for ${leastShortSide} px on the short side; this has ${short}.`)]
      : []),
    ...(mostBytes !== null && bytes > mostBytes
      ? [look('house-heavy', `${title} takes ${Math.round(mostBytes / 1000)} KB at most; this has ${Math.round(bytes / 1000)}.`)]
      : []),
    ...(types.length && !types.includes(file.type)
      ? [look('house-type', `${title} takes ${types.join(', ')}; the preset makes ${file.type}.`)]
      : []),
    ...(spaces.length && (colour.space === 'keep' || !spaces.includes(colour.space))
      ? [look('house-space', `${title} wants its colours in ${spaces.join(' or ')}; the preset gives ${colour.space}.`)]
      : []),
  ];
}

/** Made-up receivers, as a start. */
export const exampleHouseRules = (): HouseRules[] => [
  HouseRules.parse({
    ...{ title: 'Quayside Shop', notes: 'Product pictures for zooming.', leastShortSide: 2000, mostPixels: 5000, mostBytes: 10_000_000 },
    ...{ types: ['jpeg'], spaces: ['srgb'] },
  }),
  HouseRules.parse({
    ...{ title: 'Lantern Post', notes: 'Pictures in articles.', mostPixels: 1600, mostBytes: 400_000, types: ['jpeg', 'webp'] },
    spaces: ['srgb'],
  }),
  HouseRules.parse({ title: 'Regatta Club', notes: 'By mail.', mostPixels: 1200, mostBytes: 300_000, types: ['jpeg'] }),
];
