import { type CarriedPreset, carriedPreset, type Decisions } from '../decisions/decisions';
import type { Preset } from '../preset/schema';
import { type Geometry, outputGeometry, type PixelSize } from '../size/geometry';

/**
 * How one output is made: what follows from a master, from what was decided about it, and from a preset. Whoever needs a size takes it from
 * here; no size of an output is computed anywhere else.
 */
export interface Making {
  /** With what was decided about the picture. */
  preset: CarriedPreset;
  /** How the master becomes the picture inside the border. */
  geometry: Geometry;
  /** Size of the output, its border included, px. */
  size: PixelSize;
}

/**
 * @param master its size in px, orientation applied
 * @param presetId the preset's own; null: it is none that is kept
 */
export const makingOf = (master: PixelSize, preset: Preset, presetId: string | null, decisions: Decisions): Making =>
  makingBy(master, carriedPreset(preset, presetId, decisions));

/** The same for a preset that has what was decided in it already. */
export function makingBy({ width, height }: PixelSize, preset: CarriedPreset): Making {
  // An untouched copy is as large as its master, whatever stands in the rungs that it does not have.
  const size = preset.file.type === 'original' ? { ...preset.size, fit: 'original' as const } : preset.size;
  const geometry = outputGeometry(size, { width, height });
  return { preset, geometry, size: bordered(geometry.output, preset) };
}

/** A picture with the border that a preset draws around it. */
export function bordered({ width, height }: PixelSize, { border }: Pick<Preset, 'border'>): PixelSize {
  const edge = 2 * (border?.px ?? 0);
  return { width: width + edge, height: height + edge };
}

/** The picture inside an output, whose border stays as wide when a ceiling makes it smaller. */
export function withoutBorder({ width, height }: PixelSize, { border }: Pick<Preset, 'border'>): PixelSize {
  const edge = 2 * (border?.px ?? 0);
  return { width: Math.max(1, width - edge), height: Math.max(1, height - edge) };
}
