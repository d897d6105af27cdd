import { FILE_TYPE_LABELS, FILE_TYPE_NAMES, FILE_TYPES } from '../types/table';
import type { NamePart } from '../name/parts';
import { PIECE_FIELDS } from '../parts/descriptors';
import { TONE_FIELDS } from '../tone/descriptors';
import { choice, colour, type Field, group, length, number, onOff, plain, rounded, share, text, typed, words } from './describe';
import type { FieldPath, FieldValue } from './field-paths';
import { figure } from './fields';
import { MEDIUMS, mediumOf } from './sharpening';
import { TYPED_BORDER, TYPED_CEILING, TYPED_MATCH, TYPED_PPI, TYPED_RATIO } from './typed';

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
  'size.light': words(
    [
      'Light',
      'In linear light, points of light stay as bright as they were; in its own gamma a picture is made smaller as most programs do it.',
    ],
    {
      encoded: 'the picture’s own gamma',
      linear: 'linear light',
    },
  ),
  'size.ppi': typed<number | null>(
    ['Resolution tag', 'Pixels per inch, the same in EXIF and in the file’s header; it never changes pixels, unless the unit is cm or in.'],
    TYPED_PPI,
    [{ value: null, label: 'as the master' }, ...[72, 96, 240, 300].map((ppi) => ({ value: ppi, label: `${ppi} ppi` }))],
    (ppi) => (ppi === null ? 'as the master' : `${ppi} ppi`),
  ),

  'size.ratio': typed<FieldValue<'size.ratio'>>(
    [
      'Ratio',
      'Width to height of the output. Where a picture is cut is decided by hand for each, or follows its focus, or is proposed by what is to be seen.',
    ],
    TYPED_RATIO,
    [
      { value: null, label: 'in its own ratio' },
      ...(
        [
          [1, 1],
          [3, 2],
          [4, 3],
          [5, 4],
          [16, 9],
        ] as const
      ).map(([w, h]) => ({ value: { w, h, turn: true }, label: `cropped to ${w}:${h}` })),
    ],
    (ratio) => (ratio ? `cropped to ${rounded(ratio.w)}:${rounded(ratio.h)}` : 'in its own ratio'),
  ),
  'size.ratio.w': number(['Ratio, width', 'Width in the ratio.']),
  'size.ratio.h': number(['Ratio, height', 'Height in the ratio.']),
  'size.ratio.turn': onOff(
    ['Turning the ratio', 'Whether the ratio is turned to the orientation of the picture.'],
    'turned for upright pictures',
    'never turned',
  ),

  ...PIECE_FIELDS,
  ...TONE_FIELDS,

  'colour.space': words(
    [
      'Colour space',
      'The space of the output. ROMM RGB and Rec. 2020 hold every colour of a camera, for files that are edited further, in 16 bits. “The master’s own” keeps grey and print colour in JPEG and TIFF, grey in PNG too.',
    ],
    { ...SPACES, romm: 'ROMM RGB', rec2020: 'Rec. 2020', keep: 'the master’s own' },
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
    ['Visual target', 'Instead of a fixed quality: the lowest that stays so much like the picture before it was compressed.'],
    TYPED_MATCH,
    [
      { value: null, label: 'a fixed quality' },
      ...[0.95, 0.97, 0.98, 0.985, 0.99, 0.995].map((value) => ({ value, label: `${percentAlike(value)} fidelity` })),
    ],
    (match) => (match === null ? 'a fixed quality' : `the lowest quality that keeps ${percentAlike(match)} fidelity`),
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
  place: choice<FieldValue<'place'>>(
    ['Place', 'Where its folder lies. Beside the masters: in the folder of each. A folder of one machine never stands in a preset.'],
    [
      { value: null, label: 'where the set says' },
      { value: 'masters', label: 'beside the masters' },
      { value: 'ask', label: 'where it is said when it runs' },
    ],
  ),
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
