import type { MasterFacts } from '../facts/facts';
import { JUDGE } from '../proof/judgement';
import { FILE_TYPES } from '../types/table';
import type { FileRung } from '../preset/schema';
import { recipeRungs, type SharedRecipe } from './recipe';
import { ENGINE } from './engines';

/**
 * How much of a file something depends on. `pixels`: the finished picture before it is encoded; `file`: that picture as it is encoded, with
 * its quality, size and chroma; `bytes`: the whole file, and so its weight; `judged`: the whole file and what is thought of it.
 */
export type Depends = 'pixels' | 'file' | 'bytes' | 'judged';

/** Everything that decides about a file, but for its name and its time. */
export interface Ingredients extends SharedRecipe {
  /** Stands for the master's content. */
  content: string;
  /** What was decided about the picture changes these, but not its content. */
  facts: Pick<MasterFacts, 'exifSpace'>;
}

/**
 * What tells one picture, file or weight from another. Every cache of something that presets make is keyed by this, and every part of a preset,
 * a picture and a studio is assigned here, and nowhere else, to what it decides.
 */
export function keyOf(depends: Depends, { content, facts, ...shared }: Ingredients): string {
  const { file: rung } = shared.preset;
  const { file, metadata, details, ...pixels } = recipeRungs(shared);
  const picture = [ENGINE, content, facts.exifSpace, pixels, pixelTraits(rung)];
  if (depends === 'pixels') return JSON.stringify(picture);
  // Metadata take their room under a ceiling.
  const described = depends !== 'file' || rung.ceiling ? [metadata, details] : [];
  return JSON.stringify([...picture, file, ...described, ...(depends === 'judged' ? [JUDGE] : [])]);
}

/** What each field of the File rung decides first: pixels, or how they are encoded. */
const FILE_FIELDS: Readonly<Record<Exclude<keyof FileRung, 'type'>, 'pixels' | 'file'>> = {
  bits: 'pixels',
  quality: 'file',
  match: 'file',
  chroma: 'file',
  progressive: 'file',
  compression: 'file',
  ceiling: 'file',
};
const PIXEL_FIELDS = (Object.keys(FILE_FIELDS) as (keyof typeof FILE_FIELDS)[]).filter((field) => FILE_FIELDS[field] === 'pixels');

/** What of the File rung decides about pixels: its own fields, whether its type has transparency, and whether it can leave its colours unsaid. */
function pixelTraits(rung: FileRung) {
  const { transparency, untagged } = FILE_TYPES[rung.type];
  return { transparency, untagged, isCopy: rung.type === 'original', own: PIXEL_FIELDS.map((field) => rung[field]) };
}
