import { boxAround, cropOfView, inPicture, inView, partOfView, type Ratio, ratioSize, type View, viewOfCrop } from './crop';
import type { PixelSize } from './geometry';

/*
 * How a frame on a picture changes under somebody's hands. Whatever is done, it stays inside the picture, and a ratio stays a ratio.
 */

/** What of a frame is taken hold of: its left (-1) or right (1) edge, its upper (-1) or lower (1); neither twice: all of it, to move it. */
export interface Grip {
  x: -1 | 0 | 1;
  y: -1 | 0 | 1;
}

interface Shift {
  x: number;
  y: number;
}

/**
 * A frame after a part of it was dragged.
 * @param by how far, in px of the turned picture: along the edges of the frame
 * @param ratio that it keeps; null: it is free
 */
export function draggedView(picture: PixelSize, view: View, grip: Grip, by: Shift, ratio: Ratio | null): View {
  if (grip.x === 0 && grip.y === 0) return settled(picture, shifted(view, by, view));
  const wanted = resized(view, grip, by, ratio);
  const offset = { x: (grip.x * (wanted.width - view.width)) / 2, y: (grip.y * (wanted.height - view.height)) / 2 };
  // Where frames lie inside the picture, so does what is between them: as far as it goes on the way from one to the other.
  const at = (share: number): View =>
    shifted(
      view,
      { x: offset.x * share, y: offset.y * share },
      {
        width: view.width + (wanted.width - view.width) * share,
        height: view.height + (wanted.height - view.height) * share,
      },
    );
  let [good, bad] = [0, 1];
  if (isInside(picture, at(1))) good = 1;
  else
    for (let step = 0; step < 30; step++) {
      const middle = (good + bad) / 2;
      if (isInside(picture, at(middle))) good = middle;
      else bad = middle;
    }
  return inRatio(picture, at(good), ratio);
}

/**
 * The same inside a part of a picture, such as what its own crop leaves: there the frame stands straight, so that it is dragged as on a picture of
 * that size.
 * @param own the part that the frame may not leave; null: all of the picture
 */
export function draggedWithin(picture: PixelSize, own: View | null, view: View, grip: Grip, by: Shift, ratio: Ratio | null): View {
  if (!own) return draggedView(picture, view, grip, by, ratio);
  const { width, height } = view;
  const middle = inView(own, { x: view.left + width / 2, y: view.top + height / 2 });
  const local = { left: middle.x - width / 2, top: middle.y - height / 2, width, height, angle: 0 };
  const after = draggedView(own, local, grip, by, ratio);
  return partOfView(own, after, { x: after.left + after.width / 2, y: after.top + after.height / 2 });
}

function resized(view: View, grip: Grip, by: Shift, ratio: Ratio | null): PixelSize {
  const width = Math.max(1, view.width + grip.x * by.x);
  const height = Math.max(1, view.height + grip.y * by.y);
  if (!ratio) return { width, height };
  const byWidth = grip.y === 0 || (grip.x !== 0 && width / view.width > height / view.height);
  return byWidth ? { width, height: (width * ratio.h) / ratio.w } : { width: (height * ratio.w) / ratio.h, height };
}

/** A view of another size whose middle has moved, along its own edges. */
function shifted(view: View, by: Shift, { width, height }: PixelSize): View {
  const middle = inPicture(view, { x: view.width / 2 + by.x, y: view.height / 2 + by.y });
  return { left: middle.x - width / 2, top: middle.y - height / 2, width, height, angle: view.angle };
}

function isInside(picture: PixelSize, { left, top, width, height, angle }: View): boolean {
  const box = boxAround({ width, height }, angle);
  const [reachX, reachY] = [box.width / 2, box.height / 2];
  const [x, y] = [left + width / 2, top + height / 2];
  const spare = 1e-6;
  return x >= reachX - spare && y >= reachY - spare && x <= picture.width - reachX + spare && y <= picture.height - reachY + spare;
}

const settled = (picture: PixelSize, view: View): View => viewOfCrop(picture, cropOfView(view, picture));

/** In whole px, and of just the ratio. */
function inRatio(picture: PixelSize, view: View, ratio: Ratio | null): View {
  if (!ratio) return settled(picture, view);
  const whole = { width: Math.max(1, Math.round(view.width)), height: Math.max(1, Math.round(view.height)) };
  return settled(picture, shifted(view, { x: 0, y: 0 }, ratioSize(ratio, whole)));
}

/** A frame of another ratio about the same middle, as large in area as the picture lets it be. */
export function viewOfRatio(picture: PixelSize, view: View, ratio: Ratio): View {
  const width = Math.sqrt((view.width * view.height * ratio.w) / ratio.h);
  return inRatio(picture, settled(picture, shifted(view, { x: 0, y: 0 }, { width, height: (width * ratio.h) / ratio.w })), ratio);
}

/** A frame on the picture turned otherwise: as large as it was meant to be, or as the picture lets it be. @param wanted before it was turned */
export const turnedView = (picture: PixelSize, wanted: View, angle: number): View => settled(picture, { ...wanted, angle });

/**
 * By how many degrees a picture has to be turned clockwise so that a line in it is level, or upright where it is nearer to that.
 * @param along the line, from one end to the other, px
 */
export function levelling({ x, y }: Shift): number {
  const lean = (Math.atan2(y, x) * 180) / Math.PI;
  return -(lean - 90 * Math.round(lean / 90)) || 0;
}
