import * as z from 'zod';
import { FILE_TYPE_LABELS, FILE_TYPES, type FileTypeName, LOSSY_TYPE_NAMES, FILE_TYPE_NAMES } from '../types/table';
import { FIELDS } from '../preset/descriptors';
import { type Preset, SharpenRung } from '../preset/schema';
import { activeTone, NO_TONE, type Tone } from '../tone/schema';

/** The values of a preset that a test strip can vary. */
export const AXIS_IDS = ['quality', 'type', 'chroma', 'px', 'amount', 'radius', 'kernel', 'light', 'exposure', 'saturation'] as const;
export const AxisId = z.enum(AXIS_IDS);
export type AxisId = z.infer<typeof AxisId>;

export type AxisValue = number | string;

/** One value that is varied: what it takes, and how a preset gets it. */
export interface Axis {
  label: string;
  /** Values that a strip takes of it unless others are asked for, smallest or plainest first. */
  values: readonly AxisValue[];
  /** Of a preset; null: it has none. */
  of: (preset: Preset) => AxisValue | null;
  /** Whether it counts for a preset. */
  counts: (preset: Preset) => boolean;
  set: (preset: Preset, value: AxisValue) => Preset;
  says: (value: AxisValue) => string;
}

const lossy = ({ file }: Preset): boolean => FILE_TYPES[file.type].lossy;
const isMade = ({ file }: Preset): boolean => file.type !== 'original';
const sharpening = ({ sharpen }: Preset) => sharpen ?? { ...SharpenRung.unwrap().parse({}), amount: 0 };
/** With a value of its tone; without one that it did not have, where that would change nothing. */
function toned(preset: Preset, value: Partial<Tone>): Preset {
  const tone = { ...(preset.tone ?? NO_TONE), ...value };
  return { ...preset, tone: preset.tone ? tone : activeTone(tone) };
}
/** Types of which a chroma can be chosen. */
const HAS_CHROMA = FILE_TYPE_NAMES.filter((name) => FILE_TYPES[name].chroma === 'sampled' || FILE_TYPES[name].chroma === 'smart');
/** Sizes that are one length along one edge. */
const BY_LENGTH: readonly Preset['size']['fit'][] = ['long-edge', 'short-edge', 'width', 'height'];

export const AXES: Readonly<Record<AxisId, Axis>> = {
  quality: {
    label: FIELDS['file.quality'].label,
    values: Array.from({ length: 14 }, (_, at) => 30 + 5 * at),
    of: ({ file }) => (file.match === null ? file.quality : null),
    counts: lossy,
    // A quality goes before a likeness that is aimed at.
    set: (preset, value) => ({ ...preset, file: { ...preset.file, quality: Number(value), match: null } }),
    says: (value) => `Quality ${value}`,
  },
  amount: {
    label: `Sharpening: ${FIELDS['sharpen.amount'].label.toLowerCase()}`,
    values: [0, 0.4, 0.7, 1.1],
    of: (preset) => sharpening(preset).amount,
    counts: isMade,
    set: (preset, value) => ({ ...preset, sharpen: { ...sharpening(preset), amount: Number(value) } }),
    says: (value) => (value === 0 ? 'Not sharpened' : `Amount ${value}`),
  },
  radius: {
    label: `Sharpening: ${FIELDS['sharpen.radius'].label.toLowerCase()}`,
    values: [0.5, 0.8, 1.2],
    of: (preset) => sharpening(preset).radius,
    counts: isMade,
    set: (preset, value) => ({ ...preset, sharpen: { ...sharpening(preset), radius: Number(value) } }),
    says: (value) => `Radius ${value} px`,
  },
  type: {
    label: FIELDS['file.type'].label,
    values: LOSSY_TYPE_NAMES,
    of: ({ file }) => file.type,
    counts: lossy,
    set: (preset, value) => ({ ...preset, file: { ...preset.file, type: value as FileTypeName } }),
    says: (value) => FILE_TYPE_LABELS[value as FileTypeName],
  },
  chroma: {
    label: FIELDS['file.chroma'].label,
    values: ['4:2:0', '4:4:4'],
    of: ({ file }) => (file.chroma === 'auto' ? null : file.chroma),
    counts: ({ file }) => HAS_CHROMA.includes(file.type),
    set: (preset, value) => ({ ...preset, file: { ...preset.file, chroma: value as Preset['file']['chroma'] } }),
    says: (value) => `Chroma ${value}`,
  },
  px: {
    label: FIELDS['size.px'].label,
    values: [1600, 2048],
    of: ({ size }) => (size.unit === 'px' ? size.px : null),
    // The sizes of a family are its own.
    counts: (preset) => preset.size.sizes.length === 0 && BY_LENGTH.includes(preset.size.fit) && isMade(preset),
    // A length in cm is one of pixels then.
    set: (preset, value) => ({ ...preset, size: { ...preset.size, px: Number(value), unit: 'px' } }),
    says: (value) => `${value} px`,
  },
  kernel: {
    label: FIELDS['size.kernel'].label,
    values: ['linear', 'mitchell', 'cubic', 'lanczos2', 'lanczos3'],
    of: ({ size }) => size.kernel,
    counts: isMade,
    set: (preset, value) => ({ ...preset, size: { ...preset.size, kernel: value as Preset['size']['kernel'] } }),
    says: (value) => FIELDS['size.kernel'].says(value as Preset['size']['kernel']),
  },
  light: {
    label: FIELDS['size.light'].label,
    values: ['encoded', 'linear'],
    of: ({ size }) => size.light,
    counts: isMade,
    set: (preset, value) => ({ ...preset, size: { ...preset.size, light: value as Preset['size']['light'] } }),
    says: (value) => FIELDS['size.light'].says(value as Preset['size']['light']),
  },
  exposure: {
    label: FIELDS['tone.exposure'].label,
    values: [-0.5, -0.25, 0, 0.25, 0.5],
    of: ({ tone }) => (tone ?? NO_TONE).exposure,
    counts: isMade,
    set: (preset, value) => toned(preset, { exposure: Number(value) }),
    says: (value) => `Exposure ${FIELDS['tone.exposure'].says(Number(value))}`,
  },
  saturation: {
    label: FIELDS['tone.saturation'].label,
    values: [-0.2, 0, 0.2],
    of: ({ tone }) => (tone ?? NO_TONE).saturation,
    counts: isMade,
    set: (preset, value) => toned(preset, { saturation: Number(value) }),
    says: (value) => `Saturation ${FIELDS['tone.saturation'].says(Number(value))}`,
  },
};

/** A preset with other values; what does not count for it is passed over. An amount of 0 is no sharpening. */
export function withValues(preset: Preset, values: Partial<Record<AxisId, AxisValue | undefined>>): Preset {
  let varied = preset;
  for (const id of AXIS_IDS) {
    const value = values[id];
    if (value !== undefined && AXES[id].counts(varied)) varied = AXES[id].set(varied, value);
  }
  return varied !== preset && varied.sharpen?.amount === 0 ? { ...varied, sharpen: null } : varied;
}

/** The axes that count for a preset. */
export const axesOf = (preset: Preset): AxisId[] => AXIS_IDS.filter((id) => AXES[id].counts(preset));

/**
 * The values of an axis for a preset: those that are usual, with the preset's own in place of the nearest when there are many, beside them
 * when there are few.
 * @param only those that can be made here; others are left out
 */
export function axisValues(id: AxisId, preset: Preset, only: (value: AxisValue) => boolean = () => true): AxisValue[] {
  const { values, of } = AXES[id];
  const usual = values.filter(only);
  const own = of(preset);
  if (own === null || usual.includes(own)) return usual;
  if (typeof own === 'string') return [own, ...usual];
  const numbers = usual.map(Number);
  const nearest = numbers.reduce((best, value) => (Math.abs(value - own) < Math.abs(best - own) ? value : best));
  const kept = numbers.length >= MANY ? numbers.filter((value) => value !== nearest) : numbers;
  return [...kept, own].sort((a, b) => a - b);
}

/** From so many values on, one more would make the strip crowded. */
const MANY = 8;
