import * as z from 'zod';
import { GamutLoss } from '../colour/gamut';
import { DecidedOnItsWay } from '../decisions/decisions';
import { Preset } from '../preset/schema';
import { Judgement } from '../proof/judgement';
import { Halo } from '../sharpen/halo';
import { Finding } from '../vet/finding';
import { OutputPart } from './runs';

/** The rungs that change pixels, in their order; after `file` they are those of the finished file. */
export const PIXEL_RUNGS = ['size', 'tone', 'colour', 'sharpen', 'mark', 'print', 'file'] as const;
export type PixelRung = (typeof PIXEL_RUNGS)[number];

/** The longest edge of a sample, px: more than any screen shows at once. */
const MOST = 8192;
const Size = z.strictObject({ width: z.int().min(1).max(MOST), height: z.int().min(1).max(MOST) });

/** What of an output is shown: a part at 1:1, around a place in shares of the picture, or the panel, without its border and edges; or all of it, made smaller where it has to be. */
export const SampleView = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('part'), x: z.number().min(0).max(1), y: z.number().min(0).max(1), size: Size }),
  z.strictObject({ kind: z.literal('whole'), within: Size }),
]);
export type SampleView = z.infer<typeof SampleView>;

/**
 * What can be drawn over a sample: halos that sharpening makes, colours that the target cannot hold, values at the end of their scale; what the encoder
 * adds: steps in smooth areas, borders of blocks; and the difference itself, which takes the place of the picture.
 */
export const SAMPLE_OVERLAYS = ['halos', 'gamut', 'highlights', 'shadows', 'banding', 'blocks', 'difference'] as const;
export type SampleOverlay = (typeof SAMPLE_OVERLAYS)[number];

/** A look at what a preset, saved or not, makes of a master. */
export const SampleWish = z
  .strictObject({
    preset: Preset,
    part: OutputPart.default('').meta({
      description: 'Which of the files that the preset makes; empty: its largest size, or the undivided picture',
    }),
    decided: DecidedOnItsWay,
    upTo: z.enum(PIXEL_RUNGS).meta({ description: 'The last rung that is applied' }),
    view: SampleView,
    overlay: z
      .enum(SAMPLE_OVERLAYS)
      .nullable()
      .default(null)
      .meta({ description: 'Instead of the picture: where in it there is something to see, on clear ground' }),
    whole: z.boolean().default(false).meta({ description: 'Whether all of the master is shown, though the preset cuts it' }),
    finished: z
      .boolean()
      .default(false)
      .meta({ description: 'Whether the whole file is made for it, as in a run, and its figures are told' }),
    judged: z
      .boolean()
      .default(false)
      .meta({ description: 'Whether a look tells how its part differs from the unencoded picture; after the rung `file` only' }),
  })
  .meta({ id: 'SampleWish' });
export type SampleWish = z.infer<typeof SampleWish>;

/** What a sample may still differ in from the finished file. */
export const EXPECTATIONS = ['quality', 'chroma', 'size', 'blocks'] as const;
export type Expectation = (typeof EXPECTATIONS)[number];

/** What is known of a sample; comes as JSON in the header {@link SAMPLE_HEADER}, percent-encoded. */
export const SampleFacts = z.object({
  width: z.int().meta({ description: 'px of the picture that comes with it' }),
  height: z.int(),
  output: z.object({ width: z.int(), height: z.int() }).meta({ description: 'Size of the output, its border included, px' }),
  shown: z
    .object({ left: z.int(), top: z.int(), width: z.int(), height: z.int() })
    .meta({ description: 'The part of the output that is shown' }),
  quality: z.number().nullable(),
  expected: z.array(z.enum(EXPECTATIONS)).meta({ description: 'Empty: the pixels are those of the file' }),
  converted: z.boolean().meta({ description: 'Whether inks were converted to sRGB for the screen' }),
  mark: z
    .object({ left: z.int(), top: z.int(), width: z.int(), height: z.int() })
    .nullable()
    .meta({ description: 'Where the watermark lies in the output, px; null: there is none, or the rung is an earlier one' }),
  cut: z
    .object({ left: z.number(), top: z.number(), width: z.number(), height: z.number() })
    .nullable()
    .meta({ description: 'The part of the master that stays, as shares of it; null: all of it' }),
  spots: z.number().nullable().meta({ description: 'Share of the pixels that an overlay marks, 0-1' }),
  ownSpots: z
    .number()
    .nullable()
    .default(null)
    .meta({ description: 'Bands and clipping that the master has itself, share of the pixels; null: this overlay tells nothing of it' }),
  worst: z
    .object({ x: z.number(), y: z.number() })
    .nullable()
    .default(null)
    .meta({ description: 'Where most of what an overlay marks lies together, shares of the picture; null: it marks nothing' }),
  halo: Halo.nullable(),
  gamut: GamutLoss.nullable(),
  judgement: Judgement.nullable().meta({ description: 'Of the part that is shown; null: not asked for' }),
  bytes: z.int().nullable().meta({ description: 'Weight of the whole file; null: it was not made' }),
  warnings: z.array(Finding),
});
export type SampleFacts = z.infer<typeof SampleFacts>;

/** What every sample tells of itself. */
type SeenPart = Pick<SampleFacts, 'width' | 'height' | 'output' | 'shown' | 'quality' | 'expected' | 'converted' | 'cut'>;

/** What a look has come to: the picture, or an overlay in its place. What cannot be shown is a problem instead. */
export type SeenSample =
  | ({ kind: 'picture' } & SeenPart & Pick<SampleFacts, 'mark' | 'halo' | 'gamut' | 'judgement'>)
  | ({ kind: 'overlay'; spots: number; ownSpots: number | null; worst: SampleFacts['worst'] } & SeenPart);

/** A sample as it is told. @param whole of the whole file, where it was made */
export function factsOfSample(
  seen: SeenSample,
  whole: Pick<SampleFacts, 'bytes' | 'warnings'> = { bytes: null, warnings: [] },
): SampleFacts {
  const { width, height, output, shown, quality, expected, converted, cut } = seen;
  const part = { width, height, output, shown, quality, expected, converted, cut };
  const { bytes, warnings } = whole;
  const none = { mark: null, spots: null, ownSpots: null, worst: null, halo: null, gamut: null, judgement: null };
  if (seen.kind === 'overlay') return { ...part, ...none, spots: seen.spots, ownSpots: seen.ownSpots, worst: seen.worst, bytes, warnings };
  const { mark, halo, gamut, judgement } = seen;
  return { ...part, ...none, mark, halo, gamut, judgement, bytes, warnings };
}

/** A whole file of a preset, saved or not, that is to be measured. */
export const MeasureWish = z
  .strictObject({
    preset: Preset,
    part: OutputPart.default('').meta({ description: 'Which of its files' }),
    decided: DecidedOnItsWay,
    judged: z.boolean().default(true).meta({ description: 'Whether the difference is told too, which takes longer than the weight' }),
  })
  .meta({ id: 'MeasureWish' });
export type MeasureWish = z.infer<typeof MeasureWish>;

/** What a whole file weighs, and how it differs from the unencoded picture. */
export const Measured = z
  .object({
    bytes: z.int(),
    width: z.int(),
    height: z.int(),
    quality: z.number().nullable().meta({ description: 'Null for file types without loss' }),
    judgement: Judgement.nullable().meta({
      description: 'Of the whole picture; null: not asked for, nothing was lost, or a ceiling made it smaller',
    }),
  })
  .meta({ id: 'Measured' });
export type Measured = z.infer<typeof Measured>;

/** A field as a reader finds it in a file: its group and name, and its value in words. */
export const FileField = z.object({ field: z.string(), value: z.string() });
export type FileField = z.infer<typeof FileField>;

/** What would stand in an output, and what of the master would not. */
export const FileFields = z.object({ kept: z.array(FileField), removed: z.array(FileField) }).meta({ id: 'FileFields' });
export type FileFields = z.infer<typeof FileFields>;

export const SAMPLE_HEADER = 'rundle-sample';
