import type { NamedPart } from '../name/output-name';
import type { NamePart } from '../name/parts';
import type { Preset } from '../preset/schema';
import type { PixelSize } from '../size/geometry';
import { inOrder, panelGrid } from './panels';
import { MOST_PARTS, type PanelsRung } from './schema';

/** One of the files that a preset makes of a picture. */
export interface PresetPart {
  /** Tells it from the others; empty where there is only one. */
  part: string;
  /** The preset as it makes this one file. */
  preset: Preset;
  /** What names tell of it. */
  named: NamedPart | null;
}

/** Panels, and which of them is meant: null, or none said, is the undivided picture. */
export type PlacedPanels = PanelsRung & { at?: string };

/**
 * The files that a preset makes of a picture, in their order.
 * @param finished size of the undivided picture with its border, px; null: it is not known. Asked only where the number of panels follows from it
 */
export function partsOf(preset: Preset, finished: () => PixelSize | null): PresetPart[] {
  const { size, panels } = preset;
  if (size.sizes.length)
    return size.sizes.map(({ label }) => ({ part: label, preset: partPreset(preset, label), named: { kind: 'size', label } }));
  if (!panels) return [{ part: '', preset, named: null }];
  const grid = gridOf(preset, panels, finished);
  const digits = { row: String(grid.rows).length, column: String(grid.columns).length };
  return inOrder(panels, grid.columns, grid.rows)
    .slice(0, MOST_PARTS)
    .map(({ row, column }) => {
      const part = panelPart(row, column);
      return { part, preset: partPreset(preset, part), named: { kind: 'panel', row, column, digits } };
    });
}

/** The number of panels; one, which then cannot be made, where none fits or the picture is not known. */
function gridOf({ size }: Preset, panels: PanelsRung, finished: () => PixelSize | null): { columns: number; rows: number } {
  if (panels.columns !== null && panels.rows !== null) return { columns: panels.columns, rows: panels.rows };
  const whole = finished();
  const { columns, rows } = whole ? panelGrid(panels, whole, size.ppi) : { columns: 0, rows: 0 };
  return { columns: Math.max(1, columns), rows: Math.max(1, rows) };
}

/** What a panel is known by. */
export const panelPart = (row: number, column: number): string => `r${row}c${column}`;

/** The place of a panel by what it is known by; null: it is none. */
export function placeOfPanel(part: string): { row: number; column: number } | null {
  const [, row, column] = /^r(\d{1,5})c(\d{1,5})$/.exec(part) ?? [];
  return row && column ? { row: Number(row), column: Number(column) } : null;
}

/** A preset of one of its files as it is asked for: the preset itself, and which of its files. */
export function presetAndPart(preset: Preset): { preset: Preset; part: string } {
  if (!preset.panels) return { preset, part: '' };
  const { at = '', ...panels }: PlacedPanels = preset.panels;
  return { preset: { ...preset, panels }, part: at };
}

/** Whether a preset stands for one file: not for the undivided picture of several panels, and not for a whole family. */
export const isOneFile = ({ size, panels }: Pick<Preset, 'size' | 'panels'>): boolean =>
  size.sizes.length === 0 && (panels === null || (panels as PlacedPanels).at !== undefined);

/** Made once for the same preset, so that what was worked out with it need not be worked out again. */
const known = new WeakMap<Preset, Map<string, Preset>>();

/**
 * A preset as it makes one of its files. A part that it does not have is its largest size, or the undivided picture.
 * @example partPreset(family, 'small').size // { fit: 'long-edge', px: 480, sizes: [], ... }
 */
export function partPreset(preset: Preset, part: string): Preset {
  // The undivided picture has no edges: they belong to each panel.
  if (preset.size.sizes.length === 0 && (!preset.panels || (part === '' && !preset.canvas))) return preset;
  const ofPreset = known.get(preset) ?? new Map<string, Preset>();
  known.set(preset, ofPreset);
  const before = ofPreset.get(part);
  if (before) return before;
  const made = preset.size.sizes.length ? sizePreset(preset, part) : panelPreset(preset, part);
  ofPreset.set(part, made);
  return made;
}

function sizePreset(preset: Preset, part: string): Preset {
  const { sizes } = preset.size;
  const { fit, px, width, height, percent, megapixels, quality, ceiling } = sizes.find(({ label }) => label === part) ?? sizes.at(-1)!;
  const file = {
    ...preset.file,
    ...(quality === null ? {} : { quality, match: null }),
    ...(ceiling === null ? {} : { ceiling }),
  };
  return { ...preset, size: { ...preset.size, fit, px, width, height, percent, megapixels, sizes: [] }, file };
}

function panelPreset(preset: Preset, at: string): Preset {
  if (at === '') return { ...preset, canvas: null };
  const panels: PlacedPanels | null = preset.panels && { ...preset.panels, at };
  return { ...preset, panels };
}

/** The name parts that tell the files of a picture apart and are missing; none: names do. */
export function missingNameParts({ size, panels, name }: Pick<Preset, 'size' | 'panels' | 'name'>): NamePart['part'][] {
  const isNamed = (wanted: NamePart['part']) => name.parts.some(({ part }) => part === wanted);
  const wanted: NamePart['part'][] = [
    ...(size.sizes.length > 1 ? ['size' as const] : []),
    ...(panels && panels.rows !== 1 ? ['row' as const] : []),
    ...(panels && panels.columns !== 1 ? ['column' as const] : []),
  ];
  return wanted.filter((part) => !isNamed(part));
}

const IN_WORDS: Partial<Record<NamePart['part'], string>> = { size: 'the size', row: 'the row', column: 'the column' };

/** The same as they are said: "the row and the column"; empty: none is missing. */
export const missingInWords = (preset: Pick<Preset, 'size' | 'panels' | 'name'>): string =>
  missingNameParts(preset)
    .map((part) => IN_WORDS[part])
    .join(' and ');

/** The same preset with names that tell its files apart: what is missing stands at the end. */
export function withNameParts(preset: Preset): Preset {
  const missing = missingNameParts(preset);
  const added = missing.flatMap((part, at): NamePart[] => [{ part: 'text', text: at ? '-' : '_' }, { part } as NamePart]);
  return missing.length ? { ...preset, name: { ...preset.name, parts: [...preset.name.parts, ...added] } } : preset;
}

/** Whether a preset makes several files of a picture. */
export const hasParts = ({ size, panels }: Pick<Preset, 'size' | 'panels'>): boolean => size.sizes.length > 0 || panels !== null;

/** What a part is called where its preset is not at hand. @example partInWords('r1c2') // 'row 1, column 2' */
export function partInWords(part: string): string {
  const place = placeOfPanel(part);
  return place ? `row ${place.row}, column ${place.column}` : part;
}

/** What a part is called on screens. @example partTitle('r1c2') // 'row 1, column 2' */
export function partTitle(preset: Pick<Preset, 'panels'>, part: string): string {
  const place = preset.panels && placeOfPanel(part);
  if (!place) return part;
  const { columns, rows } = preset.panels ?? { columns: null, rows: null };
  if (rows === 1) return `panel ${place.column}`;
  if (columns === 1) return `panel ${place.row}`;
  return partInWords(part);
}
