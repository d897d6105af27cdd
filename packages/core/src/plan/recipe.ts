import type { StudioDetails } from '../metadata/studio';
import { BorderRung, Ceiling, ColourRung, FileRung, MarkRung, MetadataRung, type Preset, SharpenRung, SizeRung } from '../preset/schema';

/**
 * Raised whenever the same master and preset would give another file than before. Plan says once that what an earlier engine
 * made is made again.
 */
export const ENGINE = 7;

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
 * decides which masters get an output, or what it is called, is left out; names are compared as names. Values that equal the
 * neutral default are left out too, so that a field that comes with a later release, and is neutral, makes nothing out of date.
 */
export function recipeText({ master, preset, studio, watermark }: Recipe): string {
  const { size, colour, sharpen, mark, border, file, metadata } = preset;
  if (file.type === 'original') return JSON.stringify([master, { file: { type: file.type } }]);
  const rungs = {
    size: differing(size, SizeRung.parse({})),
    colour: differing(colour, ColourRung.parse({})),
    sharpen: sharpen && differing(sharpen, SharpenRung.parse({})!),
    mark: mark && { ...differing({ ...mark, watermark: '-' }, MarkRung.parse({ watermark: '-' })!), watermark },
    border: border && differing(border, BorderRung.parse({ px: 1 })!, ['px']),
    file: {
      ...differing({ ...file, ceiling: null }, FileRung.parse({})),
      ...(file.ceiling ? { ceiling: differing(file.ceiling, Ceiling.parse({ bytes: 1000 }), ['bytes']) } : {}),
    },
    metadata: differing(metadata, MetadataRung.parse({})),
    details:
      metadata.rights === 'keep' && metadata.fill ? Object.fromEntries(Object.entries(studio).filter(([, said]) => said !== '')) : {},
  };
  const said = Object.entries(rungs).filter(([, rung]) => rung === null || Object.keys(rung).length > 0);
  const neutral = new Set(['mark', 'border']); // where null is what nobody asked for
  return JSON.stringify([ENGINE, master, Object.fromEntries(said.filter(([name, rung]) => rung !== null || !neutral.has(name)))]);
}

/** The fields that are not as they are by default, in the order of their names. @param always fields that have no default */
function differing<T extends object>(rung: T, neutral: T, always: readonly (keyof T)[] = []): Partial<T> {
  const names = (Object.keys(rung) as (keyof T)[]).sort();
  const kept = names.filter((name) => always.includes(name) || JSON.stringify(rung[name]) !== JSON.stringify(neutral[name]));
  return Object.fromEntries(kept.map((name) => [name, rung[name]])) as Partial<T>;
}
