import * as z from 'zod';
import { decimal } from '../preset/fields';

/*
 * Tone: a light hand over finished pictures. Fields of the preset file, version 1; formulas at what carries them out, in this folder.
 */

/** How far each of the values goes to both sides. */
const MOST = { exposure: 4, shadows: 1, highlights: 1, contrast: 1, saturation: 1, warmth: 90 } as const;
/** A value that is added, 0 unless it is said. */
const signed = (field: keyof typeof MOST, unit = '') => decimal(-MOST[field], MOST[field], unit).default(0);

const TONE_FIELDS = {
  exposure: signed('exposure', 'EV').meta({ description: 'Light times 2 to this power' }),
  shadows: signed('shadows').meta({ description: 'Lifts (or lowers) the darker tones' }),
  highlights: signed('highlights').meta({ description: 'Lifts (or lowers) the brighter tones' }),
  contrast: signed('contrast').meta({ description: 'Slope of lightness at the middle: 2 to this power' }),
  saturation: signed('saturation').meta({ description: 'Chroma times 1 plus this; -1 is grey' }),
  warmth: signed('warmth', 'mired').meta({ description: 'Warmer (or cooler) light, in mired along daylight' }),
};

/** What a photographer adds to the tone of one picture, whatever the preset. */
export const PictureTone = z.strictObject(TONE_FIELDS);
export type PictureTone = z.infer<typeof PictureTone>;
export const PICTURE_TONE_FIELDS = Object.keys(TONE_FIELDS) as (keyof PictureTone)[];

export const ToneRung = z
  .strictObject({
    ...TONE_FIELDS,
    auto: z
      .strictObject({
        low: decimal(0, 5, 'percent').default(0.1).meta({ description: 'Share of the pixels that may become black' }),
        high: decimal(0, 5, 'percent').default(0.1).meta({ description: 'Share of the pixels that may become white' }),
        limit: decimal(0, 2, 'EV').default(0.5).meta({ description: 'The most that either moves middle grey' }),
      })
      .nullable()
      .default(null)
      .meta({ description: 'Black and white point found in each picture; null: those given' }),
    black: decimal(0, 0.45).default(0).meta({ description: 'Lightness that becomes black, share of L*' }),
    white: decimal(0.55, 1).default(1).meta({ description: 'Lightness that becomes white, share of L*' }),
    gamma: decimal(0.2, 5).default(1).meta({ description: 'Lightness to the power of 1 / gamma: above 1 is brighter' }),
    local: z
      .strictObject({
        amount: decimal(-1, 2).default(0.4).meta({ description: 'Share of the difference to the surroundings that is added' }),
        radius: decimal(1, 200, 'output px').default(24).meta({ description: 'Reach of the surroundings, in output px' }),
      })
      .nullable()
      .default(null)
      .meta({ description: 'Local contrast; null: none' }),
    before: z
      .strictObject({
        amount: decimal(0, 5).default(0.5),
        radius: decimal(0.2, 10, 'master px').default(1).meta({ description: 'Sigma of the Gaussian, in px of the master' }),
        threshold: decimal(0, 1).default(0.01).meta({ description: 'Smallest difference that is sharpened, share of full scale' }),
      })
      .nullable()
      .default(null)
      .meta({ description: 'Sharpening of the master before its size changes; null: none' }),
  })
  .nullable();
export type ToneRung = z.infer<typeof ToneRung>;
export type Tone = NonNullable<ToneRung>;

/** A rung that asks for nothing. */
export const NO_TONE: Tone = ToneRung.unwrap().parse({});
const NO_PICTURE_TONE: PictureTone = PictureTone.parse({});

/** Whether values change nothing, whatever the picture. */
export const isNeutral = ({ auto, local, before, ...values }: Tone): boolean =>
  auto === null && !(local && local.amount !== 0) && !(before && before.amount > 0) && samePlain(values, NO_TONE);

/** The tone that a preset has where it changes something; null: it changes nothing. */
export const activeTone = (tone: ToneRung): Tone | null => (tone && !isNeutral(tone) ? tone : null);

export const isNeutralForPicture = (tone: PictureTone): boolean => samePlain(tone, NO_PICTURE_TONE);

const samePlain = <T extends object>(values: T, plain: { [Key in keyof T]: unknown }): boolean =>
  (Object.keys(values) as (keyof T)[]).every((key) => values[key] === plain[key]);

/** A number without the dust of adding: to three decimals. */
const clean = (value: number): number => Math.round(value * 1000) / 1000 + 0;

/** What is added to a preset's tone for one picture, within what each value may be. */
export function addedTone(tone: ToneRung, own: PictureTone): Tone {
  const before = tone ?? NO_TONE;
  return { ...before, ...plusTone(before, own) };
}

/** Two corrections together. @example plusTone({ ...none, exposure: 1 / 6 }, { ...none, exposure: 1 / 6 }).exposure // 0.333 */
export function plusTone(a: PictureTone, b: PictureTone): PictureTone {
  const sum = (field: keyof PictureTone) => clean(Math.min(MOST[field], Math.max(-MOST[field], a[field] + b[field])));
  return Object.fromEntries(PICTURE_TONE_FIELDS.map((field) => [field, sum(field)])) as PictureTone;
}

/** One step brighter (1) or darker (-1): a sixth of a stop. */
export function stepTone(own: PictureTone | null, by: 1 | -1): PictureTone | null {
  const before = own ?? NO_PICTURE_TONE;
  // Counted in whole steps, so that six of them are a stop, and as many back are none.
  const exposure = clean(
    Math.min(MOST.exposure, Math.max(-MOST.exposure, (Math.round(before.exposure * STEPS_TO_A_STOP) + by) / STEPS_TO_A_STOP)),
  );
  const next = { ...before, exposure };
  return isNeutralForPicture(next) ? null : next;
}

const STEPS_TO_A_STOP = 6;
