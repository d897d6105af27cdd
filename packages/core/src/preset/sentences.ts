import type { NamePart } from '../name/parts';
import { METADATA_GROUPS, type MetadataGroup, type Preset } from './schema';

/** The rungs of a preset, in the order in which a picture climbs them. */
export const RUNGS = ['size', 'colour', 'sharpen', 'mark', 'file', 'metadata', 'name', 'folder'] as const;

/** What a preset says, in the order in which it is read: which masters it is for, then its rungs. */
export const PARTS = ['applies', ...RUNGS] as const;
export type Part = (typeof PARTS)[number];

/** A piece of a sentence: plain words, or a value of the preset that can be edited where it stands. */
export type Piece = { kind: 'text'; text: string } | { kind: 'value'; field: string; text: string };

const text = (words: string): Piece => ({ kind: 'text', text: words });
const value = (field: string, words: string | number): Piece => ({ kind: 'value', field, text: String(words) });

/**
 * What a preset does, part by part, as sentences: "Long edge **1920 px**, never enlarged."
 * @param watermarkTitle what the watermark that the preset names is called; without, its id or file stands there
 */
export function presetSentences(preset: Preset, watermarkTitle?: string): Record<Part, Piece[]> {
  return {
    applies: appliesSentence(preset),
    size: sizeSentence(preset),
    colour: colourSentence(preset),
    sharpen: sharpenSentence(preset),
    mark: markSentence(preset, watermarkTitle),
    file: fileSentence(preset),
    metadata: metadataSentence(preset),
    name: nameSentence(preset),
    folder: folderSentence(preset),
  };
}

/** The whole preset in one line: "Long edge 2048 px, sRGB, JPEG quality 80; only tagged hero". */
export function presetInShort(preset: Preset): string {
  const { file, colour } = preset;
  const space = colour.space === 'keep' ? 'colours as they are' : SPACE_NAMES[colour.space];
  const lossy = file.match === null ? `quality ${file.quality}` : `${percentAlike(file.match)} alike`;
  const quality = file.type === 'png' || file.type === 'tiff' ? `${file.bits} bits` : lossy;
  const ceiling = file.ceiling ? `, at most ${kilobytes(file.ceiling.bytes)}` : '';
  return `${sizeInShort(preset)}, ${space}, ${TYPES[file.type]} ${quality}${ceiling}${onlyFor(preset)}`;
}

function onlyFor({ applies: { minRating, tags } }: Preset): string {
  const some = [...(tags.length ? [`tagged ${tags.join(' or ')}`] : []), ...(minRating ? [starsAndUp(minRating)] : [])];
  return some.length ? `; only ${some.join(', ')}` : '';
}

/** What the least number of stars is called. */
export const starsAndUp = (stars: number): string => (stars === 5 ? '5 stars' : `${stars} ${stars === 1 ? 'star' : 'stars'} and up`);

function appliesSentence({ applies: { minRating, tags } }: Preset): Piece[] {
  return [
    text('For '),
    value('applies.tags', tags.length ? `pictures tagged ${tags.join(' or ')}` : 'all pictures'),
    text(', '),
    value('applies.minRating', minRating ? starsAndUp(minRating) : 'whatever their stars'),
    text('; never those left out.'),
  ];
}

export const SPACE_NAMES = { srgb: 'sRGB', 'display-p3': 'Display P3', 'adobe-rgb': 'Adobe RGB (1998)', keep: 'the master’s own' } as const;
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
    text(', averaging '),
    value('size.light', LIGHTS[size.light]),
    text('; tagged '),
    value('size.ppi', size.ppi === null ? 'as the master' : `${size.ppi} ppi`),
    text('.'),
  ];
}

export const LIGHTS: Record<Preset['size']['light'], string> = { encoded: 'encoded values', linear: 'linear light' };

export const KERNELS: Record<Preset['size']['kernel'], string> = {
  lanczos3: 'Lanczos 3',
  lanczos2: 'Lanczos 2',
  cubic: 'bicubic',
  mitchell: 'Mitchell',
  linear: 'bilinear',
  nearest: 'nearest neighbour',
};

function colourSentence({ colour }: Preset): Piece[] {
  const untagged = [text(' Pictures without a profile are taken for '), value('colour.untagged', SPACE_NAMES[colour.untagged])];
  const rest = [
    text('. The profile is '),
    value('colour.embed', colour.embed ? 'embedded' : 'left out'),
    text('; '),
    value('colour.dither', colour.dither ? 'dithered' : 'not dithered'),
    text(' on the way to 8 bits. Where a file has no transparency, clear parts lie over '),
    value('colour.backdrop', colourName(colour.backdrop)),
    text('.'),
  ];
  if (colour.space === 'keep')
    return [text('Colours stay in '), value('colour.space', SPACE_NAMES.keep), text(' space.'), ...untagged, ...rest];
  return [
    text('Converted to '),
    value('colour.space', SPACE_NAMES[colour.space]),
    text(', '),
    value('colour.intent', INTENTS[colour.intent]),
    text(colour.intent === 'relative' ? ' ' : ', '),
    value('colour.blackPoint', colour.blackPoint ? 'with black-point compensation' : 'without black-point compensation'),
    text('.'),
    ...untagged,
    ...rest,
  ];
}

const COLOUR_NAMES: Record<string, string> = { '#ffffff': 'white', '#808080': 'mid grey', '#000000': 'black' };
const colourName = (hex: string): string => COLOUR_NAMES[hex.toLowerCase()] ?? hex;

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

export const PLACES: Record<NonNullable<Preset['mark']>['place'], string> = {
  'top-left': 'at the top left',
  top: 'at the top',
  'top-right': 'at the top right',
  left: 'at the left',
  centre: 'in the centre',
  right: 'at the right',
  'bottom-left': 'at the bottom left',
  bottom: 'at the bottom',
  'bottom-right': 'at the bottom right',
};

function markSentence({ mark, border }: Preset, title: string | undefined): Piece[] {
  const percent = (share: number) => `${Math.round(share * 1000) / 10} %`;
  const watermark = mark
    ? [
        text('Watermark '),
        value('mark.watermark', title ?? mark.watermark),
        text(' '),
        value('mark.place', PLACES[mark.place]),
        text(', '),
        value('mark.size', percent(mark.size)),
        text(' of the short edge large and '),
        value('mark.margin', percent(mark.margin)),
        text(' from the edges, opacity '),
        value('mark.opacity', percent(mark.opacity)),
        text('. '),
      ]
    : [value('mark', 'No watermark'), text('. ')];
  return [
    ...watermark,
    value('border', border ? `A border of ${border.px} px` : 'No border'),
    ...(border ? [text(' in '), value('border.colour', colourName(border.colour))] : []),
    text('.'),
  ];
}

function fileSentence({ file }: Preset): Piece[] {
  const type = value('file.type', TYPES[file.type]);
  if (file.type === 'png') return [type, text(' of '), value('file.bits', file.bits), text(' bits per channel.')];
  if (file.type === 'tiff')
    return [
      type,
      text(' of '),
      value('file.bits', file.bits),
      text(' bits per channel, '),
      value('file.compression', COMPRESSIONS[file.compression]),
      text('.'),
    ];
  const quality =
    file.match === null
      ? [text(' of '), value('file.match', 'a fixed quality'), text(', '), value('file.quality', file.quality)]
      : [
          text(' of '),
          value('file.match', `the lowest quality that stays ${percentAlike(file.match)} like the unencoded picture`),
          text(' (MS-SSIM)'),
        ];
  return [
    type,
    ...quality,
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
    ...(file.type === 'jpeg' ? [text('. '), value('file.progressive', file.progressive ? 'Progressive' : 'Baseline')] : []),
    ...(file.type === 'webp' ? [] : [text(file.type === 'jpeg' ? ', chroma ' : '. Chroma '), value('file.chroma', file.chroma)]),
    text('.'),
  ];
}

const percentAlike = (match: number): string => `${Math.round(match * 1000) / 10} %`;

export const COMPRESSIONS: Record<Preset['file']['compression'], string> = {
  none: 'not compressed',
  lzw: 'LZW compression',
  zip: 'ZIP compression',
};

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
      ? [text('Missing rights are '), value('metadata.fill', metadata.fill ? 'filled in from the studio' : 'left missing'), text('. ')]
      : []),
    text('The file’s own time is '),
    value('metadata.fileTime', FILE_TIMES[metadata.fileTime]),
    text('.'),
  ];
}

export const FILE_TIMES: Record<Preset['metadata']['fileTime'], string> = {
  now: 'when it was made',
  capture: 'when the picture was taken',
  master: 'that of the master',
};

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
