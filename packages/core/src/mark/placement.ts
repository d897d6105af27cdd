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

type Place = Mark['place'];

/** The nine places, from the top left to the bottom right. */
export const MARK_PLACES: readonly Place[] = [
  'top-left',
  'top',
  'top-right',
  'left',
  'centre',
  'right',
  'bottom-left',
  'bottom',
  'bottom-right',
];

/** Margins that are chosen by dragging, shares of the short edge. */
const MARGIN_STEP = 0.005;
const MOST_MARGIN = 0.5;
/** So near, as a share of the short edge, a place with the margin as it is counts. */
const SNAP = 0.02;

/**
 * Place and margin by which a watermark lies nearest to where it was dragged: of each place the margin that fits its edges best.
 * @param wanted its top left corner, px of the output before its border
 * @param mark as it was before, with its margin, which stays where the place has none
 */
export function nearestPlace(
  picture: PixelSize,
  shape: PixelSize,
  mark: Pick<Mark, 'place' | 'margin' | 'size'>,
  wanted: { left: number; top: number },
): { place: Place; margin: number } {
  const short = Math.min(picture.width, picture.height);
  const { width, height } = placeMark(picture, shape, mark);
  const gaps = (place: Place): number[] => [
    ...(place.endsWith('left') ? [wanted.left] : place.endsWith('right') ? [picture.width - width - wanted.left] : []),
    ...(place.startsWith('top') ? [wanted.top] : place.startsWith('bottom') ? [picture.height - height - wanted.top] : []),
  ];
  const fit = (place: Place, margin: number) => {
    const laid = placeMark(picture, shape, { ...mark, place, margin });
    return { place, margin, far: Math.hypot(laid.left - wanted.left, laid.top - wanted.top) };
  };
  const nearest = (fits: ReturnType<typeof fit>[]) => fits.reduce((best, one) => (one.far < best.far ? one : best));
  // Near a place with the margin that it has, it is that place.
  const as = nearest(MARK_PLACES.map((place) => fit(place, mark.margin)));
  const { place, margin } =
    as.far <= SNAP * short
      ? as
      : nearest(
          MARK_PLACES.map((place) => {
            const own = gaps(place);
            const mean = own.reduce((sum, gap) => sum + gap, 0) / (own.length * short);
            const steps = Math.round(Math.min(MOST_MARGIN, Math.max(0, mean)) / MARGIN_STEP);
            return fit(place, own.length ? Math.round(steps * MARGIN_STEP * 1000) / 1000 : mark.margin);
          }),
        );
  return { place, margin };
}
