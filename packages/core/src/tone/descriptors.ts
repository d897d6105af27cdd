import { type About, choice, type Field, number, share } from '../preset/describe';
import type { FieldPath, FieldValue } from '../preset/field-paths';
import { NO_TONE, type Tone } from './schema';

type ToneFields = Extract<FieldPath, `tone${string}`>;

/** A number that is added: its sign is always said, but for 0. */
const signed = (about: About, how: { unit?: string; scale?: number; step?: number }): Field<number> => {
  const { unit = '', scale = 1 } = how;
  return {
    ...number<number>(about, how),
    says: (value) =>
      `${value > 0 ? '+' : value < 0 ? '−' : ''}${String(Math.round(Math.abs(value * scale) * 100) / 100)}${unit && ` ${unit}`}`,
  };
};

const FOUND: NonNullable<Tone['auto']> = { low: 0.1, high: 0.1, limit: 0.5 };

/** Tones to begin with; any value of theirs is changed where it stands. */
const BEGINNINGS: readonly { value: FieldValue<'tone'>; label: string }[] = [
  { value: null, label: 'Tone as it is' },
  { value: { ...NO_TONE, exposure: 0.333 }, label: 'A third of a stop brighter' },
  { value: { ...NO_TONE, auto: FOUND }, label: 'Black and white point of each picture' },
  { value: { ...NO_TONE, contrast: 0.15, saturation: 0.1 }, label: 'A little stronger' },
  { value: { ...NO_TONE, local: { amount: 0.3, radius: 24 } }, label: 'A little crisper' },
];

/** Fields of the Tone rung; see FIELDS. */
export const TONE_FIELDS: { readonly [Path in ToneFields]: Field<FieldValue<Path>> } = {
  tone: choice<FieldValue<'tone'>>(
    ['Tone', 'A light hand over finished pictures: brightness, contrast and colour of all of them, before colours are converted.'],
    BEGINNINGS,
    (value) => (value ? 'Tone by hand' : 'Tone as it is'),
  ),
  'tone.exposure': signed(['Exposure', 'Light, in stops: +1 EV is twice as much. Six steps of the keys that make a picture brighter are one.'], { unit: 'EV', step: 0.1 }), // prettier-ignore
  'tone.shadows': signed(['Shadows', 'Lifts the darker tones, or lowers them.'], { unit: '%', scale: 100, step: 5 }),
  'tone.highlights': signed(['Highlights', 'Lifts the brighter tones, or lowers them.'], { unit: '%', scale: 100, step: 5 }),
  'tone.contrast': signed(['Contrast', 'Around the middle of lightness, without clipping either end.'], { unit: '%', scale: 100, step: 5 }),
  'tone.saturation': signed(['Saturation', 'Chroma of all colours, of the same hue; −100 % is grey.'], { unit: '%', scale: 100, step: 5 }),
  'tone.warmth': signed(['Warmth', 'Warmer light, or cooler, in mired along daylight.'], { unit: 'mired', step: 5 }),
  'tone.auto': choice<FieldValue<'tone.auto'>>(
    ['Black and white point', 'What becomes black and what becomes white: given, or found in each picture.'],
    [
      { value: null, label: 'as given' },
      { value: FOUND, label: 'found in each picture' },
    ],
    (value) => (value ? 'found in each picture' : 'as given'),
  ),
  'tone.auto.low': number(['Pixels to black', 'Share of the pixels that may become black, in their darkest channel.'], { unit: '%', step: 0.1 }), // prettier-ignore
  'tone.auto.high': number(['Pixels to white', 'Share of the pixels that may become white, in their brightest channel.'], { unit: '%', step: 0.1 }), // prettier-ignore
  'tone.auto.limit': number(['Most it moves', 'The most that either point moves middle grey.'], { unit: 'EV', step: 0.1 }),
  'tone.black': share('Black', 'Lightness that becomes black.'),
  'tone.white': share('White', 'Lightness that becomes white.'),
  'tone.gamma': number(['Gamma', 'Bends the middle tones: above 1 they are brighter.'], { step: 0.05 }),
  'tone.local': choice<FieldValue<'tone.local'>>(
    ['Local contrast', 'Contrast of what is fine against what surrounds it; hard edges get no halo.'],
    [{ value: null, label: 'none' }, ...[0.2, 0.4, 0.8].map((amount) => ({ value: { amount, radius: 24 }, label: `added by ${amount}` }))],
    (value) => (value ? 'added' : 'none'),
  ),
  'tone.local.amount': number(['Amount of local contrast', 'How much of the difference to the surroundings is added; below 0 it softens.'], { step: 0.1 }), // prettier-ignore
  'tone.local.radius': number(['Reach of local contrast', 'How far the surroundings reach, in pixels of the output.'], { unit: 'px', step: 4 }), // prettier-ignore
  'tone.before': choice<FieldValue<'tone.before'>>(
    [
      'Sharpening before the size',
      'For soft scans: an unsharp mask on the pixels of the master. Each picture is read whole for it, which takes longer.',
    ],
    [
      { value: null, label: 'none' },
      ...[0.3, 0.5, 1].map((amount) => ({ value: { amount, radius: 1, threshold: 0.01 }, label: `added by ${amount}` })),
    ],
    (value) => (value ? 'added' : 'none'),
  ),
  'tone.before.amount': number(['Amount before', 'How much of the difference to the blurred picture is added.'], { step: 0.1 }),
  'tone.before.radius': number(['Radius before', 'Sigma of the blur, in pixels of the master.'], { unit: 'px', step: 0.1 }),
  'tone.before.threshold': share('Threshold before', 'Smallest difference that is sharpened, share of full scale.', 0.5),
};
