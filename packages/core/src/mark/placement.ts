import type { MarkRung } from '../preset/schema';
import { type PixelSize, roundPixels } from '../size/geometry';
import type { Rectangle } from '../size/rectangle';

type Mark = NonNullable<MarkRung>;

/**
 * The size and place of a watermark. Its longer edge is `size` of the picture's short edge; it keeps its shape, and stays
 * within the picture. `margin`, of the short edge too, is kept from the edges that the place names.
 * @param picture size of the output in px
 * @param mark shape of the watermark, any unit
 * @returns where it goes, in px of the output before its border
 */
export function placeMark(
  picture: PixelSize,
  mark: PixelSize,
  { place, margin, size }: Pick<Mark, 'place' | 'margin' | 'size'>,
): Rectangle {
  const short = Math.min(picture.width, picture.height);
  const scale = (size * short) / Math.max(mark.width, mark.height);
  const width = Math.min(picture.width, roundPixels(mark.width * scale));
  const height = Math.min(picture.height, roundPixels(mark.height * scale));
  const gap = Math.round(margin * short);
  const along = (room: number, before: boolean, after: boolean) => {
    const at = before ? gap : after ? room - gap : Math.floor(room / 2);
    return Math.min(room, Math.max(0, at));
  };
  return {
    width,
    height,
    left: along(picture.width - width, place.endsWith('left'), place.endsWith('right')),
    top: along(picture.height - height, place.startsWith('top'), place.startsWith('bottom')),
  };
}
