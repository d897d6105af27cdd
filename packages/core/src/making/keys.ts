import type { MasterFacts } from '../facts/facts';
import { FILE_TYPES } from '../file/types';
import type { FileRung } from '../preset/schema';
import { recipeRungs, type SharedRecipe } from './recipe';
import { ENGINE } from './engines';

/**
 * How much of a file something depends on. `pixels`: the finished picture before it is encoded; `file`: that picture as it is encoded, with
 * its quality, size and chroma; `bytes`: the whole file, and so its weight.
 */
export type Depends = 'pixels' | 'file' | 'bytes';

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
  const described = depends === 'bytes' || rung.ceiling ? [metadata, details] : [];
  return JSON.stringify([...picture, file, ...described]);
}

/** What of the File rung decides about pixels: whether a type has transparency, how many bits, whether it can leave its colours unsaid. */
function pixelTraits({ type, bits }: FileRung) {
  const { transparency, untagged } = FILE_TYPES[type];
  return { transparency, untagged, bits, isCopy: type === 'original' };
}
