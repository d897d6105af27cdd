import {
  COMPRESSIONS,
  FILE_TIMES,
  FITS,
  KERNELS,
  LIGHTS,
  PLACES,
  type Preset,
  SPACE_NAMES,
  starsAndUp,
  type StoredWatermark,
  THEN,
} from '@rundle/core';

export interface Option {
  value: unknown;
  label: string;
}

/** How a value of a preset is edited where it stands in its sentence. */
export type Editor =
  | { kind: 'number'; min: number; max: number; step: number; unit: string; scale?: number }
  | { kind: 'choice'; options: readonly Option[] }
  | { kind: 'text'; longest: number }
  /** Several words, with commas between them. */
  | { kind: 'words'; hint: string }
  | { kind: 'flip'; values: readonly [unknown, unknown] }
  | { kind: 'name-parts' };

const number = (min: number, max: number, step: number, unit = '', scale = 1): Editor => ({ kind: 'number', min, max, step, unit, scale });
const choice = (labels: Record<string, string>): Editor => ({
  kind: 'choice',
  options: Object.entries(labels).map(([value, label]) => ({ value, label })),
});
const flip = (): Editor => ({ kind: 'flip', values: [true, false] });
const group = (): Editor => ({ kind: 'flip', values: ['keep', 'remove'] });
const fixed = (...options: Option[]): Editor => ({ kind: 'choice', options });

const PLAIN_COLOURS: Option[] = [
  { value: '#ffffff', label: 'white' },
  { value: '#808080', label: 'mid grey' },
  { value: '#000000', label: 'black' },
];

const LENGTH = number(1, 65_500, 1);

const EDITORS: Record<string, Editor> = {
  'applies.tags': { kind: 'words', hint: 'Tags with commas between; none for all pictures' },
  'applies.minRating': fixed(
    { value: 0, label: 'whatever their stars' },
    ...[1, 2, 3, 4, 5].map((stars) => ({ value: stars, label: starsAndUp(stars) })),
  ),
  'size.fit': choice({ ...FITS, megapixels: 'A number of megapixels' }),
  'size.px': LENGTH,
  'size.width': LENGTH,
  'size.height': LENGTH,
  'size.unit': choice({ px: 'px', cm: 'cm', in: 'in' }),
  'size.percent': number(0.1, 1000, 5, '%'),
  'size.megapixels': number(0.001, 500, 0.5),
  'size.turn': flip(),
  'size.anchor': choice({ centre: 'centre', top: 'top', bottom: 'bottom', left: 'left', right: 'right', detail: 'detail' }),
  'size.enlarge': flip(),
  'size.kernel': choice(KERNELS),
  'size.light': choice(LIGHTS),
  'size.ppi': fixed(...[72, 96, 240, 300].map((ppi) => ({ value: ppi, label: `${ppi} ppi` }))),
  'colour.space': choice(SPACE_NAMES),
  'colour.intent': choice({
    relative: 'relative colorimetric',
    perceptual: 'perceptual',
    saturation: 'saturation',
    absolute: 'absolute colorimetric',
  }),
  'colour.blackPoint': flip(),
  'colour.untagged': choice({ srgb: SPACE_NAMES.srgb, 'display-p3': SPACE_NAMES['display-p3'], 'adobe-rgb': SPACE_NAMES['adobe-rgb'] }),
  'colour.embed': flip(),
  'colour.dither': flip(),
  'colour.backdrop': fixed(...PLAIN_COLOURS),
  sharpen: fixed(
    { value: null, label: 'Not sharpened' },
    { value: { amount: 0.4, radius: 0.7, threshold: 0.01 }, label: 'Gently: amount 0.4' },
    { value: { amount: 0.7, radius: 0.8, threshold: 0.01 }, label: 'For the screen: amount 0.7' },
    { value: { amount: 1.1, radius: 0.8, threshold: 0.01 }, label: 'Strongly: amount 1.1' },
  ),
  'sharpen.amount': number(0, 5, 0.1),
  'sharpen.radius': number(0.2, 10, 0.1, 'px'),
  'sharpen.threshold': number(0, 100, 0.5, '%', 100),
  border: fixed(
    { value: null, label: 'No border' },
    ...[10, 40, 99].map((px) => ({ value: { px, colour: '#ffffff' }, label: `${px} px, white` })),
    ...[10, 40, 99].map((px) => ({ value: { px, colour: '#000000' }, label: `${px} px, black` })),
  ),
  'border.colour': fixed(...PLAIN_COLOURS),
  'mark.place': choice(PLACES),
  'mark.size': number(1, 100, 1, '%', 100),
  'mark.margin': number(0, 50, 1, '%', 100),
  'mark.opacity': number(0, 100, 5, '%', 100),
  'file.type': choice({ jpeg: 'JPEG', webp: 'WebP', avif: 'AVIF', png: 'PNG', tiff: 'TIFF' }),
  'file.quality': number(1, 100, 1),
  'file.match': fixed(
    { value: null, label: 'a fixed quality' },
    ...[0.95, 0.97, 0.98, 0.985, 0.99, 0.995].map((value) => ({
      value,
      label: `the lowest that stays ${Math.round(value * 1000) / 10} % like the unencoded picture`,
    })),
  ),
  'file.bits': fixed({ value: 8, label: '8' }, { value: 16, label: '16' }),
  'file.compression': choice(COMPRESSIONS),
  'file.ceiling': fixed(
    { value: null, label: 'whatever it weighs' },
    ...[100, 200, 300, 500, 600, 1000].map((kb) => ({ value: { bytes: kb * 1000, floor: 60, then: 'shrink' }, label: `at most ${kb} KB` })),
  ),
  'file.ceiling.floor': number(1, 100, 1),
  'file.ceiling.then': choice(THEN),
  'file.progressive': flip(),
  'file.chroma': choice({ auto: 'auto', '4:2:0': '4:2:0', '4:4:4': '4:4:4' }),
  'metadata.rights': group(),
  'metadata.description': group(),
  'metadata.capture': group(),
  'metadata.place': group(),
  'metadata.rating': group(),
  'metadata.other': group(),
  'metadata.fill': flip(),
  'metadata.fileTime': choice(FILE_TIMES),
  'name.parts': { kind: 'name-parts' },
  'name.case': choice({ keep: 'case as it comes', lower: 'all lower case', upper: 'all upper case' }),
  'name.webSafe': flip(),
  folder: { kind: 'text', longest: 200 },
  existing: choice({
    'keep-both': 'both are kept',
    replace: 'it is replaced',
    leave: 'it is left as it is',
    stop: 'that picture stops and says so',
  }),
};

/**
 * The editor of a field; for a choice the present value stands in the list whatever it is.
 * @param field path such as `size.px`
 * @param watermarks the studio's watermarks, of which those that have been checked are offered
 */
export function editorOf(field: string, watermarks: readonly StoredWatermark[] = []): Editor {
  const ready = watermarks.filter(({ state }) => state === 'ready');
  if (field === 'mark')
    return fixed(
      { value: null, label: ready.length ? 'No watermark' : 'No watermark (add one under Studio)' },
      ...ready.map(({ id, title }) => ({ value: { ...NEW_MARK, watermark: id }, label: title })),
    );
  if (field === 'mark.watermark')
    return fixed({ value: null, label: 'No watermark' }, ...ready.map(({ id, title }) => ({ value: id, label: title })));
  return EDITORS[field] ?? { kind: 'text', longest: 200 };
}

/** A new mark stands where most put it: small, at the bottom right. */
const NEW_MARK: Omit<NonNullable<Preset['mark']>, 'watermark'> = { place: 'bottom-right', margin: 0.03, size: 0.18, opacity: 0.6 };
