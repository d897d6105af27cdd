import { FILE_TYPES } from '../types/table';
import { FIELDS } from './descriptors';
import type { FieldPath } from './field-paths';
import type { Preset } from './schema';
import type { Part } from './sentences';

/** A value of a preset that does nothing in it, and why. */
export interface IdleValue {
  path: FieldPath;
  part: Part;
  message: string;
}

/**
 * The values of a preset that change nothing, whatever they are, because of others.
 * @example idleValues(preset) // [{ path: 'colour.dither', part: 'colour', message: 'Dither does nothing here: 16 bits need none.' }]
 */
export function idleValues({ size, colour, sharpen, mark, file }: Preset): IdleValue[] {
  if (file.type === 'original') return [];
  const type = FILE_TYPES[file.type];
  const said: [boolean, FieldPath, Part, string][] = [
    [size.fit === 'original', 'size.kernel', 'size', 'the size stays'],
    [size.fit === 'original', 'size.light', 'size', 'the size stays'],
    [size.fit === 'original', 'size.enlarge', 'size', 'the size stays'],
    [
      (size.fit === 'box' || size.fit === 'cover' || size.fit === 'stretch') && size.width === size.height,
      'size.turn',
      'size',
      'a square is the same turned',
    ],
    [size.kernel === 'nearest', 'size.light', 'size', 'the nearest pixel is taken as it is'],
    [colour.space !== 'keep' && colour.intent === 'absolute', 'colour.blackPoint', 'colour', 'absolute colours keep their black'],
    [file.bits === 16, 'colour.dither', 'colour', '16 bits need none'],
    [type.transparency, 'colour.backdrop', 'colour', `${type.label} keeps transparent parts`],
    [!type.untagged, 'colour.embed', 'colour', `${type.label} always says what its colours are`],
    [sharpen !== null && sharpen.amount === 0, 'sharpen.radius', 'sharpen', 'the amount is 0'],
    [sharpen !== null && sharpen.amount === 0, 'sharpen.threshold', 'sharpen', 'the amount is 0'],
    [mark !== null && mark.opacity === 0, 'mark.watermark', 'mark', 'its opacity is 0'],
    [mark !== null && mark.place === 'centre', 'mark.margin', 'mark', 'the centre has no edges'],
    [type.chroma === 'own' || type.chroma === 'smart', 'file.chroma', 'file', `${type.label} has its own way`],
  ];
  // What a sentence does not even name needs no word.
  const named: Partial<Record<FieldPath, boolean>> = { 'colour.embed': true, 'file.chroma': type.chroma === 'own' };
  return said.flatMap(([isIdle, path, part, why]) =>
    isIdle && (named[path] ?? true) ? [{ path, part, message: `${FIELDS[path].label} does nothing here: ${why}.` }] : [],
  );
}

/** What a value risks, told where it is set. */
export interface Risk {
  part: Part;
  message: string;
}

/** Spaces whose steps of 8 bits are seen: they hold far more colours than a picture has. */
const WIDE: readonly Preset['colour']['space'][] = ['romm', 'rec2020'];

/** Fewer pixels to the inch are seen in a print (common practice, no source). */
const PRINT_PPI = 150;

/** What can be told by the preset alone; halos are measured on a picture, and what a ceiling does to a set by its forecast. */
export function risksOf({ size, colour, sharpen, panels, canvas, file, metadata }: Preset): Risk[] {
  if (file.type === 'original') return [];
  const lossy = FILE_TYPES[file.type].lossy;
  const isMeasured = [panels, canvas].some((piece) => piece && piece.unit !== 'px');
  const low = lossy && file.match === null && file.quality < 50;
  const lowFloor = lossy && file.ceiling && file.ceiling.floor < 50;
  return [
    ...(WIDE.includes(colour.space) && !(FILE_TYPES[file.type].bits.includes(16) && file.bits === 16)
      ? [{ part: 'colour' as const, message: 'So wide a space bands in 8 bits: choose PNG or TIFF with 16 bits for it.' }]
      : []),
    ...(low ? [{ part: 'file' as const, message: 'Below quality 50 blocks and blotches show in skies and soft backgrounds.' }] : []),
    ...(lowFloor && !low
      ? [{ part: 'file' as const, message: 'A ceiling that may go below quality 50 lets blocks and blotches show.' }]
      : []),
    ...(sharpen && sharpen.amount * sharpen.radius >= 4
      ? [{ part: 'sharpen' as const, message: 'So much over so wide a radius draws halos along edges: judge it at 1:1.' }]
      : []),
    ...(size.enlarge && size.fit !== 'original'
      ? [{ part: 'size' as const, message: 'Enlarged pictures look soft: they have no more detail than before.' }]
      : []),
    ...(isMeasured && size.ppi !== null && size.ppi < PRINT_PPI
      ? [
          {
            part: 'print' as const,
            message: `At ${size.ppi} ppi an inch is ${size.ppi} px: prints want 150 to 300. Set the resolution tag under Size.`,
          },
        ]
      : []),
    ...(metadata.place === 'keep'
      ? [{ part: 'metadata' as const, message: 'The place goes out: whoever gets the file knows where it was taken.' }]
      : []),
  ];
}
