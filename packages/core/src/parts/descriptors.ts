import { choice, type Field, number, onOff, rounded, share, typed, words } from '../preset/describe';
import type { FieldPath, FieldValue } from '../preset/field-paths';
import {
  canvasSentence,
  FILL_SUGGESTIONS,
  fillInWords,
  panelsSentence,
  sizesInWords,
  TYPED_CANVAS,
  TYPED_FILL,
  TYPED_PANELS,
  TYPED_SIZES,
} from './typed';

type Pieces = Extract<FieldPath, 'size.sizes' | `panels${string}` | `canvas${string}`>;

const sizes = (...said: readonly (readonly [label: string, px: number])[]): FieldValue<'size.sizes'> =>
  said.map(([label, px]) => ({
    label,
    fit: 'long-edge',
    px,
    width: null,
    height: null,
    percent: null,
    megapixels: null,
    quality: null,
    ceiling: null,
  }));

const grid = (columns: number, rows: number): FieldValue<'panels'> => ({
  columns,
  rows,
  width: null,
  height: null,
  unit: 'px',
  overlap: 0,
  order: 'rows',
});

const edges = (width: number, unit: 'cm' | 'in', fill: 'mirror' | 'soft-mirror'): FieldValue<'canvas'> => ({
  width,
  unit,
  fill,
  opacity: 1,
  marks: false,
});

const UNITS = { px: 'px', cm: 'cm', in: 'in' } as const;

/** Fields of what makes several files of a picture, or more of its edges. */
export const PIECE_FIELDS: { readonly [Path in Pieces]: Field<FieldValue<Path>> } = {
  'size.sizes': typed<FieldValue<'size.sizes'>>(
    ['Several sizes', 'Several files of each picture, each with its own name and size, and where wanted its own quality or ceiling.'],
    TYPED_SIZES,
    [
      { value: [], label: 'One size of each picture' },
      { value: sizes(['small', 480], ['medium', 1024], ['large', 2048]), label: 'small 480, medium 1024, large 2048' },
      { value: sizes(['phone', 640], ['tablet', 1280], ['screen', 2560]), label: 'phone 640, tablet 1280, screen 2560' },
    ],
    (value) => (value.length ? sizesInWords(value) : 'One size of each picture'),
  ),
  panels: typed<FieldValue<'panels'>>(
    ['Panels', 'Divides the finished picture into panels that hang side by side, each a file.'],
    TYPED_PANELS,
    [{ value: null, label: 'Not divided' }, ...([[2, 1], [3, 1], [2, 2]] as const).map(([columns, rows]) => ({ value: grid(columns, rows), label: `${columns} × ${rows}` }))], // prettier-ignore
    panelsSentence,
  ),
  'panels.columns': number(['Columns', 'How many panels stand side by side.']),
  'panels.rows': number(['Rows', 'How many panels lie one below the other.']),
  'panels.width': number(['Panel width', 'Width of each panel, in place of their number.']),
  'panels.height': number(['Panel height', 'Height of each panel.']),
  'panels.unit': words(['Unit of the panels', 'Unit of their lengths; cm and in are turned into pixels by the resolution.'], UNITS),
  'panels.overlap': {
    ...number<number>(['Overlap', 'What neighbouring panels have in common; negative: a gap between them that is left out.']),
    says: (overlap) => (overlap < 0 ? `a gap of ${rounded(-overlap)}` : overlap > 0 ? `an overlap of ${rounded(overlap)}` : 'no overlap'),
  },
  'panels.order': choice(
    ['Order of the panels', 'In which order they are made and listed.'],
    [
      { value: 'rows', label: 'row by row' },
      { value: 'columns', label: 'column by column' },
    ],
  ),
  canvas: typed<FieldValue<'canvas'>>(
    ['Canvas edges', 'Added outside each file, for what bends round a frame: not part of the picture that is seen from the front.'],
    TYPED_CANVAS,
    [
      { value: null, label: 'No canvas edges' },
      { value: edges(1, 'in', 'mirror'), label: '1 in, mirrored' },
      { value: edges(1, 'in', 'soft-mirror'), label: '1 in, soft' },
      { value: edges(3, 'cm', 'mirror'), label: '3 cm, mirrored' },
    ],
    canvasSentence,
  ),
  'canvas.width': number(['Width of the edges', 'Added on each side.']),
  'canvas.unit': words(['Unit of the edges', 'Unit of their width; cm and in are turned into pixels by the resolution.'], UNITS),
  'canvas.fill': typed<FieldValue<'canvas.fill'>>(
    [
      'What fills the edges',
      'The picture mirrored at its border, the same growing softer outwards, its outermost pixels drawn out, or a colour.',
    ],
    TYPED_FILL,
    FILL_SUGGESTIONS,
    fillInWords,
  ),
  'canvas.opacity': share('Opacity of the edges', 'How much of them covers the backdrop, which is white unless it is said.', 5),
  'canvas.marks': onOff(
    ['Cut marks', 'Short lines in the corners where the picture ends.'],
    'with marks where it ends',
    'without cut marks',
  ),
};
