import * as z from 'zod';
import { LOSSY_TYPE_NAMES } from '../file/types';
import { FolderPath } from '../name/folder';
import { decimal, whole } from '../preset/fields';
import { type Preset, SizeRung } from '../preset/schema';
import { AXES, AXIS_IDS, axesOf, type AxisId, withValues } from '../proof/axes';

const { kernel, light } = SizeRung.shape;

/** Values of a preset that are another for one set, until they are cleared or saved: those that a test strip varies, and the folder. */
export const Once = z
  .strictObject({
    px: whole(1, 65_500).meta({ title: AXES.px.label }),
    quality: whole(1, 100).meta({ title: AXES.quality.label }),
    type: z.enum(LOSSY_TYPE_NAMES).meta({ title: AXES.type.label }),
    chroma: z.enum(['4:2:0', '4:4:4']).meta({ title: AXES.chroma.label }),
    amount: decimal(0, 5).meta({ title: AXES.amount.label }),
    radius: decimal(0.2, 10).meta({ title: AXES.radius.label }),
    kernel: kernel.unwrap().meta({ title: AXES.kernel.label }),
    light: light.unwrap().meta({ title: AXES.light.label }),
    folder: FolderPath.meta({ title: 'Folder' }),
  } satisfies Record<AxisId | 'folder', z.ZodType>)
  .partial()
  .meta({ id: 'Once' });
export type Once = z.infer<typeof Once>;

/** What is varied this once, by the id of its preset. */
export const OnceByPreset = z.record(z.uuid(), Once);
export type OnceByPreset = z.infer<typeof OnceByPreset>;

/** Which values of a preset can be varied: those that count for it. */
export const variable = (preset: Preset): (keyof Once)[] => [...axesOf(preset), 'folder'];

/**
 * A preset as it is carried out this once. A quality goes before a likeness that is aimed at; what does not count for the preset is
 * passed over.
 */
export function varied(preset: Preset, once: Once | undefined): Preset {
  if (!once) return preset;
  const other = withValues(preset, once);
  return once.folder === undefined ? other : { ...other, folder: once.folder };
}

/** Values whose words begin with a name that is no proper one. */
const NAMED: readonly AxisId[] = ['quality', 'chroma', 'amount', 'radius'];

/** What is varied, in words, as they stand within a sentence: "1600 px", "quality 70", "WebP". */
export const variedInWords = (once: Once): string[] =>
  AXIS_IDS.flatMap((id) => {
    const value = once[id];
    if (value === undefined) return [];
    const words = AXES[id].says(value);
    return [NAMED.includes(id) ? words[0]!.toLowerCase() + words.slice(1) : words];
  });

/** Whether anything is varied. */
export const isVaried = (once: Once | undefined): boolean => once !== undefined && Object.values(once).some((value) => value !== undefined);
