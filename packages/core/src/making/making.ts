import { panelAt } from '../parts/panels';
import { partPreset, partsOf, type PlacedPanels, placeOfPanel, type PresetPart } from '../parts/parts';
import { lengthInPixels } from '../size/length';
import type { Rectangle } from '../size/rectangle';
import { type CarriedPreset, carriedPreset, type Decisions } from '../decisions/decisions';
import type { Preset } from '../preset/schema';
import { type CarriedSize, type Geometry, outputGeometry, type PixelSize } from '../size/geometry';
import { type CutBy, type CutPicture, usedPart } from '../size/used-part';

/**
 * How one output is made: what follows from a master, from what was decided about it, and from a preset. Whoever needs a size takes it from
 * here; no size of an output is computed anywhere else.
 */
export interface Making {
  /** With what was decided about the picture. */
  preset: Omit<Preset, 'size'> & { size: CarriedSize };
  /** How the master becomes the picture inside the border. */
  geometry: Geometry;
  /** The panel of the finished picture, its border included, that this file is, px; null: it is undivided. */
  panel: Rectangle | null;
  /** Width of the edges of a canvas around it, px; 0: it has none. */
  edge: number;
  /** Size of the output with its border and edges, px. */
  size: PixelSize;
  /** Who decided where it is cut to the preset's ratio; null: there is none. */
  cutBy: CutBy | null;
  /** How many times as large as the output all of the picture would be. */
  magnified: number;
}

/**
 * @param master its size in px, orientation applied, and what draws the eye in it
 * @param presetId the preset's own; null: it is none that is kept
 */
export const makingOf = (master: CutPicture, preset: Preset, presetId: string | null, decisions: Decisions): Making =>
  makingBy(master, carriedPreset(preset, presetId, decisions));

/** The same for a preset that has what was decided in it already. */
export function makingBy(master: CutPicture, preset: CarriedPreset): Making {
  const { size, cutBy } = usedPart(preset.size, master);
  // An untouched copy is as large as its master, whatever stands in the rungs that it does not have.
  const geometry = outputGeometry(preset.file.type === 'original' ? { ...size, fit: 'original' } : size, master);
  const finished = bordered(geometry.output, preset);
  const panel = panelOf(preset, finished);
  const edge = preset.canvas ? lengthInPixels(preset.canvas.width, preset.canvas.unit, preset.size.ppi) : 0;
  const cropped = size.view ? longest(master) / longest(size.view) : 1;
  const magnified = panel ? (cropped * longest(finished)) / longest(panel) : cropped;
  return { preset: { ...preset, size }, geometry, panel, edge, size: withEdge(panel ?? finished, edge), cutBy, magnified };
}

/**
 * The files that a preset makes of a picture, in their order.
 * @param master null: it is not known, or could not be read
 * @param presetId the preset's own; null: it is none that is kept
 */
export const partsOfPicture = (master: CutPicture | null, preset: Preset, presetId: string | null, decisions: Decisions): PresetPart[] =>
  partsOf(preset, () => master && makingOf(master, partPreset(preset, ''), presetId, decisions).size);

const longest = ({ width, height }: PixelSize): number => Math.max(width, height);

/** The part of a finished picture that a preset of one panel makes; null: all of it, or there is no such panel. */
function panelOf({ panels, size }: CarriedPreset, finished: PixelSize): Rectangle | null {
  const place = placedAt(panels);
  return panels && place && panelAt(panels, finished, size.ppi, place.column, place.row);
}

const placedAt = (panels: PlacedPanels | null) => (panels?.at ? placeOfPanel(panels.at) : null);

/** Whether a panel is asked for that the picture has no room for. */
export const lacksPanel = ({ preset: { panels }, panel }: Pick<Making, 'preset' | 'panel'>): boolean =>
  panel === null && placedAt(panels) !== null;

/** A picture with the edges of a canvas around it, px. */
export const withEdge = ({ width, height }: PixelSize, edge: number): PixelSize => ({ width: width + 2 * edge, height: height + 2 * edge });

/** Where the picture inside the border begins in the file, px; of a panel that may be outside. */
export function pictureOrigin({ preset: { border }, panel, edge }: Pick<Making, 'preset' | 'panel' | 'edge'>): { x: number; y: number } {
  const inset = edge + (border?.px ?? 0);
  return { x: inset - (panel?.left ?? 0), y: inset - (panel?.top ?? 0) };
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
