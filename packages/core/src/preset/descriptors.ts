import { FILE_TYPE_LABELS, FILE_TYPE_NAMES, FILE_TYPES } from '../types/table';
import type { NamePart } from '../name/parts';
import type { FieldPath, FieldValue } from './field-paths';
import { figure } from './fields';
import { MEDIUMS, mediumOf } from './sharpening';
import { type Typed, TYPED_BORDER, TYPED_CEILING, TYPED_COLOUR, TYPED_MATCH, TYPED_PPI } from './typed';

/** How a value is edited where it stands. */
export type EditorKind = 'number' | 'choice' | 'typed' | 'flip' | 'text' | 'words' | 'name-parts' | 'watermark';

export interface Suggestion<Value> {
  value: Value;
  label: string;
}

/** Everything that is said of one field: sentences, editors, docs/presets.md, messages and accessible names come from it. */
export interface Field<Value> {
  /** What it is called, on screen and in messages. */
  label: string;
  /** One sentence that a photographer understands. */
  help: string;
  editor: EditorKind;
  /** How the value reads in the sentence of its rung. */
  says: (value: Value) => string;
  /** Values that are offered; all there are, where the editor is a choice or a flip. */
  suggestions: readonly Suggestion<Value>[];
  /** How any other value is typed, where the editor is `typed`. */
  typed: Typed<Value> | null;
  /** Of a number: what stands behind it, what it is multiplied with for people, and how far one press goes. */
  unit: string;
  scale: number;
  step: number;
}

type About = readonly [label: string, help: string];

const plain = { suggestions: [], typed: null, unit: '', scale: 1, step: 1 } as const;
const rounded = (value: number): string => String(Math.round(value * 1000) / 1000);

/** One of some values, each with its words; with `says`, the words in the sentence differ from those in the list. */
function choice<Value>([label, help]: About, suggestions: readonly Suggestion<Value>[], says?: Field<Value>['says']): Field<Value> {
  const words = (value: Value) => suggestions.find((one) => JSON.stringify(one.value) === JSON.stringify(value))?.label ?? String(value);
  return { ...plain, label, help, editor: 'choice', suggestions, says: says ?? words };
}

/** The usual values, and any other that can be typed. */
const typed = <Value>(
  about: About,
  how: Typed<Value>,
  suggestions: readonly Suggestion<Value>[],
  says: Field<Value>['says'],
): Field<Value> => ({
  ...choice(about, suggestions, says),
  editor: 'typed',
  typed: how,
});

/** One word of a list: every word of the schema has to be here. */
const words = <Word extends string>(about: About, labels: Readonly<Record<Word, string>>, says?: Field<Word>['says']): Field<Word> =>
  choice(
    about,
    (Object.entries(labels) as [Word, string][]).map(([value, label]) => ({ value, label })),
    says,
  );

/** One of two values: a press changes it. */
const flip = <Value>([label, help]: About, ...pair: readonly [readonly [Value, string], readonly [Value, string]]): Field<Value> => ({
  ...plain,
  label,
  help,
  editor: 'flip',
  suggestions: pair.map(([value, says]) => ({ value, label: says })),
  says: (value) => (pair.find(([one]) => one === value) ?? pair[0])[1],
});

const onOff = (about: About, on: string, off: string): Field<boolean> => flip<boolean>(about, [true, on], [false, off]);
const group = (label: string, holds: string): Field<'keep' | 'remove'> => ({
  ...flip<'keep' | 'remove'>([label, `Whether ${holds} go out with the file.`], ['keep', 'kept'], ['remove', 'removed']),
  says: () => label.toLowerCase(),
});

/** @param empty what is said where there is no number */
const number = <Value extends number | null>(
  [label, help]: About,
  { unit = '', scale = 1, step = 1, empty = 'any' } = {},
): Field<Value> => ({
  ...plain,
  label,
  help,
  editor: 'number',
  unit,
  scale,
  step,
  says: (value) => (value === null ? empty : `${rounded(value * scale)}${unit && ` ${unit}`}`),
});

/** A length, whose unit is a field of its own. */
const length = (label: string, help: string): Field<number | null> => number([label, help]);
const share = (label: string, help: string, step = 1): Field<number> => number([label, help], { unit: '%', scale: 100, step });

const text = ([label, help]: About, empty: string): Field<string> => ({
  ...plain,
  label,
  help,
  editor: 'text',
  says: (value) => value || empty,
});

const PLAIN_COLOURS: readonly Suggestion<string>[] = [
  { value: '#ffffff', label: 'white' },
  { value: '#808080', label: 'mid grey' },
  { value: '#000000', label: 'black' },
];
const colour = (about: About): Field<string> =>
  typed(about, TYPED_COLOUR, PLAIN_COLOURS, (value) => PLAIN_COLOURS.find((known) => known.value === value.toLowerCase())?.label ?? value);

/** Bytes the way every screen says them: KB = 1,000 bytes. */
export const kilobytes = (bytes: number): string => `${figure(Math.round(bytes / 1000))} KB`;

/** What the least number of stars is called. */
export const starsAndUp = (stars: number): string => (stars === 5 ? '5 stars' : `${stars} ${stars === 1 ? 'star' : 'stars'} and up`);

/** A share of likeness as people read it: 0.985 is 98.5 %. */
export const percentAlike = (match: number): string => `${Math.round(match * 1000) / 10} %`;

const SPACES = { srgb: 'sRGB', 'display-p3': 'Display P3', 'adobe-rgb': 'Adobe RGB (1998)' } as const;

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
    case 'long-edge':
      return 'long edge';
    default:
      return part.part;
  }
}

/** Every field of a preset. One that is missing here, or whose words are not complete, does not compile. */
export const FIELDS: { readonly [Path in FieldPath]: Field<FieldValue<Path>> } = {
  title: text(['Name', 'What the preset is called.'], ''),
  notes: text(['Notes', 'What it is for.'], ''),
  'applies.minRating': choice(
    ['Stars', 'Only pictures with so many stars or more get it: the file’s own rating, until the set gives others.'],
    [{ value: 0, label: 'whatever their stars' }, ...[1, 2, 3, 4, 5].map((stars) => ({ value: stars, label: starsAndUp(stars) }))],
  ),
  'applies.tags': {
    ...plain,
    label: 'Tags',
    help: 'Only pictures with one of these tags get it, in any case; none for all. On the command line a tag is a keyword in the file.',
    editor: 'words',
    says: (tags) => (tags.length ? `pictures tagged ${tags.join(' or ')}` : 'all pictures'),
  },

  'size.fit': words(['Fit', 'What governs the size of the output.'], {
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
  }),
  'size.px': length('Edge length', 'Length of the edge that governs: the governed edge is exact, the other is rounded.'),
  'size.width': length('Box width', 'Width of the box. A box that only fits inside may leave one side open.'),
  'size.height': length('Box height', 'Height of the box.'),
  'size.unit': words(['Unit', 'Unit of the lengths; cm and in are turned into pixels by the resolution.'], {
    px: 'px',
    cm: 'cm',
    in: 'in',
  }),
  'size.turn': onOff(['Turning', 'Whether the box is turned for upright pictures.'], 'turned for upright pictures', 'never turned'),
  'size.anchor': words(
    ['Part to keep', 'Where a picture is cut to fill: the part that stays. Detail is where neighbouring pixels differ most.'],
    {
      centre: 'centre',
      top: 'top',
      bottom: 'bottom',
      left: 'left',
      right: 'right',
      detail: 'detail',
    },
  ),
  'size.percent': number(['Share of the size', 'Share of both edges of the master.'], { unit: '%', step: 5, empty: '0 %' }),
  'size.megapixels': number(['Megapixels', 'Area of the output.'], { unit: 'megapixels', step: 0.5, empty: '0 megapixels' }),
  'size.enlarge': onOff(
    ['Enlarging', 'Whether small masters are enlarged; if not, they keep their size, and a remark says so.'],
    'enlarged where needed',
    'never enlarged',
  ),
  'size.kernel': words(['Resampling', 'How pixels are weighed when the size changes: Lanczos 3 is the sharpest.'], {
    lanczos3: 'Lanczos 3',
    lanczos2: 'Lanczos 2',
    cubic: 'bicubic',
    mitchell: 'Mitchell',
    linear: 'bilinear',
    nearest: 'nearest neighbour',
  }),
  'size.light': words(['Averaging', 'What is averaged: in linear light, points of light keep their energy.'], {
    encoded: 'encoded values',
    linear: 'linear light',
  }),
  'size.ppi': typed<number | null>(
    ['Resolution tag', 'Pixels per inch, the same in EXIF and in the file’s header; it never changes pixels, unless the unit is cm or in.'],
    TYPED_PPI,
    [{ value: null, label: 'as the master' }, ...[72, 96, 240, 300].map((ppi) => ({ value: ppi, label: `${ppi} ppi` }))],
    (ppi) => (ppi === null ? 'as the master' : `${ppi} ppi`),
  ),

  'colour.space': words(
    ['Colour space', 'The space of the output. “The master’s own” keeps grey and print colour in JPEG and TIFF, grey in PNG too.'],
    { ...SPACES, keep: 'the master’s own' },
  ),
  'colour.intent': words(['Rendering intent', 'How colours that the space cannot hold are brought into it (ICC.1).'], {
    relative: 'relative colorimetric',
    perceptual: 'perceptual',
    saturation: 'saturation',
    absolute: 'absolute colorimetric',
  }),
  'colour.blackPoint': onOff(
    ['Black point', 'Whether the darkest black of the master becomes that of the output.'],
    'with black-point compensation',
    'without black-point compensation',
  ),
  'colour.untagged': words(
    ['Without a profile', 'What a master without a profile is treated as. What its EXIF says goes before it.'],
    SPACES,
  ),
  'colour.embed': onOff(['Profile', 'Whether the profile is embedded: about 500 bytes.'], 'embedded', 'left out'),
  'colour.dither': onOff(['Dither', 'A noise of one step where 16 bits become 8, so that skies do not band.'], 'dithered', 'not dithered'),
  'colour.backdrop': colour(['Backdrop', 'What transparent parts are laid over where the file type has no transparency.']),

  sharpen: choice(
    ['Sharpening', 'An unsharp mask on the finished pixels.'],
    [
      { value: null, label: 'Not sharpened' },
      ...MEDIUMS.map(({ title, mask }) => ({ value: mask, label: `${title}: amount ${mask.amount}, radius ${mask.radius} px` })),
    ],
    (value) => (value ? (mediumOf(value) ?? 'Sharpened') : 'Not sharpened'),
  ),
  'sharpen.amount': number(['Amount', 'How much of the difference to the blurred picture is added.'], { step: 0.1 }),
  'sharpen.radius': number(['Radius', 'Sigma of the blur, in pixels of the output.'], { unit: 'px', step: 0.1 }),
  'sharpen.threshold': share('Threshold', 'Smallest difference that is sharpened, share of full scale.', 0.5),

  mark: {
    ...plain,
    label: 'Watermark',
    help: 'A line of text or a logo over the picture.',
    editor: 'watermark',
    says: () => 'No watermark',
  },
  'mark.watermark': {
    ...plain,
    label: 'Watermark',
    help: 'On the server one of the studio’s; on the command line a file: PNG, SVG or a line of text as *.watermark.json.',
    editor: 'watermark',
    says: (watermark) => watermark,
  },
  'mark.place': words(['Place of the watermark', 'Where in the picture it stands.'], {
    'top-left': 'at the top left',
    top: 'at the top',
    'top-right': 'at the top right',
    left: 'at the left',
    centre: 'in the centre',
    right: 'at the right',
    'bottom-left': 'at the bottom left',
    bottom: 'at the bottom',
    'bottom-right': 'at the bottom right',
  }),
  'mark.margin': share('Margin', 'Distance from those edges, share of the picture’s short edge.'),
  'mark.size': share('Size of the watermark', 'Its longer edge, share of the picture’s short edge.'),
  'mark.opacity': share('Opacity', 'How much of it covers the picture.', 5),
  border: typed<FieldValue<'border'>>(
    ['Border', 'A plain border outside the picture, after sharpening.'],
    TYPED_BORDER,
    [
      { value: null, label: 'No border' },
      ...[10, 40, 99].map((px) => ({ value: { px, colour: '#ffffff' }, label: `${px} px, white` })),
      ...[10, 40, 99].map((px) => ({ value: { px, colour: '#000000' }, label: `${px} px, black` })),
    ],
    (value) => (value ? `A border of ${value.px} px` : 'No border'),
  ),
  'border.px': number(['Border width', 'Added on each side.'], { unit: 'px' }),
  'border.colour': colour(['Border colour', 'Colour of the border.']),

  'file.type': words(
    ['File type', FILE_TYPE_NAMES.map((name) => `${FILE_TYPES[name].label}: ${FILE_TYPES[name].use}`).join(' ')],
    FILE_TYPE_LABELS,
  ),
  'file.quality': number(['Quality', 'Of types with loss: 100 is the best and the heaviest.']),
  'file.match': typed<number | null>(
    ['Visual target', 'Instead of a fixed quality: the lowest that stays so much like the unencoded picture (MS-SSIM).'],
    TYPED_MATCH,
    [
      { value: null, label: 'a fixed quality' },
      ...[0.95, 0.97, 0.98, 0.985, 0.99, 0.995].map((value) => ({
        value,
        label: `${percentAlike(value)} alike`,
      })),
    ],
    (match) => (match === null ? 'a fixed quality' : `the lowest quality that stays ${percentAlike(match)} like the unencoded picture`),
  ),
  'file.progressive': onOff(
    ['Progressive', 'Whether a JPEG appears coarse first, then fine; usually a little lighter.'],
    'Progressive',
    'Baseline',
  ),
  'file.chroma': words(['Chroma', 'How finely colour is kept beside brightness: auto looks at the picture, 4:4:4 is the finest.'], {
    auto: 'auto',
    '4:2:0': '4:2:0',
    '4:4:4': '4:4:4',
  }),
  'file.bits': choice(
    ['Bits per channel', 'Of PNG and TIFF: 16 for work that goes on, 8 for the web.'],
    [
      { value: 8, label: '8' },
      { value: 16, label: '16' },
    ],
  ),
  'file.compression': words(['Compression', 'Of TIFF; none of them loses anything.'], {
    none: 'not compressed',
    lzw: 'LZW compression',
    zip: 'ZIP compression',
  }),
  'file.ceiling': typed<FieldValue<'file.ceiling'>>(
    ['Ceiling', 'The most a file may weigh: the highest quality that fits is found.'],
    TYPED_CEILING,
    [
      { value: null, label: 'whatever it weighs' },
      ...[100, 200, 300, 500, 600, 1000].map((kb) => ({
        value: { bytes: kb * 1000, floor: 60, then: 'shrink' as const },
        label: `${figure(kb)} KB`,
      })),
    ],
    (ceiling) => (ceiling ? `at most ${kilobytes(ceiling.bytes)}` : 'whatever it weighs'),
  ),
  'file.ceiling.bytes': number(['Ceiling', 'The most a file may weigh; 1 KB is 1,000 bytes.'], { unit: 'KB', scale: 0.001, step: 50 }),
  'file.ceiling.floor': number(['Lowest quality', 'The search for the ceiling never goes below it.']),
  'file.ceiling.then': words(['When too heavy', 'What happens when even the lowest quality is too heavy.'], {
    shrink: 'it shrinks further',
    exceed: 'it goes over and says so',
    fail: 'it fails and says so',
  }),

  'metadata.rights': group('Rights', 'creator, copyright, credit, terms, contact and web statement'),
  'metadata.description': group('Title, caption and keywords', 'title, caption and keywords'),
  'metadata.capture': group('Time and camera', 'time, camera, lens and exposure'),
  'metadata.place': group('Place', 'GPS position and place names'),
  'metadata.rating': group('Rating and labels', 'rating and labels'),
  'metadata.other': group('Everything else', 'all other fields'),
  'metadata.fill': onOff(
    ['Missing rights', 'Whether missing rights are filled in from the studio’s details, and those of the set.'],
    'filled in from the studio',
    'left missing',
  ),
  'metadata.fileTime': words(['Time of the file', 'The file’s own time on disk.'], {
    now: 'when it was made',
    capture: 'when the picture was taken',
    master: 'that of the master',
  }),

  'name.parts': {
    ...plain,
    label: 'Parts of the name',
    help: 'What the name is put together from, in this order.',
    editor: 'name-parts',
    says: (parts) => parts.map(partLabel).join(' + '),
  },
  'name.case': words(['Case', 'Whether letters become lower or upper case.'], {
    keep: 'case as it comes',
    lower: 'all lower case',
    upper: 'all upper case',
  }),
  'name.webSafe': onOff(['Web-safe', 'Whether spaces, accents and signs are left out of the name.'], 'web-safe', 'with spaces and accents'),
  folder: text(['Folder', 'A folder inside the target, “/” between levels.'], '(none)'),
  existing: words(
    ['Somebody else’s file', 'What happens to a file of that name that is not ours, or was changed. Ours give way to newer ones.'],
    {
      'keep-both': 'both are kept',
      replace: 'both are kept; the command line replaces it',
      leave: 'it is left, and nothing is made',
      stop: 'the run does not begin',
    },
  ),
};

/** A field, whatever its value is. @returns undefined for a path that is none of a preset's */
export const fieldAt = (path: string): Field<unknown> | undefined =>
  (FIELDS as unknown as Readonly<Record<string, Field<unknown> | undefined>>)[path];
