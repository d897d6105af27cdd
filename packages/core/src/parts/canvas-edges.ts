import { fullScale, type Raster } from '../raster';
import { movedBy, overlap, type Rectangle } from '../size/rectangle';
import type { PixelSize } from '../size/geometry';
import type { EdgeFill } from './schema';

/** The edges of a canvas, as they are drawn. */
export interface CanvasEdges {
  /** Width on each side, px. */
  edge: number;
  /** A colour in the values of the picture's channels, or how the picture fills them. */
  fill: EdgeFill | ArrayLike<number>;
  /** 0-1, over the backdrop. */
  opacity: number;
  /** In the values of the picture's channels. */
  backdrop: ArrayLike<number>;
  /** Black and white in those values, for the marks; null: there are none. */
  marks: { dark: ArrayLike<number>; bright: ArrayLike<number> } | null;
}

/** A mirrored edge that grows softer: each pixel is averaged over so many px to each side, for each px that it lies outwards. */
const SOFTENING = 0.2;
/** Averages over squares of these shares of that reach, one after the other put together: near enough to a bell. */
const SQUARES = [1, 2 / 3, 1 / 3] as const;

/** How far from its mirrored place an edge looks for what it shows, px. */
const reachOfFill = (fill: EdgeFill | 'colour', edge: number): number => (fill === 'soft-mirror' ? Math.round(SOFTENING * edge) : 0);

/**
 * The part of a picture that is needed for a window of the same with its edges.
 * @param window in px of the picture with its edges
 * @param size of the picture, px
 */
export function neededFor(window: Rectangle, size: PixelSize, edge: number, fill: EdgeFill | 'colour'): Rectangle {
  const reach = reachOfFill(fill, edge);
  const along = (from: number, length: number, side: number): [from: number, to: number] => {
    const [first, last] = [from - edge, from + length - 1 - edge];
    const places = [first, last, ...(first < 0 && last >= 0 ? [0] : []), ...(first < side && last >= side ? [side - 1] : [])];
    // Where more than one mirror image is seen, all of it is.
    if (first < -side || last >= 2 * side) return [0, side];
    const sources = places.map((place) => (fill === 'mirror' || fill === 'soft-mirror' ? mirrored(place, side) : clamped(place, side)));
    return [Math.max(0, Math.min(...sources) - reach), Math.min(side, Math.max(...sources) + reach + 1)];
  };
  const [left, right] = along(window.left, window.width, size.width);
  const [top, bottom] = along(window.top, window.height, size.height);
  return { left, top, width: right - left, height: bottom - top };
}

/** Mirrored at its borders, whose pixels stand twice: -1 is 0, -2 is 1; as often as it takes. */
function mirrored(place: number, side: number): number {
  const at = ((place % (2 * side)) + 2 * side) % (2 * side);
  return at < side ? at : 2 * side - 1 - at;
}

const clamped = (place: number, side: number): number => Math.min(side - 1, Math.max(0, place));

/**
 * Draws a picture with the edges of a canvas around it, or a window of that. Each pixel depends on its place and the picture alone.
 * @param picture the part of the picture that {@link neededFor} names
 * @param part where that lies in the picture, px
 * @param size of the whole picture, px
 * @param window what is drawn, in px of the picture with its edges
 * @param into as many values as the window has pixels and channels
 */
export function drawWithEdges(
  picture: Raster,
  part: Rectangle,
  size: PixelSize,
  edges: CanvasEdges,
  window: Rectangle,
  into: Uint8Array | Uint16Array,
): void {
  const { edge } = edges;
  const inside = { left: edge, top: edge, width: size.width, height: size.height };
  const [right, bottom] = [edge + size.width, edge + size.height];
  const seen = overlap(inside, window);
  if (seen) copyInside(picture, part, seen, edge, window, into);
  // Strip by strip, so that what averages need is held of one at a time.
  const strips = [
    { left: 0, top: 0, width: right + edge, height: edge },
    { left: 0, top: bottom, width: right + edge, height: edge },
    { left: 0, top: edge, width: edge, height: size.height },
    { left: right, top: edge, width: edge, height: size.height },
  ];
  for (const strip of strips) {
    const shown = overlap(strip, window);
    if (shown) drawStrip(picture, part, size, edges, shown, window, into);
  }
  if (edges.marks) drawMarks(edge, edges.marks, inside, window, picture.channels, into);
}

function copyInside(
  { width, channels, pixels }: Raster,
  part: Rectangle,
  seen: Rectangle,
  edge: number,
  window: Rectangle,
  into: Uint8Array | Uint16Array,
): void {
  for (let y = seen.top; y < seen.top + seen.height; y++) {
    const from = ((y - edge - part.top) * width + seen.left - edge - part.left) * channels;
    const to = ((y - window.top) * window.width + seen.left - window.left) * channels;
    into.set(pixels.subarray(from, from + seen.width * channels), to);
  }
}

/** @param shown what of one edge is drawn, in px of the picture with its edges */
function drawStrip(
  picture: Raster,
  part: Rectangle,
  size: PixelSize,
  { edge, fill, opacity, backdrop }: CanvasEdges,
  shown: Rectangle,
  window: Rectangle,
  into: Uint8Array | Uint16Array,
): void {
  const { channels, pixels } = picture;
  const most = fullScale(into);
  const place = fill === 'stretch' ? clamped : mirrored;
  const outwards = (at: number, side: number) => Math.max(edge - at, at - edge - side + 1, 0);
  const columns = Array.from({ length: shown.width }, (_, x) => shown.left + x).map((x) => ({
    from: place(x - edge, size.width),
    to: x - window.left,
    out: outwards(x, size.width),
  }));
  const needed = fill === 'soft-mirror' ? neededFor(shown, size, edge, fill) : null;
  for (let channel = 0; channel < channels; channel++) {
    const under = (backdrop[channel] ?? most) * (1 - opacity);
    const sums = needed && sumsOf(picture, movedBy(needed, -part.left, -part.top), channel);
    for (let y = shown.top; y < shown.top + shown.height; y++) {
      const [row, outY] = [place(y - edge, size.height), outwards(y, size.height)];
      for (const { from, to, out } of columns) {
        const value =
          typeof fill !== 'string'
            ? (fill[channel] ?? most)
            : sums && needed
              ? softened(sums, needed, from - needed.left, row - needed.top, SOFTENING * Math.max(out, outY))
              : pixels[((row - part.top) * picture.width + from - part.left) * channels + channel]!;
        into[((y - window.top) * window.width + to) * channels + channel] = Math.floor(value * opacity + under + 0.5);
      }
    }
  }
}

/** Sums of all values of a channel above and to the left, in a part of a picture, for averages over rectangles (Crow 1984, summed-area tables). */
function sumsOf(picture: Raster, { left, top, width, height }: Rectangle, channel: number): Float64Array {
  const sums = new Float64Array((width + 1) * (height + 1));
  for (let y = 0; y < height; y++) {
    let row = 0;
    for (let x = 0; x < width; x++) {
      row += picture.pixels[((top + y) * picture.width + left + x) * picture.channels + channel]!;
      sums[(y + 1) * (width + 1) + x + 1] = sums[y * (width + 1) + x + 1]! + row;
    }
  }
  return sums;
}

/** The average around a place, over squares as far as the picture reaches. */
function softened(sums: Float64Array, { width, height }: PixelSize, x: number, y: number, reach: number): number {
  let total = 0;
  for (const share of SQUARES) {
    const radius = Math.round(reach * share);
    const [left, right] = [Math.max(0, x - radius), Math.min(width, x + radius + 1)];
    const [top, bottom] = [Math.max(0, y - radius), Math.min(height, y + radius + 1)];
    const at = (column: number, row: number) => sums[row * (width + 1) + column]!;
    const sum = at(right, bottom) - at(right, top) - at(left, bottom) + at(left, top);
    total += sum / ((right - left) * (bottom - top));
  }
  return total / SQUARES.length;
}

/** How much of an edge a mark is long, and how thick it is, as shares of the edge: one of an inch is a hair thick. */
const MARK_LENGTH = 0.5;
const MARK_WIDTH = 1 / 150;

/** Lines from the rim towards the picture, along its four sides drawn out: dark beside bright, so that they are seen on anything. */
function drawMarks(
  edge: number,
  { dark, bright }: NonNullable<CanvasEdges['marks']>,
  inside: Rectangle,
  window: Rectangle,
  channels: number,
  into: Uint8Array | Uint16Array,
): void {
  const [length, thick] = [Math.ceil(edge * MARK_LENGTH), Math.max(1, Math.round(edge * MARK_WIDTH))];
  const [width, height] = [inside.width + 2 * edge, inside.height + 2 * edge];
  const fill = (rectangle: Rectangle, colour: ArrayLike<number>) => {
    const seen = overlap(rectangle, window);
    if (!seen) return;
    for (let y = seen.top; y < seen.top + seen.height; y++)
      for (let x = seen.left; x < seen.left + seen.width; x++)
        for (let channel = 0; channel < channels; channel++)
          into[((y - window.top) * window.width + x - window.left) * channels + channel] = colour[channel] ?? fullScale(into);
  };
  // The dark line lies outside the picture, the bright one beyond it.
  const alongSides = (side: number) => [[edge - thick, edge - 2 * thick] as const, [edge + side, edge + side + thick] as const];
  for (const [at, beyond] of alongSides(inside.width))
    for (const top of [0, height - length]) {
      fill({ left: at, top, width: thick, height: length }, dark);
      fill({ left: beyond, top, width: thick, height: length }, bright);
    }
  for (const [at, beyond] of alongSides(inside.height))
    for (const left of [0, width - length]) {
      fill({ left, top: at, width: length, height: thick }, dark);
      fill({ left, top: beyond, width: length, height: thick }, bright);
    }
}
