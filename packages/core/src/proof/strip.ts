import type { Preset } from '../preset/schema';
import { AXES, type AxisId, type AxisValue, axisValues, withValues } from './axes';

/** Values of a preset that are others in a tile. */
export type TileValues = Partial<Record<AxisId, AxisValue>>;

/** One of the pictures side by side. */
export interface Tile {
  column: number;
  row: number;
  /** What is varied. */
  values: TileValues;
  preset: Preset;
  /** Whether it has the values that the preset has now. */
  isPresent: boolean;
  /** What it has of the values that are varied, in words. */
  says: string;
}

/** A test strip: one value of a preset varied from left to right, perhaps another from top to bottom. */
export interface Strip {
  columns: AxisValue[];
  /** One row without a value where only one is varied. */
  rows: (AxisValue | null)[];
  /** Those nearest to the present values first: in that order they are made. */
  tiles: Tile[];
}

/**
 * The tiles of a strip.
 * @param across what is varied from left to right
 * @param down what is varied from top to bottom; null: nothing
 * @param can which values can be made here
 * @example stripOf(preset, 'quality', null).tiles[0]!.isPresent // true, of a preset with a fixed quality
 */
export function stripOf(
  preset: Preset,
  across: AxisId,
  down: AxisId | null,
  can: (id: AxisId, value: AxisValue) => boolean = () => true,
): Strip {
  const columns = axisValues(across, preset, (value) => can(across, value));
  const rows = down === null ? [null] : axisValues(down, preset, (value) => can(down, value));
  const here = { column: placeOf(across, columns, preset), row: down === null ? 0 : placeOf(down, rows, preset) };
  const tiles = columns.flatMap((value, column) => rows.map((other, row) => tileOf(value, column, other, row)));
  const distance = ({ column, row }: Tile) => Math.abs(column - here.column) + Math.abs(row - here.row);
  return { columns, rows, tiles: tiles.sort((a, b) => distance(a) - distance(b)) };

  function tileOf(value: AxisValue, column: number, other: AxisValue | null, row: number): Tile {
    const values: TileValues = { [across]: value, ...(down === null || other === null ? {} : { [down]: other }) };
    const varied = withValues(preset, values);
    // Each is shown as its quality makes it; a ceiling would make several of them the same.
    const shown = 'quality' in values ? { ...varied, file: { ...varied.file, ceiling: null } } : varied;
    const isPresent = AXES[across].of(preset) === value && (down === null || AXES[down].of(preset) === other);
    const says = [AXES[across].says(value), ...(down === null || other === null ? [] : [AXES[down].says(other)])].join(', ');
    return { column, row, values, preset: shown, isPresent, says };
  }
}

/** Where the present value stands, or the middle where it is none of them: a visual target has no quality of its own. */
function placeOf(id: AxisId, values: readonly (AxisValue | null)[], preset: Preset): number {
  const at = values.indexOf(AXES[id].of(preset));
  return at === -1 ? Math.floor(values.length / 2) : at;
}
