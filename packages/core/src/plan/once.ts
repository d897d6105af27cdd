import * as z from 'zod';
import { FILE_TYPES, LOSSY_TYPE_NAMES } from '../types/table';
import { FolderPath } from '../name/folder';
import { FIELDS, kilobytes, percentAlike } from '../preset/descriptors';
import { decimal, whole } from '../preset/fields';
import { Ceiling, type Preset, SizeRung } from '../preset/schema';
import { AXES, AXIS_IDS, axesOf, type AxisId, withValues } from '../proof/axes';

const { kernel, light } = SizeRung.shape;

/** Values of a preset that are another for one set, until they are cleared or saved: those that Proof varies, and the folder. */
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
    match: decimal(0.9, 1).meta({ title: FIELDS['file.match'].label }),
    ceiling: Ceiling.shape.bytes.meta({ title: FIELDS['file.ceiling.bytes'].label }),
    folder: FolderPath.meta({ title: 'Folder' }),
  } satisfies Record<AxisId | 'match' | 'ceiling' | 'folder', z.ZodType>)
  .partial()
  .meta({ id: 'Once' });
export type Once = z.infer<typeof Once>;

/** What is varied this once, by the id of its preset. */
export const OnceByPreset = z.record(z.uuid(), Once);
export type OnceByPreset = z.infer<typeof OnceByPreset>;

/** Which values of a preset can be varied: those that count for it. */
export const variable = (preset: Preset): (keyof Once)[] => [
  ...axesOf(preset),
  ...(FILE_TYPES[preset.file.type].lossy ? (['match', 'ceiling'] as const) : []),
  'folder',
];

/**
 * A preset as it is carried out this once. A quality goes before a likeness that is aimed at; what does not count for the preset is
 * passed over.
 */
export function varied(preset: Preset, once: Once | undefined): Preset {
  if (!once) return preset;
  const { match, ceiling, folder } = once;
  let other = withValues(preset, once);
  if (FILE_TYPES[other.file.type].lossy) {
    if (match !== undefined) other = { ...other, file: { ...other.file, match } };
    if (ceiling !== undefined) {
      const whole = { ...(other.file.ceiling ?? Ceiling.parse({ bytes: ceiling })), bytes: ceiling };
      other = { ...other, file: { ...other.file, ceiling: whole } };
    }
  }
  return folder === undefined ? other : { ...other, folder };
}

/** What is varied once more is varied. A quality and a likeness that is aimed at are one choice: the newer one holds. */
export function onceWith(once: Once | undefined, values: Once): Once {
  const { quality, match, ...rest } = { ...once, ...values };
  const aims = values.match !== undefined || (values.quality === undefined && match !== undefined);
  return Once.parse({ ...rest, ...(aims ? { match } : quality === undefined ? {} : { quality }) });
}

/** Values whose words begin with a name that is no proper one. */
const NAMED: readonly AxisId[] = ['quality', 'chroma', 'amount', 'radius'];

/** What is varied, in words, as they stand within a sentence: "1600 px", "quality 70", "WebP". */
export const variedInWords = (once: Once): string[] => [
  ...AXIS_IDS.flatMap((id) => {
    const value = once[id];
    if (value === undefined) return [];
    const words = AXES[id].says(value);
    return [NAMED.includes(id) ? words[0]!.toLowerCase() + words.slice(1) : words];
  }),
  ...(once.match === undefined ? [] : [`${percentAlike(once.match)} alike`]),
  ...(once.ceiling === undefined ? [] : [`at most ${kilobytes(once.ceiling)}`]),
];

/** Whether anything is varied. */
export const isVaried = (once: Once | undefined): boolean => once !== undefined && Object.values(once).some((value) => value !== undefined);
