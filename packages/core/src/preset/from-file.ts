import * as z from 'zod';
import type { NamePart } from '../name/parts';
import { FILE_TYPES, type FileTypeName, typeLabel, type AnyTypeName } from '../types/table';
import type { SPACE_NAMES } from './schema';
import { fieldAt } from './descriptors';
import { valueAt } from './field-paths';
import { METADATA_GROUPS, type MetadataGroup, Preset } from './schema';

/** What can be seen of a finished file that somebody likes. */
export interface FinishedFile {
  /** Without its folder. */
  fileName: string;
  type: AnyTypeName;
  /** px, upright. */
  width: number;
  height: number;
  bits: number;
  /** Of a JPEG: the quality whose tables its own are nearest to (ITU-T T.81, Annex K), and whether they are the same. */
  quality: { value: number; exact: boolean } | null;
  chroma: '4:2:0' | '4:4:4' | null;
  /** Of a JPEG. */
  progressive: boolean | null;
  /** Which of our spaces its profile is; `other` for any other, null: there is none. */
  space: (typeof SPACE_NAMES)[number] | 'other' | null;
  /** What its profile calls itself. */
  profile: string | null;
  /** Pixels per inch, where it says so. */
  ppi: number | null;
  /** Groups of metadata that it has. */
  carries: readonly MetadataGroup[];
  /** A plain frame of one colour, as wide on all sides, in px. */
  border: { px: number; colour: string } | null;
}

/** How sure a value is: it stands in the file; it is what such files mostly mean; or it cannot be seen there, and is the usual one. */
export const SURE = ['seen', 'likely', 'not seen'] as const;
export const GuessedValue = z.object({
  field: z.string().meta({ description: 'Path in the preset, such as size.px' }),
  sure: z.enum(SURE).meta({ description: 'Whether it stands in the file, is likely, or cannot be seen there' }),
  why: z.string(),
});
export type GuessedValue = z.infer<typeof GuessedValue>;

/** A preset by which files become like one that somebody likes, and how sure each of its values is. */
export const PresetGuess = z.object({ preset: Preset, values: z.array(GuessedValue) }).meta({ id: 'PresetGuess' });
export type PresetGuess = z.infer<typeof PresetGuess>;

/** What a value is called, and what it is. @example guessInWords(preset, 'metadata.place') // { label: 'Place', says: 'removed' } */
export function guessInWords(preset: Preset, field: string): { label: string; says: string } {
  const value = valueAt(preset, field);
  const { label, says } = fieldAt(field)!;
  if (field.startsWith('metadata.')) return { label, says: value === 'keep' ? 'kept' : 'removed' };
  // In its rung it goes without saying of what.
  return { label: field === 'sharpen.amount' ? 'Sharpening' : label, says: says(value) };
}

/** Long edges that are mostly asked for, in px (common practice, no source). */
const isUsualEdge = (px: number): boolean => px % 10 === 0 || px % 64 === 0;

/**
 * What a preset would have to say so that files become like one.
 * @example presetFrom(file).values[0] // { field: 'size.px', sure: 'seen', why: '2048 x 1365 px' }
 */
export function presetFrom(file: FinishedFile): PresetGuess {
  const values: GuessedValue[] = [];
  const tell = <Value>(field: string, sure: GuessedValue['sure'], value: Value, why: string): Value => {
    values.push({ field, sure, why });
    return value;
  };
  const { width, height, border } = file;
  const [w, h] = border ? [width - 2 * border.px, height - 2 * border.px] : [width, height];
  const edge = Math.max(w, h);
  const within = border ? ' within its border' : '';
  const px = tell(
    'size.px',
    isUsualEdge(edge) ? 'likely' : 'not seen',
    edge,
    isUsualEdge(edge)
      ? `It is ${w} x ${h} px${within}: a long edge that is often asked for.`
      : `It is ${w} x ${h} px${within}, whatever was asked for: a short edge, a box, or megapixels would be as possible.`,
  );
  const preset = Preset.parse({
    kind: 'rundle.preset',
    version: 1,
    title: titleOf(file, edge),
    size: {
      fit: 'long-edge',
      px,
      ...(file.ppi === null ? {} : { ppi: tell('size.ppi', 'seen', file.ppi, `It says ${file.ppi} pixels per inch.`) }),
    },
    colour: colourOf(file, tell),
    sharpen: tell('sharpen.amount', 'not seen', {}, 'How much was sharpened does not stand in a file: this is the usual amount.'),
    border: border && {
      px: tell('border.px', 'seen', border.px, `A plain frame of ${border.px} px is round the picture.`),
      colour: tell('border.colour', 'seen', border.colour, `The frame is ${border.colour}.`),
    },
    file: fileOf(file, tell),
    metadata: metadataOf(file, tell),
    name: { parts: nameOf(file.fileName, Math.max(width, height), tell) },
  });
  return { preset, values };
}

type Tell = <Value>(field: string, sure: GuessedValue['sure'], value: Value, why: string) => Value;

const titleOf = ({ fileName }: FinishedFile, edge: number): string => `Like ${fileName.replace(/\.[^.]*$/, '').slice(0, 80)}, ${edge} px`;

function colourOf({ space, profile, type }: FinishedFile, tell: Tell): object {
  if (space === null) {
    tell('colour.space', 'likely', 'srgb', 'It has no profile, and what has none is shown as sRGB.');
    return { embed: tell('colour.embed', 'seen', writable(type) === null || !FILE_TYPES[writable(type)!].untagged, 'It has no profile.') };
  }
  if (space === 'other')
    return {
      space: tell(
        'colour.space',
        'not seen',
        'srgb',
        `Its profile, ${profile ?? ''}, is none that can be chosen: sRGB is safe everywhere.`,
      ),
    };
  return { space: tell('colour.space', 'seen', space, `Its profile is ${profile ?? space}.`) };
}

/** Types that come in and do not go out are taken for JPEG. */
const writable = (type: AnyTypeName): FileTypeName | null => (type in FILE_TYPES ? (type as FileTypeName) : null);

function fileOf({ type, quality, chroma, progressive, bits }: FinishedFile, tell: Tell): object {
  const own = writable(type);
  const label = typeLabel(type);
  const chosen = own
    ? tell('file.type', 'seen', own, `It is ${label}.`)
    : tell('file.type', 'not seen', 'jpeg' as const, `It is ${label}, which is not written here: JPEG is for everybody.`);
  const about = FILE_TYPES[chosen];
  const file: Record<string, unknown> = { type: chosen };
  if (quality && chosen === 'jpeg')
    file['quality'] = tell(
      'file.quality',
      quality.exact ? 'seen' : 'likely',
      quality.value,
      quality.exact
        ? `Its tables are those of quality ${quality.value}.`
        : `Its tables are its program’s own; they are nearest to those of quality ${quality.value}.`,
    );
  else if (about.lossy)
    file['quality'] = tell(
      'file.quality',
      'not seen',
      80,
      `${about.label} does not say with which quality it was made: this is a usual one.`,
    );
  if (chroma && about.chroma === 'sampled')
    file['chroma'] = tell(
      'file.chroma',
      'seen',
      chroma,
      chroma === '4:4:4' ? 'Its colours are as fine as its light.' : 'Its colours are half as fine as its light.',
    );
  if (progressive !== null && chosen === 'jpeg')
    file['progressive'] = tell('file.progressive', 'seen', progressive, progressive ? 'It is progressive.' : 'It is baseline.');
  if (about.bits.includes(16) && !about.lossy)
    file['bits'] = tell('file.bits', 'seen', bits > 8 ? 16 : 8, `It has ${bits} bits per channel.`);
  return file;
}

function metadataOf({ carries }: FinishedFile, tell: Tell): object {
  return Object.fromEntries(
    METADATA_GROUPS.filter((group) => group !== 'other').map((group) =>
      carries.includes(group)
        ? [group, tell(`metadata.${group}`, 'seen', 'keep', 'They are in the file.')]
        : [group, tell(`metadata.${group}`, 'likely', 'remove', 'None are in the file; perhaps none were in its master.')],
    ),
  );
}

/** A number at the end that counts, or that says the size; else the name is the master's own. */
function nameOf(fileName: string, edge: number, tell: Tell): NamePart[] {
  const name = fileName.replace(/\.[^.]*$/, '');
  const [, before = '', sign = '', digits = ''] = /^(.*?)([-_ ]?)(\d+)$/.exec(name) ?? [];
  const original: NamePart = { part: 'original' };
  const signed: NamePart[] = sign ? [{ part: 'text', text: sign }] : [];
  if (before && sign && Number(digits) === edge)
    return tell('name.parts', 'likely', [original, ...signed, { part: 'long-edge' }], `It ends with ${digits}, its long edge.`);
  // Cameras count so, too, but begin with capital letters or a sign.
  if (before && digits.length >= 2 && digits.length <= 4 && /[a-z]/.test(before))
    return tell(
      'name.parts',
      'likely',
      [{ part: 'text', text: before }, ...signed, { part: 'counter', start: 1, step: 1, digits: digits.length }],
      `It ends with ${digits}, which looks like a counter.`,
    );
  return tell('name.parts', 'not seen', [original], 'How it came to its name cannot be seen: the master’s name stays.');
}
