import { FITS, KERNELS, type Preset, SPACES, THEN, unsupported } from '@rundle/core';
import { valueAt, withValue } from './paths';

export interface Option {
  value: unknown;
  label: string;
}

/** How a value of a preset is edited where it stands in its sentence. */
export type Editor =
  | { kind: 'number'; min: number; max: number; step: number; unit: string; scale?: number }
  | { kind: 'choice'; options: readonly Option[] }
  | { kind: 'text'; longest: number }
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

const LENGTH = number(1, 65_500, 1);

const EDITORS: Record<string, Editor> = {
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
  'size.ppi': fixed(...[72, 96, 240, 300].map((ppi) => ({ value: ppi, label: `${ppi} ppi` }))),
  'colour.space': choice(SPACES),
  'colour.intent': choice({
    relative: 'relative colorimetric',
    perceptual: 'perceptual',
    saturation: 'saturation',
    absolute: 'absolute colorimetric',
  }),
  'colour.blackPoint': flip(),
  'colour.untagged': choice({ srgb: SPACES.srgb, 'display-p3': SPACES['display-p3'], 'adobe-rgb': SPACES['adobe-rgb'] }),
  'colour.embed': flip(),
  'colour.dither': flip(),
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
  'border.colour': fixed(
    { value: '#ffffff', label: 'white' },
    { value: '#808080', label: 'mid grey' },
    { value: '#000000', label: 'black' },
  ),
  'file.type': choice({ jpeg: 'JPEG', webp: 'WebP', avif: 'AVIF', png: 'PNG', tiff: 'TIFF' }),
  'file.quality': number(1, 100, 1),
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
 * The editor of a field, offering only what the engine can do, and the present value whatever it is.
 * @param field path such as `size.px`
 */
export function editorOf(field: string, preset: Preset): Editor {
  const editor = EDITORS[field] ?? { kind: 'text', longest: 200 };
  if (editor.kind !== 'choice') return editor;
  const now = JSON.stringify(valueAt(preset, field));
  const possible = editor.options.filter(
    ({ value }) => JSON.stringify(value) === now || !unsupported(withValue(preset, field, value)).length,
  );
  return { kind: 'choice', options: possible };
}
