import type { SizeRung } from '../preset/schema';
import {
  type Crop,
  focusInView,
  inView,
  partOfView,
  placedView,
  type Placement,
  ratioFor,
  ratioName,
  ratioSize,
  type View,
  viewOf,
} from './crop';
import type { CarriedSize, Focus, PixelSize } from './geometry';
import { proposedMiddle, type Salience } from './proposal';

/** Who decided where a picture is cut to a ratio; `whole`: nothing has to be cut. */
export type CutBy = 'whole' | 'placed' | 'focus' | 'proposed' | 'middle';

/** A Size rung with what was decided about a picture, before it is worked out what is used of that picture. */
export type DecidedSize = SizeRung & {
  focus?: Focus;
  crop?: Crop;
  ratios?: Readonly<Record<string, Placement>>;
  /** Of a file with several: which one it is, where it is not the first. */
  page?: number;
  /** Worked out already; then nothing else here says anything about it. */
  view?: View;
};

/** A picture as far as it counts for how it is cut. */
export interface CutPicture extends PixelSize {
  salience?: Salience | null;
}

/**
 * Works out what is used of a picture: of its own crop, or of all of it, the part that the preset's ratio leaves.
 * @returns the Size rung as it is carried out, and who decided where to cut; null: the preset asks for no ratio
 */
export function usedPart(decided: DecidedSize, picture: CutPicture): { size: CarriedSize; cutBy: CutBy | null } {
  const { crop, ratios = {}, focus, view: known, ...size } = decided;
  const whole = { ...size, ...(focus && size.fit === 'cover' ? { focus } : {}) };
  if (known) return { size: { ...whole, view: known }, cutBy: null };
  if (!crop && !size.ratio) return { size: whole, cutBy: null };
  const own = viewOf(picture, crop ?? null);
  const { view, cutBy } = size.ratio ? ratioCut(size.ratio, own, picture, { ratios, focus: focus ?? null }) : { view: own, cutBy: null };
  if (isAll(view, picture)) return { size: whole, cutBy };
  const focused = focus && size.fit === 'cover' ? { focus: focusInView(view, picture, focus) } : {};
  return { size: { ...size, ...focused, view }, cutBy };
}

function ratioCut(
  ratio: NonNullable<SizeRung['ratio']>,
  own: View,
  picture: CutPicture,
  { ratios, focus }: { ratios: Readonly<Record<string, Placement>>; focus: Focus | null },
): { view: View; cutBy: CutBy } {
  const asked = ratioFor(ratio, own);
  const size = ratioSize(asked, own);
  const placed = ratios[ratioName(asked)];
  if (placed) return { view: placedView(own, picture, asked, placed), cutBy: 'placed' };
  if (size.width === own.width && size.height === own.height) return { view: own, cutBy: 'whole' };
  if (focus)
    return { view: partOfView(own, size, inView(own, { x: focus.x * picture.width, y: focus.y * picture.height })), cutBy: 'focus' };
  const { salience } = picture;
  if (salience) return { view: partOfView(own, size, proposedMiddle(own, picture, size, salience)), cutBy: 'proposed' };
  return { view: partOfView(own, size, { x: own.width / 2, y: own.height / 2 }), cutBy: 'middle' };
}

const isAll = ({ left, top, width, height, angle }: View, picture: PixelSize): boolean =>
  angle === 0 && left === 0 && top === 0 && width === picture.width && height === picture.height;
