import type { StudioDetails } from '../metadata/studio';
import { type PlacedPanels } from '../parts/parts';
import { CanvasRung, PanelsRung } from '../parts/schema';
import { BorderRung, Ceiling, ColourRung, FileRung, MarkRung, MetadataRung, type Preset, SharpenRung, SizeRung } from '../preset/schema';
import { activeTone, NO_TONE } from '../tone/schema';
import { ENGINE } from './engines';

/** Everything that decides what is in an output. Two outputs of one recipe are the same file. */
export interface Recipe extends SharedRecipe {
  /** Stands for the master's content: its hash, or what tells a changed file from an unchanged one. */
  master: string;
  /** Number of the engine that makes it; this one, unless it is said. */
  engine?: number;
}

/** The part of it that many masters share. */
export interface SharedRecipe {
  preset: Preset;
  studio: StudioDetails;
  /** The watermark that the preset names, or what stands for its content; null: none. */
  watermark: string | object | null;
}

/**
 * A recipe as text, the same for the same recipe: to be hashed, kept, and compared with what is wanted next time. What only
 * decides which masters get an output, or what it is called, is left out; names are compared as names. Values that equal the
 * neutral default are left out too, so that a field that comes with a later release, and is neutral, makes nothing out of date.
 */
export const recipeText = ({ master, engine, ...shared }: Recipe): string => recipeTexts(shared)(master, engine);

/** The same for many masters: what they share is written once. */
export function recipeTexts(shared: SharedRecipe): (master: string, engine?: number) => string {
  const { type } = shared.preset.file;
  if (type === 'original') return (master) => JSON.stringify([master, { file: { type } }]);
  const rungs = recipeRungs(shared);
  const said = Object.entries(rungs).filter(([, rung]) => rung === null || Object.keys(rung).length > 0);
  const silent = new Set(['mark', 'border']); // where null is what nobody asked for
  const text = JSON.stringify(Object.fromEntries(said.filter(([name, rung]) => rung !== null || !silent.has(name))));
  return (master, engine = ENGINE) => `[${engine},${JSON.stringify(master)},${text}]`;
}

/** The rungs of a preset as they count for a file, each with what it says beside the neutral default. */
export function recipeRungs({ preset, studio, watermark }: SharedRecipe) {
  const { size, colour, sharpen, mark, border, panels, canvas, file, metadata } = preset;
  const plain = (neutral ??= neutralRungs());
  const tone = activeTone(preset.tone);
  const toneSaid = tone && differing(tone, NO_TONE);
  return {
    size: differing(size, plain.size),
    colour: differing(colour, plain.colour),
    sharpen: sharpen && differing(sharpen, plain.sharpen),
    mark: mark && { ...differing({ ...mark, watermark: '-' }, plain.mark), watermark },
    border: border && differing(border, plain.border, ['px']),
    // Left out where there are none, as they were before there were any.
    ...(toneSaid ? { tone: toneSaid } : {}),
    ...(panels ? { panels: panelsSaid(panels, plain.panels) } : {}),
    ...(canvas ? { canvas: differing(canvas, plain.canvas, ['width']) } : {}),
    file: {
      ...differing({ ...file, ceiling: null }, plain.file),
      ...(file.ceiling ? { ceiling: differing(file.ceiling, plain.ceiling, ['bytes']) } : {}),
    },
    metadata: differing(metadata, plain.metadata),
    details:
      metadata.rights === 'keep' && metadata.fill ? Object.fromEntries(Object.entries(studio).filter(([, said]) => said !== '')) : {},
  };
}

/** Which of them it is, too; in which order they are counted changes no file. */
function panelsSaid({ at, ...panels }: PlacedPanels, plain: PanelsRung) {
  return { ...differing({ ...panels, order: plain.order }, plain), ...(at === undefined ? {} : { at }) };
}

/** Rungs that ask for nothing; made when they are first needed, since the schemas have to be there. */
let neutral: ReturnType<typeof neutralRungs> | undefined;
const neutralRungs = () => ({
  size: SizeRung.parse({}),
  colour: ColourRung.parse({}),
  sharpen: SharpenRung.parse({})!,
  mark: MarkRung.parse({ watermark: '-' })!,
  border: BorderRung.parse({ px: 1 })!,
  panels: PanelsRung.parse({ columns: 1, rows: 1 }),
  canvas: CanvasRung.parse({ width: 1 }),
  file: FileRung.parse({}),
  ceiling: Ceiling.parse({ bytes: 1000 }),
  metadata: MetadataRung.parse({}),
});

/** The fields that are not as they are by default, in the order of their names. @param always fields that have no default */
function differing<T extends object>(rung: T, plain: T, always: readonly (keyof T)[] = []): Partial<T> {
  const names = (Object.keys(rung) as (keyof T)[]).sort();
  const kept = names.filter((name) => always.includes(name) || JSON.stringify(rung[name]) !== JSON.stringify(plain[name]));
  return Object.fromEntries(kept.map((name) => [name, rung[name]])) as Partial<T>;
}
