import * as z from 'zod';
import { FIELDS } from './descriptors';
import { decimal, flag, hexColour, line, oneOf, text, whole } from './fields';
import { FILE_TYPE_NAMES, FILE_TYPES } from '../types/table';
import { FolderPath } from '../name/folder';
import { NamePart } from '../name/parts';
import { CanvasRung, LENGTH_UNITS, PanelsRung, sameLabel, SizeLabel } from '../parts/schema';
import { ToneRung } from '../tone/schema';

/*
 * The preset file, version 1. This is its one definition: the JSON Schema that users get, the types of the code and the
 * checks at every boundary come from here. The field names are binding; presets made today must open in ten years.
 */

/** The largest side an output may have, in px: JPEG's limit (ITU-T T.81 keeps sizes in 16 bits). */
export const LARGEST_SIDE = 65_500;

const length = () => decimal(0.01, LARGEST_SIDE).nullable();

export const Fit = oneOf(['original', 'long-edge', 'short-edge', 'width', 'height', 'box', 'cover', 'stretch', 'percent', 'megapixels']);
export type Fit = z.infer<typeof Fit>;

/** Which lengths each fit needs; the rest may stay null. A box may leave one side open. */
const NEEDS = {
  original: [],
  'long-edge': ['px'],
  'short-edge': ['px'],
  width: ['px'],
  height: ['px'],
  box: [],
  cover: ['width', 'height'],
  stretch: ['width', 'height'],
  percent: ['percent'],
  megapixels: ['megapixels'],
} as const satisfies Record<Fit, readonly string[]>;

export const Ceiling = z.strictObject({
  bytes: whole(1000, 1_000_000_000, 'bytes').meta({ description: 'The most a file may weigh; KB = 1,000 bytes' }),
  floor: whole(1, 100).default(60).meta({ description: 'Quality is never taken below this' }),
  then: oneOf(['shrink', 'exceed', 'fail']).default('shrink').meta({ description: 'What to do when the floor is too heavy' }),
});
export type Ceiling = z.infer<typeof Ceiling>;

type Lengths = Pick<z.infer<typeof FamilySize>, 'fit' | 'px' | 'width' | 'height' | 'percent' | 'megapixels'>;

/** The lengths that a fit needs have to be there. */
function lengthsNeeded(size: Lengths, context: z.RefinementCtx): void {
  const missing = (field: string, message: string) => context.addIssue({ code: 'custom', path: [field], message, input: null });
  for (const field of NEEDS[size.fit])
    if (size[field] === null) missing(field, `a value, because the fit is “${FIELDS['size.fit'].says(size.fit)}”`);
  if (size.fit === 'box' && size.width === null && size.height === null)
    missing('width', `a width, a height or both, because the fit is “${FIELDS['size.fit'].says(size.fit)}”`);
}

/** Lengths in px are whole numbers. */
function wholePixels({ unit }: { unit: string }, size: Lengths, context: z.RefinementCtx, path: (string | number)[]): void {
  for (const field of ['px', 'width', 'height'] as const) {
    const value = size[field];
    if (unit === 'px' && value !== null && !Number.isInteger(value))
      context.addIssue({ code: 'custom', path: [...path, field], message: 'a whole number of px', input: value });
  }
}

/** One of several sizes of a family; what is not said here is as the Size and the File rung have it. */
const FamilySize = z
  .strictObject({
    label: SizeLabel.meta({ description: 'What it is called, also in names' }),
    fit: Fit.default('long-edge').meta({ description: 'What governs the size' }),
    px: length().default(null).meta({ description: 'Length of the governed edge, in the unit of the rung' }),
    width: length().default(null).meta({ description: 'Width of the box' }),
    height: length().default(null).meta({ description: 'Height of the box' }),
    percent: decimal(0.1, 1000).nullable().default(null),
    megapixels: decimal(0.001, 500).nullable().default(null),
    quality: whole(1, 100).nullable().default(null).meta({ description: 'Its own quality; null: that of the file' }),
    ceiling: Ceiling.nullable().default(null).meta({ description: 'Its own ceiling; null: that of the file' }),
  })
  .superRefine((size, context) => lengthsNeeded(size, context));
export type FamilySize = z.infer<typeof FamilySize>;

export const SizeRung = z
  .strictObject({
    fit: Fit.default('long-edge').meta({ description: 'What governs the size' }),
    px: length().default(2048).meta({ description: 'Length of the governed edge, in `unit`' }),
    width: length().default(null).meta({ description: 'Width of the box, in `unit`' }),
    height: length().default(null).meta({ description: 'Height of the box, in `unit`' }),
    unit: oneOf(LENGTH_UNITS).default('px').meta({ description: 'Unit of the lengths; cm and in use `ppi`' }),
    turn: flag().default(true).meta({ description: 'Turn the box to the orientation of the picture' }),
    anchor: oneOf(['centre', 'top', 'bottom', 'left', 'right', 'detail'])
      .default('centre')
      .meta({ description: 'cover: the part of the picture that is kept' }),
    percent: decimal(0.1, 1000).nullable().default(null),
    megapixels: decimal(0.001, 500).nullable().default(null),
    enlarge: flag().default(false).meta({ description: 'Whether small masters are enlarged' }),
    kernel: oneOf(['lanczos3', 'lanczos2', 'cubic', 'mitchell', 'linear', 'nearest']).default('lanczos3'),
    light: oneOf(['encoded', 'linear']).default('encoded').meta({ description: 'Light the pixels are averaged in' }),
    ppi: decimal(1, 9999)
      .nullable()
      .default(72)
      .meta({ description: 'The resolution tag, pixels per inch; null keeps the master’s. Never changes pixels' }),
    ratio: z
      .strictObject({
        w: decimal(0.01, 100_000),
        h: decimal(0.01, 100_000),
        turn: flag().default(true).meta({ description: 'Turn the ratio to the orientation of the picture' }),
      })
      .nullable()
      .default(null)
      .meta({ description: 'Cut to this width to height first, where the picture says or by proposal; null: not' }),
    sizes: z
      .array(FamilySize, { error: 'a list of sizes' })
      .max(8, { error: 'at most 8 sizes' })
      .default([])
      .meta({ description: 'Several named sizes of each picture, each a file of its own, instead of the one above; empty: one file' }),
  })
  .superRefine((size, context) => {
    lengthsNeeded(size, context);
    if (size.unit !== 'px' && size.ppi === null)
      context.addIssue({ code: 'custom', path: ['ppi'], message: `a resolution, because the unit is ${size.unit}`, input: null });
    wholePixels(size, size, context, []);
    for (const [at, one] of size.sizes.entries()) {
      wholePixels(size, one, context, ['sizes', at]);
      if (size.sizes.findIndex(({ label }) => sameLabel(label, one.label)) < at)
        context.addIssue({
          code: 'custom',
          path: ['sizes', at, 'label'],
          message: 'another name than the sizes before it',
          input: one.label,
        });
    }
  });
export type SizeRung = z.infer<typeof SizeRung>;

/** Colour spaces that outputs can be converted to. */
export const SPACE_NAMES = ['srgb', 'display-p3', 'adobe-rgb', 'romm', 'rec2020'] as const;

export const ColourRung = z.strictObject({
  space: oneOf([...SPACE_NAMES, 'keep']).default('srgb'),
  intent: oneOf(['relative', 'perceptual', 'saturation', 'absolute'])
    .default('relative')
    .meta({ description: 'Rendering intent of ICC.1' }),
  blackPoint: flag().default(true).meta({ description: 'Black-point compensation' }),
  untagged: oneOf(['srgb', 'display-p3', 'adobe-rgb'])
    .default('srgb')
    .meta({ description: 'What a master without a profile is taken for' }),
  embed: flag().default(true).meta({ description: 'Embed the profile in the output' }),
  dither: flag().default(true).meta({ description: 'Dither where bits per channel go down' }),
  backdrop: hexColour()
    .default('#ffffff')
    .meta({ description: 'What transparent parts are laid over where the file type has no transparency' }),
});
export type ColourRung = z.infer<typeof ColourRung>;

export const SharpenRung = z
  .strictObject({
    amount: decimal(0, 5).default(0.7),
    radius: decimal(0.2, 10, 'output px').default(0.8).meta({ description: 'Sigma of the Gaussian, in output px' }),
    threshold: decimal(0, 1).default(0.01).meta({ description: 'Smallest difference that is sharpened, share of full scale' }),
  })
  .nullable();
export type SharpenRung = z.infer<typeof SharpenRung>;

export const MarkRung = z
  .strictObject({
    watermark: line(500, 1).meta({ description: 'Id of a watermark, or a file' }),
    place: oneOf(['top-left', 'top', 'top-right', 'left', 'centre', 'right', 'bottom-left', 'bottom', 'bottom-right']).default(
      'bottom-right',
    ),
    margin: decimal(0, 0.5).default(0.03).meta({ description: 'Share of the short edge' }),
    size: decimal(0.01, 1).default(0.18).meta({ description: 'Share of the short edge' }),
    opacity: decimal(0, 1).default(0.6),
  })
  .nullable();
export type MarkRung = z.infer<typeof MarkRung>;

export const BorderRung = z
  .strictObject({
    px: whole(1, 2000, 'px').meta({ description: 'Added outside the picture, after sharpening' }),
    colour: hexColour().default('#ffffff'),
  })
  .nullable();
export type BorderRung = z.infer<typeof BorderRung>;

export const FileRung = z
  .strictObject({
    type: oneOf(FILE_TYPE_NAMES).default('jpeg'),
    quality: whole(1, 100).default(80).meta({ description: 'jpeg, webp, avif, jxl' }),
    match: decimal(0.9, 1)
      .nullable()
      .default(null)
      .meta({ description: 'Instead of a fixed quality: least MS-SSIM (Wang et al. 2003, luma) to the unencoded output' }),
    progressive: flag().default(true).meta({ description: 'jpeg' }),
    chroma: oneOf(['auto', '4:2:0', '4:4:4']).default('auto').meta({ description: 'jpeg, avif' }),
    bits: z
      .union([z.literal(8), z.literal(16)], { error: '8 or 16' })
      .default(8)
      .meta({ description: 'png, tiff' }),
    compression: oneOf(['none', 'lzw', 'zip']).default('zip').meta({ description: 'tiff' }),
    ceiling: Ceiling.nullable().default(null),
  })
  .superRefine((file, context) => {
    const { lossy, bits, label } = FILE_TYPES[file.type];
    if (!lossy && file.ceiling)
      context.addIssue({
        code: 'custom',
        path: ['ceiling'],
        message: `none, because ${label} has no quality that could be lowered`,
        input: file.ceiling,
      });
    if (!bits.includes(file.bits))
      context.addIssue({
        code: 'custom',
        path: ['bits'],
        message: `${bits.join(' or ')}, because ${label} has no ${file.bits} bits`,
        input: file.bits,
      });
  });
export type FileRung = z.infer<typeof FileRung>;

const keepOrRemove = () => oneOf(['keep', 'remove']);

/** The six groups of metadata, in the order in which screens and files name them. */
export const METADATA_GROUPS = ['rights', 'description', 'capture', 'place', 'rating', 'other'] as const;
export type MetadataGroup = (typeof METADATA_GROUPS)[number];

export const MetadataRung = z.strictObject({
  rights: keepOrRemove().default('keep').meta({ description: 'Creator, copyright, credit, terms, contact, web statement' }),
  description: keepOrRemove().default('keep').meta({ description: 'Title, caption, keywords' }),
  capture: keepOrRemove().default('remove').meta({ description: 'Time, camera, lens, exposure' }),
  place: keepOrRemove().default('remove').meta({ description: 'GPS, place names' }),
  rating: keepOrRemove().default('remove').meta({ description: 'Rating and labels' }),
  other: keepOrRemove().default('remove').meta({ description: 'Everything else' }),
  fill: flag().default(true).meta({ description: 'Fill missing rights fields from the studio’s details' }),
  fileTime: oneOf(['now', 'capture', 'master'])
    .default('now')
    .meta({ description: 'The file’s own time: when it was made, when the picture was taken, or the master file’s' }),
});
export type MetadataRung = z.infer<typeof MetadataRung>;

export const NameRung = z.strictObject({
  parts: z
    .array(NamePart, { error: 'a list of name parts' })
    .min(1, { error: 'at least one name part' })
    .max(12, { error: 'at most 12 name parts' })
    .default([{ part: 'original' }, { part: 'text', text: '_' }, { part: 'long-edge' }]),
  case: oneOf(['keep', 'lower', 'upper']).default('keep'),
  webSafe: flag().default(true).meta({ description: 'No spaces, accents or signs' }),
});
export type NameRung = z.infer<typeof NameRung>;

export const Preset = z
  .strictObject({
    kind: z.literal('rundle.preset', { error: '"rundle.preset"' }),
    version: z.literal(1, { error: '1, the only version of the preset file this program knows' }),
    title: line(120, 1),
    notes: text(4000).default(''),
    applies: z
      .strictObject({
        minRating: whole(0, 5).default(0),
        tags: z.array(line(80, 1), { error: 'a list of tags' }).max(50, { error: 'at most 50 tags' }).default([]),
      })
      .prefault({})
      .meta({ description: 'Which masters get the preset; no tags means all' }),
    size: SizeRung.prefault({}),
    tone: ToneRung.default(null).meta({
      description: 'A light hand over finished pictures, before colours are converted; null: as they are',
    }),
    colour: ColourRung.prefault({}),
    sharpen: SharpenRung.prefault({}),
    mark: MarkRung.default(null),
    border: BorderRung.default(null),
    panels: PanelsRung.nullable()
      .default(null)
      .meta({ description: 'Divides the finished picture, its border included, into panels, each a file; null: it stays whole' }),
    canvas: CanvasRung.nullable().default(null).meta({ description: 'Edges outside each file, for what bends round a frame; null: none' }),
    file: FileRung.prefault({}),
    metadata: MetadataRung.prefault({}),
    name: NameRung.prefault({}),
    folder: FolderPath.default('web'),
    place: oneOf(['masters', 'ask'])
      .nullable()
      .default(null)
      .meta({ description: 'Where its folder lies; null: where the set says. The command line names the place itself' }),
    existing: oneOf(['keep-both', 'replace', 'leave', 'stop'])
      .default('keep-both')
      .meta({ description: 'What to do when a file of that name is there that is not ours, or that somebody has changed' }),
  })
  .superRefine((preset, context) => {
    for (const [path, message, input] of pieceProblems(preset)) context.addIssue({ code: 'custom', path, message, input });
    if (preset.file.type !== 'original') return;
    for (const [path, input] of changedRungs(preset))
      context.addIssue({ code: 'custom', path, message: 'left at its default, because an untouched copy is the master itself', input });
  })
  .meta({ id: 'Preset', title: 'Rundle preset, version 1' });
/** A checked preset: every field is there and within its range. */
export type Preset = z.infer<typeof Preset>;
/** The rungs that would change a file, which an untouched copy has to leave at their defaults; mark and border are none by default. */
export const CHANGING_RUNGS = { size: SizeRung, colour: ColourRung, sharpen: SharpenRung, metadata: MetadataRung } as const;

/** Rungs that are none by default. */
const ADDED_RUNGS = ['tone', 'mark', 'border', 'panels', 'canvas'] as const;

type FieldProblem = [path: string[], message: string, value: unknown];

/** What speaks against pieces of a print as a preset asks for them. */
function pieceProblems({ size, panels, canvas, file }: Pick<Preset, 'size' | 'panels' | 'canvas' | 'file'>): FieldProblem[] {
  const problems: FieldProblem[] = [];
  const measured = [...(panels && panels.unit !== 'px' ? ['panels'] : []), ...(canvas && canvas.unit !== 'px' ? ['canvas edges'] : [])];
  if (measured.length && size.ppi === null)
    problems.push([['size', 'ppi'], `a resolution, because the ${measured.join(' and ')} are in cm or inches`, null]);
  if (panels && size.sizes.length)
    problems.push([['panels'], 'none, because the preset makes several sizes: divide a preset of one size', panels]);
  const shrinks = [file.ceiling, ...size.sizes.map(({ ceiling }) => ceiling)].some((ceiling) => ceiling?.then === 'shrink');
  if ((panels || canvas) && shrinks) {
    const pieces = panels ? 'panels' : 'canvas edges';
    problems.push([['file', 'ceiling', 'then'], `“exceed” or “fail”, because ${pieces} of a given size cannot shrink`, 'shrink']);
  }
  return problems;
}

/** The fields of those rungs that are not at their defaults. */
function changedRungs(
  preset: Pick<Preset, keyof typeof CHANGING_RUNGS | (typeof ADDED_RUNGS)[number]>,
): [path: string[], value: unknown][] {
  const isSame = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);
  const changed = Object.entries(CHANGING_RUNGS).flatMap(([rung, schema]): [string[], unknown][] => {
    const value = preset[rung as keyof typeof CHANGING_RUNGS] as Record<string, unknown> | null;
    const neutral = schema.parse({}) as Record<string, unknown>;
    if (value === null) return [[[rung], null]];
    return Object.keys(neutral).flatMap((field) => (isSame(value[field], neutral[field]) ? [] : [[[rung, field], value[field]]]));
  });
  return [...changed, ...ADDED_RUNGS.flatMap((rung): [string[], unknown][] => (preset[rung] ? [[[rung], preset[rung]]] : []))];
}

/** A preset as it may be written down: only kind, version and title are required. */
export type PresetInput = z.input<typeof Preset>;

/** The JSON Schema (2020-12) of a preset as people write it, generated from {@link Preset}. */
export function presetJsonSchema(): object {
  return z.toJSONSchema(Preset, { io: 'input' });
}
