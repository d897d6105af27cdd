import type { Typed } from '../preset/typed';
import { bytesOf, colourOf, numberOf } from '../preset/typed';
import type { FamilySize, Preset } from '../preset/schema';
import type { EdgeFill, LengthUnit } from './schema';

/*
 * Families, panels and canvas edges as people write them on one line, and as sentences say them.
 */

type Sizes = Preset['size']['sizes'];
type Panels = Preset['panels'];
type Canvas = Preset['canvas'];

const rounded = (value: number): string => String(Math.round(value * 1000) / 1000);

/** What stands before the lengths of a size, by its fit; a long edge needs no word. */
const FIT_WORDS = {
  'long-edge': '',
  'short-edge': 'short edge',
  width: 'width',
  height: 'height',
  box: 'inside',
  cover: 'filling',
  stretch: 'stretched to',
} as const satisfies Partial<Record<FamilySize['fit'], string>>;

const NUMBER = String.raw`\d+(?:[.]\d+)?`;
const ONE_SIZE = new RegExp(
  String.raw`^(?<label>.+?)\s+(?:(?<whole>full size)|(?:(?<fit>long edge|short edge|width|height|inside|filling|stretched to)\s+)?(?<a>${NUMBER})(?:\s*[x×]\s*(?<b>${NUMBER}))?\s*(?<unit>%|mp|px|cm|in)?)(?:\s+(?:quality|q)\s*(?<quality>\d+))?(?:\s+(?:at most|≤)\s*(?<ceiling>[\d.]+\s*(?:kb|mb)))?$`,
  'i',
);

/**
 * Named sizes: "small 480, medium 1024, large 2048 quality 85 at most 400 KB"; a number alone is the long edge.
 * @returns undefined where one of them cannot be read
 */
export function typedSizes(text: string, before: Sizes = []): Sizes | undefined {
  const said = text
    .split(/[,;\n]/)
    .map((one) => one.trim())
    .filter(Boolean);
  const sizes = said.map((one) => typedSize(one, before));
  return sizes.every((size) => size !== undefined) ? sizes : undefined;
}

function typedSize(text: string, before: Sizes): FamilySize | undefined {
  const found = ONE_SIZE.exec(text)?.groups;
  if (!found) return undefined;
  const { label = '', whole, fit, a = '', b, unit = '', quality, ceiling } = found;
  const lengths = whole
    ? { fit: 'original' as const }
    : typedLengths(fit?.toLowerCase(), Number(a), b === undefined ? null : Number(b), unit);
  const bytes = ceiling === undefined ? null : bytesOf(ceiling);
  if (!lengths || bytes === undefined) return undefined;
  const own = before.find((size) => size.label === label)?.ceiling ?? { floor: 60, then: 'shrink' as const };
  return {
    ...{ px: null, width: null, height: null, percent: null, megapixels: null },
    ...lengths,
    label,
    quality: quality === undefined ? null : Number(quality),
    ceiling: bytes === null ? null : { ...own, bytes },
  };
}

function typedLengths(
  word: string | undefined,
  a: number,
  b: number | null,
  unit: string,
): (Pick<FamilySize, 'fit'> & Partial<FamilySize>) | undefined {
  if (unit === '%') return word === undefined && b === null ? { fit: 'percent', percent: a } : undefined;
  if (unit.toLowerCase() === 'mp') return word === undefined && b === null ? { fit: 'megapixels', megapixels: a } : undefined;
  if (b !== null) {
    const fit = (Object.keys(FIT_WORDS) as (keyof typeof FIT_WORDS)[]).find((one) => FIT_WORDS[one] === (word ?? 'inside'));
    return fit === 'box' || fit === 'cover' || fit === 'stretch' ? { fit, width: a, height: b } : undefined;
  }
  if (word === undefined || word === 'long edge') return { fit: 'long-edge', px: a };
  return word === 'short edge' ? { fit: 'short-edge', px: a } : word === 'width' || word === 'height' ? { fit: word, px: a } : undefined;
}

/** @example sizesInWords(family) // 'small 480, medium 1024, large 2048' */
export const sizesInWords = (sizes: Sizes): string => sizes.map(sizeInWords).join(', ');

function sizeInWords({ label, quality, ceiling, ...lengths }: FamilySize): string {
  const own = [
    ...(quality === null ? [] : [`quality ${quality}`]),
    ...(ceiling === null ? [] : [`at most ${rounded(ceiling.bytes / 1000)} KB`]),
  ];
  return [label, lengthsInWords(lengths), ...own].join(' ');
}

function lengthsInWords({ fit, px, width, height, percent, megapixels }: Omit<FamilySize, 'label' | 'quality' | 'ceiling'>): string {
  if (fit === 'original') return 'full size';
  if (fit === 'percent') return `${rounded(percent ?? 0)} %`;
  if (fit === 'megapixels') return `${rounded(megapixels ?? 0)} MP`;
  if (fit === 'box' && (width === null || height === null))
    return width === null ? `height ${rounded(height ?? 0)}` : `width ${rounded(width)}`;
  if (fit === 'box' || fit === 'cover' || fit === 'stretch') return `${FIT_WORDS[fit]} ${rounded(width ?? 0)} × ${rounded(height ?? 0)}`;
  return [FIT_WORDS[fit], rounded(px ?? 0)].filter(Boolean).join(' ');
}

export const TYPED_SIZES: Typed<Sizes> = {
  hint: 'Names and long edges, such as small 480, large 2048; also “width 1440”, “inside 1024 × 768”, “quality 70”, “at most 300 KB”',
  read: (text, before) => (text.trim() === '' ? [] : typedSizes(text, before)),
  write: sizesInWords,
};

const LENGTH = new RegExp(String.raw`^(${NUMBER})\s*(px|cm|in|inch|inches|")?$`, 'i');

/** A length with its unit: "1 in", "2,5 cm", "40"; without a unit px are meant. */
function typedLength(text: string): { width: number; unit: LengthUnit } | undefined {
  const [, digits, unit = 'px'] = LENGTH.exec(text.trim().replace(',', '.')) ?? [];
  const width = digits === undefined ? undefined : numberOf(digits);
  return width === undefined ? undefined : { width, unit: unitOf(unit) };
}

const unitOf = (said: string): LengthUnit => (/^(px|cm)$/i.test(said) ? (said.toLowerCase() as LengthUnit) : 'in');

export const TYPED_PANELS: Typed<Panels> = {
  hint: 'Columns × rows, such as 3 × 1; or the size of each with its unit, such as 8 × 10 in',
  read: (text, before) => {
    const [, a, b, unit] = /^([\d.,]+)\s*[x×]\s*([\d.,]+)\s*(px|cm|in|inch|inches|")?$/i.exec(text.trim()) ?? [];
    const [first, second] = [numberOf(a ?? ''), numberOf(b ?? '')];
    if (!first || !second) return undefined;
    const rest = before ?? { overlap: 0, unit: 'px' as const, order: 'rows' as const };
    const none = { columns: null, rows: null, width: null, height: null };
    // An overlap in another unit would be another overlap.
    const sized = unit === undefined ? null : unitOf(unit);
    if (sized) return { ...rest, ...none, width: first, height: second, unit: sized, overlap: sized === rest.unit ? rest.overlap : 0 };
    return { ...rest, ...none, columns: first, rows: second };
  },
  write: (panels) => (panels ? panelsInWords(panels) : ''),
};

const panelsInWords = ({ columns, rows, width, height, unit }: NonNullable<Panels>): string =>
  columns === null ? `${rounded(width ?? 0)} × ${rounded(height ?? 0)} ${unit}` : `${columns} × ${rows}`;

export const panelsSentence = (panels: Panels): string =>
  panels === null
    ? 'Not divided'
    : `Divided into ${panels.columns === null ? `panels of ${panelsInWords(panels)}` : `${panelsInWords(panels)} panels`}`;

export const TYPED_CANVAS: Typed<Canvas> = {
  hint: 'A width with its unit, such as 1 in, 3 cm or 300 px',
  read: (text, before) => {
    const length = typedLength(text);
    if (!length) return undefined;
    return length.width === 0 ? null : { ...(before ?? { fill: 'mirror', opacity: 1, marks: false }), ...length };
  },
  write: (canvas) => (canvas ? `${rounded(canvas.width)} ${canvas.unit}` : ''),
};

export const canvasSentence = (canvas: Canvas): string =>
  canvas ? `Canvas edges of ${rounded(canvas.width)} ${canvas.unit}` : 'No canvas edges';

const FILL_WORDS: Record<EdgeFill, string> = {
  mirror: 'the picture mirrored',
  'soft-mirror': 'the picture mirrored, softer outwards',
  stretch: 'its outermost pixels',
};
const FILL_COLOURS = { '#ffffff': 'white', '#000000': 'black' } as const;

type Fill = NonNullable<Canvas>['fill'];
export const fillInWords = (fill: Fill): string =>
  (FILL_WORDS as Partial<Record<string, string>>)[fill] ?? (FILL_COLOURS as Partial<Record<string, string>>)[fill.toLowerCase()] ?? fill;

export const FILL_SUGGESTIONS = [...Object.keys(FILL_WORDS), ...Object.keys(FILL_COLOURS)].map((fill) => ({
  value: fill,
  label: fillInWords(fill),
}));

export const TYPED_FILL: Typed<Fill> = {
  hint: 'A colour: white, black, or such as #20364a',
  read: colourOf,
  write: (fill) => (fill.startsWith('#') ? fill : ''),
};
