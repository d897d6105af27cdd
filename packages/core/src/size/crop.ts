import * as z from 'zod';
import type { Focus, PixelSize } from './geometry';
import type { Rectangle } from './rectangle';

/*
 * Which part of a picture is used. A crop is a rectangle and an angle: the picture is turned clockwise by the angle about the middle of the
 * rectangle, and then cut by it. In other words, the rectangle lies on the upright picture turned the other way.
 */

const share = (min: number, max: number) => z.number().min(min).max(max);

/** Most degrees by which a picture can be turned, either way. */
export const MOST_ANGLE = 45;

/** A crop by hand, as shares of the upright picture; where it is turned, of the rectangle before it is turned about its middle. */
export const Crop = z.strictObject({
  x: share(-1, 1).meta({ description: 'Left edge, share of the width' }),
  y: share(-1, 1).meta({ description: 'Upper edge, share of the height' }),
  w: share(1e-6, 2).meta({ description: 'Share of the width' }),
  h: share(1e-6, 2).meta({ description: 'Share of the height' }),
  angle: share(-MOST_ANGLE, MOST_ANGLE).default(0).meta({ description: 'Degrees by which the picture is turned clockwise' }),
});
export type Crop = z.infer<typeof Crop>;

/** Where a picture is cut to a ratio; the height follows from the ratio, the angle is that of the picture's own crop. */
export const Placement = Crop.pick({ x: true, y: true, w: true });
export type Placement = z.infer<typeof Placement>;

/** What a ratio is called: {@link ratioName}. */
export const RatioName = z.string().regex(/^\d{1,6}(\.\d{1,9})?:\d{1,6}(\.\d{1,9})?$/, { error: 'a ratio such as 2:3' });

/** Width to height. */
export interface Ratio {
  w: number;
  h: number;
}

/** The part of a picture that is used: in px of the upright picture, before it is turned about its middle. In whole px where it is not turned. */
export interface View extends Rectangle {
  /** Degrees by which the picture is turned clockwise. */
  angle: number;
}

interface Point {
  x: number;
  y: number;
}

/** A point relative to the middle of a view, from the turned picture to the upright one. */
const unturned = ({ x, y }: Point, angle: number): Point => {
  const { cos, sin } = directionOf(angle);
  return { x: x * cos + y * sin, y: y * cos - x * sin };
};

const turned = (point: Point, angle: number): Point => unturned(point, -angle);

/** Cosine and sine of an angle in degrees. */
export function directionOf(angle: number): { cos: number; sin: number } {
  const radians = (angle * Math.PI) / 180;
  return { cos: Math.cos(radians), sin: Math.sin(radians) };
}

/** The upright box around a rectangle that is turned. The rectangle lies in a picture when its box does. */
export function boxAround({ width, height }: PixelSize, angle: number): PixelSize {
  const { cos, sin } = directionOf(Math.abs(angle));
  return { width: width * cos + height * sin, height: width * sin + height * cos };
}

/** Where a view lies on its picture as the picture is turned about its own middle, px: there the view stands straight. */
export function onTurnedPicture(view: View, { width, height }: PixelSize): Rectangle {
  const middle = inView(
    { left: 0, top: 0, width, height, angle: view.angle },
    { x: view.left + view.width / 2, y: view.top + view.height / 2 },
  );
  return { left: middle.x - view.width / 2, top: middle.y - view.height / 2, width: view.width, height: view.height };
}

/** Where a point of a view, in px from its upper left corner, lies in the upright picture. */
export function inPicture(view: View, { x, y }: Point): Point {
  const offset = unturned({ x: x - view.width / 2, y: y - view.height / 2 }, view.angle);
  return { x: view.left + view.width / 2 + offset.x, y: view.top + view.height / 2 + offset.y };
}

/** Where a point of the upright picture, in px, lies in a view. */
export function inView(view: View, { x, y }: Point): Point {
  const offset = turned({ x: x - view.left - view.width / 2, y: y - view.top - view.height / 2 }, view.angle);
  return { x: offset.x + view.width / 2, y: offset.y + view.height / 2 };
}

/** A place of the upright picture as shares of what is used of it, as near as that comes. */
export function focusInView(view: View, picture: PixelSize, focus: Focus): Focus {
  const { x, y } = inView(view, { x: focus.x * picture.width, y: focus.y * picture.height });
  const held = (value: number) => Math.min(1, Math.max(0, value));
  return { x: held(x / view.width), y: held(y / view.height) };
}

/** All of a picture. */
const wholeView = ({ width, height }: PixelSize): View => ({ left: 0, top: 0, width, height, angle: 0 });

/** The part of a picture that a crop by hand leaves: always inside the picture, smaller and moved where the crop reaches beyond. */
export function viewOfCrop(picture: PixelSize, { x, y, w, h, angle }: Crop): View {
  const wanted = { width: w * picture.width, height: h * picture.height };
  const middle = { x: x * picture.width + wanted.width / 2, y: y * picture.height + wanted.height / 2 };
  return settled(picture, middle, wanted, angle);
}

/** The crop that leaves a view. */
export const cropOfView = ({ left, top, width, height, angle }: View, picture: PixelSize): Crop => ({
  x: left / picture.width,
  y: top / picture.height,
  w: width / picture.width,
  h: height / picture.height,
  angle,
});

/** A view of about a size, inside the picture. */
function settled(picture: PixelSize, middle: Point, wanted: PixelSize, angle: number): View {
  const around = boxAround(wanted, angle);
  const fits = Math.min(1, picture.width / around.width, picture.height / around.height);
  // Rounded up, a turned one would reach out of the picture; a share that stands for whole px stays those.
  const whole = (length: number) => Math.max(1, angle === 0 ? Math.round(length * fits) : Math.floor(length * fits + 1e-6));
  const size = { width: whole(wanted.width), height: whole(wanted.height) };
  const held = boxAround(size, angle);
  const at = (centre: number, length: number, reach: number, room: number) =>
    Math.min(Math.max(centre, reach / 2), Math.max(reach / 2, room - reach / 2)) - length / 2;
  const left = at(middle.x, size.width, held.width, picture.width);
  const top = at(middle.y, size.height, held.height, picture.height);
  return angle === 0 ? { left: Math.round(left), top: Math.round(top), ...size, angle } : { left, top, ...size, angle };
}

/** A ratio as it is for a picture, turned to its orientation where it may be. */
export function ratioFor({ w, h, turn }: Ratio & { turn: boolean }, { width, height }: PixelSize): Ratio {
  return turn && (w - h) * (width - height) < 0 ? { w: h, h: w } : { w, h };
}

/** What a ratio is called: in lowest terms where it is of whole numbers, else to six decimals. @example ratioName({ w: 8, h: 10 }) // '4:5' */
export function ratioName({ w, h }: Ratio): string {
  const common = Number.isInteger(w) && Number.isInteger(h) ? greatestCommon(w, h) : 1;
  const written = (length: number) => Math.round((length / common) * 1e6) / 1e6;
  return `${written(w)}:${written(h)}`;
}

const greatestCommon = (a: number, b: number): number => (b === 0 ? a : greatestCommon(b, a % b));

/** The largest size of a ratio within another, px; the governed edge is exact, the other rounded half up. */
export function ratioSize({ w, h }: Ratio, { width, height }: PixelSize): PixelSize {
  const byHeight = Math.max(1, Math.floor((height * w) / h + 0.5));
  return byHeight <= width
    ? { width: byHeight, height }
    : { width, height: Math.min(height, Math.max(1, Math.floor((width * h) / w + 0.5))) };
}

/** Part of a view of a size around a place of it, moved so far that it lies inside. @param middle in px of the view */
export function partOfView(view: View, size: PixelSize, middle: Point): View {
  const at = (centre: number, length: number, room: number) => Math.min(room - length, Math.max(0, centre - length / 2));
  const [x, y] = [at(middle.x, size.width, view.width), at(middle.y, size.height, view.height)];
  if (view.angle === 0) return { left: view.left + Math.round(x), top: view.top + Math.round(y), ...size, angle: 0 };
  const centre = inPicture(view, { x: x + size.width / 2, y: y + size.height / 2 });
  return { left: centre.x - size.width / 2, top: centre.y - size.height / 2, ...size, angle: view.angle };
}

/** Where a view is cut to a ratio, as it was placed by hand; inside the view, smaller where it would not fit. */
export function placedView(view: View, picture: PixelSize, ratio: Ratio, { x, y, w }: Placement): View {
  const most = ratioSize(ratio, view);
  const width = Math.min(most.width, Math.max(1, Math.round(w * picture.width)));
  const size = width === most.width ? most : { width, height: Math.min(most.height, Math.max(1, Math.round((width * ratio.h) / ratio.w))) };
  const asked = { width: w * picture.width, height: (w * picture.width * ratio.h) / ratio.w };
  const middle = { x: x * picture.width + asked.width / 2, y: y * picture.height + asked.height / 2 };
  return partOfView(view, size, inView(view, middle));
}

/** The placement that leaves a view. */
export const placementOfView = (view: View, picture: PixelSize): Placement => {
  const { x, y, w } = cropOfView(view, picture);
  return { x, y, w };
};

/** What is used of a picture before anything is cut to a ratio. */
export const viewOf = (picture: PixelSize, crop: Crop | null): View => (crop ? viewOfCrop(picture, crop) : wholeView(picture));
