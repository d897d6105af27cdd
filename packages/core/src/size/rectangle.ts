import type { PixelSize } from './geometry';

/** A part of a picture, in px from its upper left corner. */
export interface Rectangle extends PixelSize {
  left: number;
  top: number;
}

/** All of a picture. */
export const wholeOf = ({ width, height }: PixelSize): Rectangle => ({ left: 0, top: 0, width, height });

/** The same place seen from another corner, for instance from that of a cut. */
export const movedBy = (area: Rectangle, left: number, top: number): Rectangle => ({
  ...area,
  left: area.left + left,
  top: area.top + top,
});

/** What two parts have in common; null: nothing. */
export function overlap(a: Rectangle, b: Rectangle): Rectangle | null {
  const left = Math.max(a.left, b.left);
  const top = Math.max(a.top, b.top);
  const width = Math.min(a.left + a.width, b.left + b.width) - left;
  const height = Math.min(a.top + a.height, b.top + b.height) - top;
  return width > 0 && height > 0 ? { left, top, width, height } : null;
}

/** A part and so many px more on each side, as far as the picture reaches. */
export function grownBy({ left, top, width, height }: Rectangle, px: number, picture: PixelSize): Rectangle {
  const grown = { left: left - px, top: top - px, width: width + 2 * px, height: height + 2 * px };
  return overlap(grown, wholeOf(picture)) ?? { left, top, width, height };
}

/**
 * What has to be encoded so that a part of a picture comes out of the file as it does when all of the picture is encoded: whole blocks, on the
 * picture's own grid, and one block more on each side, since decoders interpolate halved chroma across the borders of blocks.
 * @param block side of a block in px: 8, or 16 where chroma is halved (ITU-T T.81, A.2.3)
 * @example blocksAround({ left: 100, top: 40, width: 50, height: 50 }, { width: 640, height: 480 }, 16)
 * // { left: 80, top: 16, width: 96, height: 96 }
 */
export function blocksAround({ left, top, width, height }: Rectangle, picture: PixelSize, block: number): Rectangle {
  const from = (at: number) => Math.max(0, (Math.floor(at / block) - 1) * block);
  const to = (at: number, end: number) => Math.min(end, (Math.ceil(at / block) + 1) * block);
  const [x, y] = [from(left), from(top)];
  return { left: x, top: y, width: to(left + width, picture.width) - x, height: to(top + height, picture.height) - y };
}

/**
 * A window of a size around a place, moved so far that it lies in the picture; smaller where the picture is.
 * @param centre as shares of the picture, 0-1
 */
export function windowAt(centre: { x: number; y: number }, size: PixelSize, picture: PixelSize): Rectangle {
  const along = (share: number, want: number, have: number) => {
    const length = Math.min(have, want);
    return [Math.min(have - length, Math.max(0, Math.round(share * have - length / 2))), length] as const;
  };
  const [left, width] = along(centre.x, size.width, picture.width);
  const [top, height] = along(centre.y, size.height, picture.height);
  return { left, top, width, height };
}
