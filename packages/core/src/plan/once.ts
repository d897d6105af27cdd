import * as z from 'zod';
import { FILE_TYPES, LOSSY_TYPE_NAMES } from '../types/table';
import { FolderPath } from '../name/folder';
import { changesBetween } from '../preset/changes';
import { fieldAt, FIELDS, kilobytes, percentAlike } from '../preset/descriptors';
import { type FieldPath, putAt, valueAt } from '../preset/field-paths';
import { Place, placeWords } from './place';
import { decimal, whole } from '../preset/fields';
import { parsePreset } from '../preset/parse';
import { Ceiling, type Preset, SizeRung, SPACE_NAMES } from '../preset/schema';
import { AXES, AXIS_IDS, axesOf, type AxisId, withValues } from '../proof/axes';

const { kernel, light } = SizeRung.shape;
const PATHS = Object.keys(FIELDS) as [FieldPath, ...FieldPath[]];

/** Values of a preset that are another for one set, until they are cleared or saved: those that Proof varies by name, all others by their path. */
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
    exposure: decimal(-4, 4).meta({ title: AXES.exposure.label }),
    saturation: decimal(-1, 1).meta({ title: AXES.saturation.label }),
    match: decimal(0.9, 1).meta({ title: FIELDS['file.match'].label }),
    ceiling: Ceiling.shape.bytes.meta({ title: FIELDS['file.ceiling.bytes'].label }),
    space: z.enum(SPACE_NAMES).meta({ title: FIELDS['colour.space'].label }),
    folder: FolderPath.meta({ title: 'Folder' }),
    place: Place.meta({ title: 'Place', description: 'Where its files go' }),
    values: z
      .partialRecord(z.enum(PATHS), z.json())
      .meta({ title: 'Values', description: 'Any other values of the preset, by their paths; what is named above goes before them' }),
  } satisfies Record<AxisId | 'match' | 'ceiling' | 'space' | 'folder' | 'place' | 'values', z.ZodType>)
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
  ...(preset.file.type === 'original' ? [] : (['space'] as const)),
  'folder',
];

/**
 * What is varied of a preset, so that it is carried out as another one; nothing where they are alike.
 * @example onceOf(preset, { ...preset, folder: 'tuesday' }) // { values: { folder: 'tuesday' } }
 */
export function onceOf(preset: Preset, wanted: Preset): Once {
  const values = changesBetween(preset, wanted).map(({ path }) => [path, valueAt(wanted, path)] as const);
  return values.length ? Once.parse({ values: Object.fromEntries(values) }) : {};
}

/** A preset with other values. Those that do not fit to what it says by now are passed over, so that it can always be carried out. */
function withFields(preset: Preset, values: NonNullable<Once['values']>): Preset {
  let [other, left] = [preset, Object.entries(values)];
  const all = parsePreset(left.reduce((made, [path, value]) => putAt(made, path, value), preset));
  if (all.ok) return all.value;
  // Some fit only once another is there.
  for (let before = -1; before !== left.length;) {
    before = left.length;
    left = left.filter(([path, value]) => {
      const parsed = parsePreset(putAt(other, path, value));
      if (parsed.ok) other = parsed.value;
      return !parsed.ok;
    });
  }
  return other;
}

/**
 * A preset as it is carried out this once. A quality goes before a likeness that is aimed at; what does not count for the preset is
 * passed over.
 */
export function varied(preset: Preset, once: Once | undefined): Preset {
  if (!once) return preset;
  const { match, ceiling, space, folder } = once;
  let other = withValues(once.values ? withFields(preset, once.values) : preset, once);
  if (space !== undefined && other.file.type !== 'original') other = { ...other, colour: { ...other.colour, space } };
  if (FILE_TYPES[other.file.type].lossy) {
    if (match !== undefined) other = { ...other, file: { ...other.file, match } };
    if (ceiling !== undefined) {
      const whole = { ...(other.file.ceiling ?? Ceiling.parse({ bytes: ceiling })), bytes: ceiling };
      other = { ...other, file: { ...other.file, ceiling: whole } };
    }
  }
  return folder === undefined ? other : { ...other, folder };
}

/**
 * A preset of several sizes with other values for one of them: its own length, and its own quality and ceiling where it has them; all else is the
 * preset's.
 * @param part label of that size; of a preset of one size nothing
 */
export function variedPart(preset: Preset, part: string, once: Once): Preset {
  const whole = varied(preset, once);
  const { px, quality, ceiling } = once;
  const sizes = whole.size.sizes.map((size) =>
    size.label === part
      ? {
          ...size,
          ...(px === undefined ? {} : { px }),
          ...(quality === undefined || size.quality === null ? {} : { quality }),
          ...(ceiling === undefined || size.ceiling === null ? {} : { ceiling: { ...size.ceiling, bytes: ceiling } }),
        }
      : size,
  );
  return sizes.length ? { ...whole, size: { ...whole.size, sizes } } : whole;
}

/** Whether values that were judged on one file of a preset can be varied for a set: those that a size of a family has of its own cannot. */
export function isOfAllParts(preset: Preset, part: string, once: Once): boolean {
  const own = preset.size.sizes.find(({ label }) => label === part);
  return (
    !own || (once.px === undefined && (once.quality === undefined || own.quality === null) && (once.ceiling === undefined || !own.ceiling))
  );
}

/** What is varied once more is varied. A quality and a likeness that is aimed at are one choice: the newer one holds. */
export function onceWith(once: Once | undefined, values: Once): Once {
  const { quality, match, values: others, ...rest } = { ...once, ...values };
  const aims = values.match !== undefined || (values.quality === undefined && match !== undefined);
  const superseded = new Set<string>(Object.keys(values).flatMap((name) => PATHS_OF[name as Named] ?? []));
  const left = Object.entries(others ?? {}).filter(([path]) => !superseded.has(path));
  return Once.parse({
    ...rest,
    ...(aims ? { match } : quality === undefined ? {} : { quality }),
    ...(left.length ? { values: Object.fromEntries(left) } : {}),
  });
}

/** Where the values with names of their own stand in a preset. */
type Named = Exclude<keyof Once, 'values'>;
const PATHS_OF: Readonly<Record<Named, readonly FieldPath[]>> = {
  px: ['size.px'],
  quality: ['file.quality', 'file.match'],
  type: ['file.type'],
  chroma: ['file.chroma'],
  amount: ['sharpen.amount'],
  radius: ['sharpen.radius'],
  kernel: ['size.kernel'],
  light: ['size.light'],
  exposure: ['tone.exposure'],
  saturation: ['tone.saturation'],
  match: ['file.match', 'file.quality'],
  ceiling: ['file.ceiling.bytes'],
  space: ['colour.space'],
  folder: ['folder'],
  place: ['place'],
};

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
  ...(once.match === undefined ? [] : [`${percentAlike(once.match)} fidelity`]),
  ...(once.ceiling === undefined ? [] : [`at most ${kilobytes(once.ceiling)}`]),
  ...(once.space === undefined ? [] : [`in ${FIELDS['colour.space'].says(once.space)}`]),
  ...(once.place === undefined ? [] : [placeWords(once.place)]),
  ...Object.entries(once.values ?? {}).map(([path, value]) => {
    const { label, says } = fieldAt(path)!;
    return `${label[0]!.toLowerCase()}${label.slice(1)} ${says(value)}`;
  }),
];

/** Whether anything is varied. */
export const isVaried = (once: Once | undefined): boolean => once !== undefined && Object.values(once).some((value) => value !== undefined);
