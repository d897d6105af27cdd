import * as z from 'zod';
import type { SizeRung } from '../preset/schema';
import type { View } from './crop';
import { lengthInPixels } from './length';
import type { Rectangle } from './rectangle';

/** Width and height in px, after the master's orientation has been applied. */
export interface PixelSize {
  width: number;
  height: number;
}

/** The place that stays in sight where a picture is cut to fill, as shares of the upright picture. */
export const Focus = z.strictObject({ x: z.number().min(0).max(1), y: z.number().min(0).max(1) });
export type Focus = z.infer<typeof Focus>;

/** A Size rung as it is carried out for one master: with what was decided about it. */
export type CarriedSize = SizeRung & {
  /** Goes before the anchor; a share of what is used of the picture. */
  focus?: Focus;
  /** What is used of the picture, where that is not all of it. */
  view?: View;
  /** Of a file with several: which one it is, where it is not the first. */
  page?: number;
};

/** How a master becomes an output: of it `view` is used (null: all), scaled to `scaled`, then cut to `crop` (null: nothing is cut). All in px. */
export interface Geometry {
  view: View | null;
  scaled: PixelSize;
  crop: Rectangle | null;
  output: PixelSize;
  /** Whether the crop shall go where most detail is; `crop` then is only its size, in the middle. */
  toDetail: boolean;
  /** Whether the master was too small for what was asked, and enlarging is off. */
  short: boolean;
}

/** Nearest whole number, halves up; at least 1. Sizes are rounded this way everywhere. */
export const roundPixels = (value: number): number => Math.max(1, Math.floor(value + 0.5));

/**
 * The size of an output, before its border. To be called by making/making.ts alone, which knows what else counts. The governed edge is exact, the other is rounded half up and at least 1 px.
 * @param size the Size rung of a checked preset
 * @param master size of the master in px, orientation applied
 * @example outputGeometry(SizeRung.parse({ px: 2048 }), { width: 6000, height: 4000 }).output // { width: 2048, height: 1365 }
 */
export const outputGeometry = (size: CarriedSize, master: PixelSize): Geometry => ({
  ...scaledGeometry(size, size.view ?? master),
  view: size.view ?? null,
});

type Scaling = Omit<Geometry, 'view'>;

function scaledGeometry(size: CarriedSize, master: PixelSize): Scaling {
  switch (size.fit) {
    case 'original':
      return plain(master, false);
    case 'cover':
      return coverBox(size, master);
    case 'stretch':
      return stretchToBox(size, master);
    case 'percent':
      return percentOf(size, master);
    case 'megapixels':
      return toMegapixels(size, master);
    default:
      return alongEdge(size, master, governedEdge(size, master));
  }
}

/** A picture made as small as a long edge in px, where it is larger: what small pictures of masters are. */
export function longEdgeSize(px: number, master: PixelSize): PixelSize {
  const edge = master.height > master.width ? 'height' : 'width';
  return alongEdge({ enlarge: false }, master, { edge, px }).output;
}

/** An edge of the master and the length in px that it shall get. */
interface Governed {
  edge: 'width' | 'height';
  px: number;
}

function governedEdge(size: SizeRung, master: PixelSize): Governed {
  const upright = master.height > master.width;
  const px = inPixels(size.px, size);
  switch (size.fit) {
    case 'width':
      return { edge: 'width', px };
    case 'height':
      return { edge: 'height', px };
    case 'short-edge':
      return { edge: upright ? 'width' : 'height', px };
    case 'box': {
      const box = boxFor(size, master);
      // Compared as products, so that no rounding decides which edge governs.
      const widthGoverns = box.width * master.height <= box.height * master.width;
      return widthGoverns ? { edge: 'width', px: box.width } : { edge: 'height', px: box.height };
    }
    default:
      return { edge: upright ? 'height' : 'width', px };
  }
}

function alongEdge(size: Pick<SizeRung, 'enlarge'>, master: PixelSize, { edge, px }: Governed): Scaling {
  if (px > master[edge] && !size.enlarge) return plain(master, true);
  const other = edge === 'width' ? 'height' : 'width';
  // (2ab + c) / 2c rounds a*b/c half up in whole numbers: 3900 x 2925 to 740 wide is 740 x 555 without a stray 554.
  const scaled = Math.max(1, Math.floor((2 * master[other] * px + master[edge]) / (2 * master[edge])));
  return plain(edge === 'width' ? { width: px, height: scaled } : { width: scaled, height: px }, false);
}

function coverBox(size: CarriedSize, master: PixelSize): Scaling {
  const box = boxFor(size, master);
  const room = Math.min(master.width / box.width, master.height / box.height);
  const short = room < 1 && !size.enlarge;
  const output = short ? { width: roundPixels(box.width * room), height: roundPixels(box.height * room) } : box;
  const scale = Math.max(output.width / master.width, output.height / master.height);
  const scaled = {
    width: Math.max(output.width, roundPixels(master.width * scale)),
    height: Math.max(output.height, roundPixels(master.height * scale)),
  };
  const spare = { x: scaled.width - output.width, y: scaled.height - output.height };
  const { focus, anchor } = size;
  const left = focus
    ? around(focus.x, output.width, spare.x)
    : anchor === 'left'
      ? 0
      : anchor === 'right'
        ? spare.x
        : Math.floor(spare.x / 2);
  const top = focus
    ? around(focus.y, output.height, spare.y)
    : anchor === 'top'
      ? 0
      : anchor === 'bottom'
        ? spare.y
        : Math.floor(spare.y / 2);
  const crop = spare.x || spare.y ? { left, top, ...output } : null;
  return { scaled, crop, output, short, toDetail: crop !== null && anchor === 'detail' && !focus };
}

/** Where a cut begins that has a place in its middle, as far as the picture reaches. */
const around = (share: number, length: number, spare: number): number =>
  Math.min(spare, Math.max(0, Math.round(share * (length + spare) - length / 2)));

function stretchToBox(size: SizeRung, master: PixelSize): Scaling {
  const box = boxFor(size, master);
  if (size.enlarge) return plain(box, false);
  const held = { width: Math.min(box.width, master.width), height: Math.min(box.height, master.height) };
  return plain(held, held.width < box.width || held.height < box.height);
}

function percentOf(size: SizeRung, master: PixelSize): Scaling {
  const percent = size.percent ?? 100;
  if (percent > 100 && !size.enlarge) return plain(master, true);
  const share = (length: number) => roundPixels((length * percent) / 100);
  return plain({ width: share(master.width), height: share(master.height) }, false);
}

function toMegapixels(size: SizeRung, master: PixelSize): Scaling {
  const wanted = (size.megapixels ?? 0) * 1e6;
  const pixels = master.width * master.height;
  if (wanted > pixels && !size.enlarge) return plain(master, true);
  const long = master.height > master.width ? 'height' : 'width';
  return alongEdge({ ...size, enlarge: true }, master, { edge: long, px: roundPixels(master[long] * Math.sqrt(wanted / pixels)) });
}

const plain = (output: PixelSize, short: boolean): Scaling => ({ scaled: output, crop: null, output, toDetail: false, short });

/** The same output, smaller: everything but the border shrinks by one share, 0-1. */
export function shrunkGeometry({ scaled, crop, output, ...rest }: Geometry, share: number): Geometry {
  const by = ({ width, height }: PixelSize): PixelSize => ({ width: roundPixels(width * share), height: roundPixels(height * share) });
  const size = by(output);
  const whole = crop ? { width: Math.max(size.width, by(scaled).width), height: Math.max(size.height, by(scaled).height) } : size;
  const at = (offset: number, room: number) => Math.min(room, Math.round(offset * share));
  const cut = crop && {
    ...size,
    left: at(crop.left, whole.width - size.width),
    top: at(crop.top, whole.height - size.height),
  };
  return { ...rest, scaled: whole, crop: cut, output: size };
}

/** The box in px, turned to the orientation of the master when the preset says so; an open side is infinite. */
function boxFor(size: SizeRung, master: PixelSize): PixelSize {
  const side = (length: number | null) => (length === null ? Infinity : inPixels(length, size));
  const box = { width: side(size.width), height: side(size.height) };
  const differs = (box.width - box.height) * (master.width - master.height) < 0;
  return size.turn && differs ? { width: box.height, height: box.width } : box;
}

/** A length of the preset in px. */
const inPixels = (length: number | null, { unit, ppi }: SizeRung): number => (length === null ? 0 : lengthInPixels(length, unit, ppi));
