import type { StudioDetails } from '../metadata/studio';
import type { Preset } from '../preset/schema';

/** Raised whenever the same master and preset would give another file than before. */
export const ENGINE = 5;

/** Everything that decides what is in an output. Two outputs of one recipe are the same file. */
export interface Recipe {
  /** Stands for the master's content: its hash, or what tells a changed file from an unchanged one. */
  master: string;
  preset: Preset;
  studio: StudioDetails;
  /** Stands for the content of the watermark that the preset names; null: none. */
  watermark: string | null;
}

/**
 * A recipe as text, the same for the same recipe: to be hashed, kept, and compared with what is wanted next time. What only
 * decides which masters get an output, or what it is called, is left out; names are compared as names.
 */
export function recipeText({ master, preset, studio, watermark }: Recipe): string {
  const { size, colour, sharpen, mark, border, file, metadata } = preset;
  const details = metadata.rights === 'keep' && metadata.fill ? studio : null;
  return JSON.stringify([ENGINE, master, size, colour, sharpen, mark && { ...mark, watermark }, border, file, metadata, details]);
}
