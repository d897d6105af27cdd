import type { NamePart } from '../name/parts';
import { METADATA_GROUPS, type MetadataGroup, type Preset } from './schema';

/** The rungs of a preset, in the order in which a picture climbs them. */
export const RUNGS = ['size', 'colour', 'sharpen', 'mark', 'file', 'metadata', 'name', 'folder'] as const;
export type Rung = (typeof RUNGS)[number];

/** A piece of a sentence: plain words, or a value of the preset that can be edited where it stands. */
export type Piece = { kind: 'text'; text: string } | { kind: 'value'; field: string; text: string };

const text = (words: string): Piece => ({ kind: 'text', text: words });
const value = (field: string, words: string | number): Piece => ({ kind: 'value', field, text: String(words) });

/** What a preset does, rung by rung, as sentences: "Long edge **1920 px**, never enlarged." */
export function presetSentences(preset: Preset): Record<Rung, Piece[]> {
  return {
    size: sizeSentence(preset),
    colour: colourSentence(preset),
    sharpen: sharpenSentence(preset),
    mark: markSentence(preset),
    file: fileSentence(preset),
    metadata: metadataSentence(preset),
    name: nameSentence(preset),
    folder: folderSentence(preset),
  };
}

/** The whole preset in one line: "Long edge 2048 px, sRGB, JPEG 80". */
export function presetInShort(preset: Preset): string {
  const { file, colour } = preset;
  const space = colour.space === 'keep' ? 'colours as they are' : SPACES[colour.space];
  const quality = file.type === 'png' || file.type === 'tiff' ? `${file.bits} bits` : `quality ${file.quality}`;
  const ceiling = file.ceiling ? `, at most ${kilobytes(file.ceiling.bytes)}` : '';
  return `${sizeInShort(preset)}, ${space}, ${TYPES[file.type]} ${quality}${ceiling}`;
}

export const SPACES = { srgb: 'sRGB', 'display-p3': 'Display P3', 'adobe-rgb': 'Adobe RGB (1998)', keep: 'the master’s own' } as const;
export const TYPES = { jpeg: 'JPEG', webp: 'WebP', avif: 'AVIF', png: 'PNG', tiff: 'TIFF' } as const;

export const FITS: Record<Preset['size']['fit'], string> = {
  original: 'Size of the master',
  'long-edge': 'Long edge',
  'short-edge': 'Short edge',
  width: 'Width',
  height: 'Height',
  box: 'Inside a box of',
  cover: 'Cut to fill',
  stretch: 'Stretched to',
  percent: 'Scaled to',
  megapixels: 'At most',
};

/** Bytes the way every screen says them: KB = 1,000 bytes. */
export const kilobytes = (bytes: number): string => `${Math.round(bytes / 1000).toLocaleString('en-GB')} KB`;

function sizeInShort({ size }: Preset): string {
  const fit = FITS[size.fit];
  return [fit, ...lengths(size).map((piece) => piece.text)].join(' ').replace(/ +/g, ' ').trim();
}

function lengths(size: Preset['size']): Piece[] {
  switch (size.fit) {
    case 'original':
      return [];
    case 'percent':
      return [value('size.percent', size.percent ?? 0), text(' %')];
    case 'megapixels':
      return [value('size.megapixels', size.megapixels ?? 0), text(' megapixels')];
    case 'box':
    case 'cover':
    case 'stretch':
      return [
        value('size.width', size.width ?? 'any'),
        text(' × '),
        value('size.height', size.height ?? 'any'),
        text(' '),
        value('size.unit', size.unit),
      ];
    default:
      return [value('size.px', size.px ?? 0), text(' '), value('size.unit', size.unit)];
  }
}

function sizeSentence({ size }: Preset): Piece[] {
  const boxed = size.fit === 'box' || size.fit === 'cover' || size.fit === 'stretch';
  return [
    value('size.fit', FITS[size.fit]),
    text(' '),
    ...lengths(size),
    ...(boxed ? [text(', '), value('size.turn', size.turn ? 'turned for upright pictures' : 'never turned')] : []),
    ...(size.fit === 'cover' ? [text(', keeping the '), value('size.anchor', size.anchor)] : []),
    text(', '),
    value('size.enlarge', size.enlarge ? 'enlarged where needed' : 'never enlarged'),
    text('. Resampled with '),
    value('size.kernel', KERNELS[size.kernel]),
    text('; tagged '),
    value('size.ppi', size.ppi === null ? 'as the master' : `${size.ppi} ppi`),
    text('.'),
  ];
}

export const KERNELS: Record<Preset['size']['kernel'], string> = {
  lanczos3: 'Lanczos 3',
  lanczos2: 'Lanczos 2',
  cubic: 'bicubic',
  mitchell: 'Mitchell',
  linear: 'bilinear',
  nearest: 'nearest neighbour',
};

function colourSentence({ colour }: Preset): Piece[] {
  if (colour.space === 'keep') return [text('Colours stay in '), value('colour.space', SPACES.keep), text(' space.')];
  return [
    text('Converted to '),
    value('colour.space', SPACES[colour.space]),
    text(', '),
    value('colour.intent', INTENTS[colour.intent]),
    text(colour.intent === 'relative' ? ' ' : ', '),
    value('colour.blackPoint', colour.blackPoint ? 'with black-point compensation' : 'without black-point compensation'),
    text('. Pictures without a profile are taken for '),
    value('colour.untagged', SPACES[colour.untagged]),
    text('. The profile is '),
    value('colour.embed', colour.embed ? 'embedded' : 'left out'),
    text('; '),
    value('colour.dither', colour.dither ? 'dithered' : 'not dithered'),
    text(' on the way to 8 bits.'),
  ];
}

export const INTENTS: Record<Preset['colour']['intent'], string> = {
  relative: 'relative colorimetric',
  perceptual: 'perceptual',
  saturation: 'saturation',
  absolute: 'absolute colorimetric',
};

function sharpenSentence({ sharpen }: Preset): Piece[] {
  if (!sharpen) return [value('sharpen', 'Not sharpened'), text('.')];
  return [
    value('sharpen', 'Sharpened for the screen'),
    text(': amount '),
    value('sharpen.amount', sharpen.amount),
    text(', radius '),
    value('sharpen.radius', `${sharpen.radius} px`),
    text(', from a difference of '),
    value('sharpen.threshold', `${Math.round(sharpen.threshold * 1000) / 10} %`),
    text('.'),
  ];
}

function markSentence({ mark, border }: Preset): Piece[] {
  return [
    text(mark ? `Watermark ${mark.watermark} at ${mark.place}. ` : 'No watermark. '),
    value('border', border ? `A border of ${border.px} px` : 'No border'),
    ...(border ? [text(' in '), value('border.colour', border.colour)] : []),
    text('.'),
  ];
}

function fileSentence({ file }: Preset): Piece[] {
  const jpeg = file.type === 'jpeg';
  return [
    value('file.type', TYPES[file.type]),
    text(' of quality '),
    value('file.quality', file.quality),
    text(', '),
    value('file.ceiling', file.ceiling ? `at most ${kilobytes(file.ceiling.bytes)}` : 'whatever it weighs'),
    ...(file.ceiling
      ? [
          text(', not below quality '),
          value('file.ceiling.floor', file.ceiling.floor),
          text('; if that is too heavy, '),
          value('file.ceiling.then', THEN[file.ceiling.then]),
        ]
      : []),
    ...(jpeg
      ? [
          text('. '),
          value('file.progressive', file.progressive ? 'Progressive' : 'Baseline'),
          text(', chroma '),
          value('file.chroma', file.chroma),
        ]
      : []),
    text('.'),
  ];
}

export const THEN = { shrink: 'it shrinks further', exceed: 'it goes over and says so', fail: 'it fails and says so' } as const;

export const GROUPS: Record<MetadataGroup, string> = {
  rights: 'rights',
  description: 'title, caption and keywords',
  capture: 'time and camera',
  place: 'place',
  rating: 'rating and labels',
  other: 'everything else',
};

function metadataSentence({ metadata }: Preset): Piece[] {
  const pieces = (policy: 'keep' | 'remove'): Piece[] =>
    METADATA_GROUPS.filter((group) => metadata[group] === policy).flatMap((group, index) => [
      ...(index ? [text(', ')] : []),
      value(`metadata.${group}`, GROUPS[group]),
    ]);
  const kept = pieces('keep');
  const removed = pieces('remove');
  return [
    ...(kept.length ? [text('Kept: '), ...kept, text('. ')] : []),
    ...(removed.length ? [text('Removed: '), ...removed, text('. ')] : []),
    ...(metadata.rights === 'keep'
      ? [text('Missing rights are '), value('metadata.fill', metadata.fill ? 'filled in from the studio' : 'left missing'), text('.')]
      : []),
  ];
}

/** What a name part is called in sentences and lists. */
export function partLabel(part: NamePart): string {
  switch (part.part) {
    case 'original':
      return 'original name';
    case 'text':
      return `“${part.text}”`;
    case 'counter':
      return `counter from ${String(part.start).padStart(part.digits, '0')}`;
    case 'date':
      return `date ${part.pattern}`;
    case 'set':
      return 'set';
    case 'preset':
      return 'preset';
    case 'long-edge':
      return 'long edge';
    default:
      return part.part;
  }
}

const CASES = { keep: 'case as it comes', lower: 'all lower case', upper: 'all upper case' } as const;

function nameSentence({ name }: Preset): Piece[] {
  return [
    text('Named '),
    value('name.parts', name.parts.map(partLabel).join(' + ')),
    text(', '),
    value('name.case', CASES[name.case]),
    text(', '),
    value('name.webSafe', name.webSafe ? 'web-safe' : 'with spaces and accents'),
    text('.'),
  ];
}

const EXISTING = {
  'keep-both': 'both are kept',
  replace: 'it is replaced',
  leave: 'it is left as it is',
  stop: 'that picture stops and says so',
} as const;

function folderSentence({ folder, existing }: Preset): Piece[] {
  return [
    text('Into the folder '),
    value('folder', folder || '(none)'),
    text('. When a file of that name is there, '),
    value('existing', EXISTING[existing]),
    text('.'),
  ];
}
