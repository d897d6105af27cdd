import { type Curve, encodeTable, type LinearLight } from '../colour/curves';
import { type Workspace, workspace } from '../kernels/kernels';
import type { Raster } from '../raster';
import type { PixelSize } from './geometry';
import { edgeWeights, type EdgeWeights, type Kernel } from './kernel';
import type { Rectangle } from './rectangle';
import { FloatPasses } from './float-passes';
import { type Edges, type Passes, type RowSource, rowSourceOf } from './row-ring';
import { WholePasses } from './whole-passes';

/** Makes room for so many values. */
export type Allocate = (words: number) => Uint16Array;

const newWords: Allocate = (words) => new Uint16Array(words);

/** How a picture is resampled; every field may be left out. */
export interface Resampling {
  /** Encoded values are averaged as they are when this is null; otherwise light is averaged and encoded again. */
  light?: LinearLight | null;
  /** Whether the picture had 8 bits once: then weights of 14 bits do, which is faster. Default: whether it has 8 bits. */
  eightBits?: boolean;
  /** Makes room for the result, cleared or not. */
  allocate?: Allocate;
  /** The part of the source that becomes the result, in px; its edges may lie between pixels. All of it, unless it is said. */
  part?: Rectangle;
  /** Of a part, what of the result is made, to the same last bit as in all of it; null: all. */
  window?: Rectangle | null;
}

/**
 * Resamples a picture: down its columns first, then along its rows, in 15 to 32 bits between the two. The result has 16 bits
 * whatever the source has.
 * @param source grey, RGB or CMYK of 8 or 16 bits
 * @param to size of the result in px; may be larger than the source
 */
export function resample(source: Raster, to: PixelSize, kernel: Kernel, how: Resampling = {}): Raster<Uint16Array> {
  const { part, window } = how;
  if (!part && source.width === to.width && source.height === to.height) return widened(source);
  const all = edgesOf(source, to, kernel, part);
  if (!part) return resampleBy(all, source, how);
  const edges = window ? { down: someOf(all.down, window.top, window.height), along: someOf(all.along, window.left, window.width) } : all;
  // Nothing beyond the reach of the kernel is gone through.
  const { box, down, along } = within(edges);
  return resampleBy({ down, along }, cutOut(source, box), how);
}

/** Some of the output samples of an edge. */
const someOf = ({ taps, starts, weights }: EdgeWeights, first: number, count: number): EdgeWeights => ({
  taps,
  starts: starts.slice(first, first + count),
  weights: weights.subarray(first * taps, (first + count) * taps),
});

/** What of a source some edges need, and the same edges of that part alone. */
function within({ down, along }: Edges): Edges & { box: Rectangle } {
  const needed = ({ starts, taps }: EdgeWeights) => {
    const first = starts[0]!;
    return { first, length: starts.at(-1)! + taps - first };
  };
  const [x, y] = [needed(along), needed(down)];
  const moved = (edge: EdgeWeights, by: number): EdgeWeights => ({ ...edge, starts: edge.starts.map((start) => start - by) });
  const box = { left: x.first, top: y.first, width: x.length, height: y.length };
  return { box, down: moved(down, y.first), along: moved(along, x.first) };
}

/** Cuts a rectangle out of decoded pixels; the result is a copy. */
export function cutOut<Pixels extends Uint8Array | Uint16Array>(
  raster: Raster<Pixels>,
  { left, top, width, height }: Rectangle,
): Raster<Pixels> {
  const { channels } = raster;
  const length = width * height * channels;
  const pixels = (raster.pixels instanceof Uint8Array ? new Uint8Array(length) : new Uint16Array(length)) as Pixels;
  for (let row = 0; row < height; row++) {
    const start = ((top + row) * raster.width + left) * channels;
    pixels.set(raster.pixels.subarray(start, start + width * channels), row * width * channels);
  }
  return { width, height, channels, pixels };
}

/** A picture as it is read piece by piece: the rows from `top` on. */
export type ReadRows = (top: number, height: number) => Promise<Raster>;

/**
 * The same of a picture that is never in memory whole.
 * @param from size of the picture in px
 * @param read yields rows of it, `from.width` wide; called from top to bottom, with some rows twice
 * @param atOnce rows of the source to ask for at a time, where the kernel does not need more
 * @param part as {@link Resampling} has it
 */
export async function resampleInBands(
  from: PixelSize,
  to: PixelSize,
  kernel: Kernel,
  light: LinearLight | null,
  read: ReadRows,
  atOnce: number,
  part?: Rectangle,
): Promise<Raster<Uint16Array>> {
  const { down, along } = edgesOf(from, to, kernel, part);
  const { taps, starts, weights } = down;
  const bands: Raster<Uint16Array>[] = [];
  for (let y = 0; y < to.height;) {
    const top = starts[y]!;
    let end = y + 1;
    while (end < to.height && starts[end]! + taps - top <= atOnce) end++;
    const rows = { taps, starts: starts.slice(y, end).map((start) => start - top), weights: weights.subarray(y * taps, end * taps) };
    bands.push(resampleBy({ down: rows, along }, await read(top, starts[end - 1]! + taps - top), { light }));
    y = end;
  }
  const { channels } = bands[0]!;
  const pixels = new Uint16Array(to.width * to.height * channels);
  bands.reduce((at, band) => (pixels.set(band.pixels, at), at + band.pixels.length), 0);
  return { ...to, channels, pixels };
}

/** The same of a picture that gives its rows as they are asked for, in sums of floats: of 16 bits, or not RGB. */
export function resampleRows(
  source: RowSource,
  to: PixelSize,
  kernel: Kernel,
  light: LinearLight | null,
  part?: Rectangle,
): Raster<Uint16Array> {
  return byFloats(edgesOf(source, to, kernel, part), source, light, workspace(), newWords);
}

const edgesOf = (from: PixelSize, to: PixelSize, kernel: Kernel, part?: Rectangle): Edges => ({
  down: edgeWeights(kernel, from.height, to.height, part && { start: part.top, length: part.height }),
  along: edgeWeights(kernel, from.width, to.width, part && { start: part.left, length: part.width }),
});

function resampleBy(edges: Edges, source: Raster, { light = null, eightBits, allocate = newWords }: Resampling): Raster<Uint16Array> {
  const { channels } = source;
  const memory = workspace();
  const whole = (eightBits ?? source.pixels instanceof Uint8Array) && channels === 3 && !light;
  if (!whole) return byFloats(edges, rowSourceOf(source), light, memory, allocate);
  return allRows(new WholePasses(source, edges, memory), { ...sizeOf(edges), channels }, memory, allocate);
}

function byFloats(edges: Edges, source: RowSource, light: LinearLight | null, memory: Workspace, allocate: Allocate): Raster<Uint16Array> {
  const { channels } = source;
  const made = allRows(new FloatPasses(source, edges, memory, light), { ...sizeOf(edges), channels }, memory, allocate);
  if (light) encode(made.pixels, light.toLinear, channels);
  return made;
}

const sizeOf = ({ along, down }: Edges): PixelSize => ({ width: along.starts.length, height: down.starts.length });

/** Goes through all rows of a result. @param to its size and channels */
export function allRows(passes: Passes, to: Omit<Raster, 'pixels'>, memory: Workspace, allocate: Allocate): Raster<Uint16Array> {
  const length = to.width * to.channels;
  const lines = memory.reserve(passes.together * 2 * length);
  const pixels = allocate(length * to.height);
  for (let y = 0; y < to.height; y += passes.together) {
    passes.rows(y, lines);
    pixels.set(memory.words(lines, Math.min(passes.together, to.height - y) * length), y * length);
  }
  return { ...to, pixels };
}

/** The same picture in 16 bits: 255 becomes 65,535. */
export function widened(source: Raster): Raster<Uint16Array> {
  const { pixels } = source;
  if (pixels instanceof Uint16Array) return { ...source, pixels };
  // A hundred times as fast as Uint16Array.from with a function, which goes through an iterator.
  const wide = new Uint16Array(pixels.length);
  for (let at = 0; at < wide.length; at++) wide[at] = pixels[at]! * 257;
  return { ...source, pixels: wide };
}

/** Encodes the square roots of light that the floats were written as, in place. */
export function encode(pixels: Uint16Array, curves: readonly Curve[], channels: number): void {
  const tables = Array.from({ length: channels }, (_, channel) => encodeTable(curves[Math.min(channel, curves.length - 1)]!));
  for (let at = 0, channel = 0; at < pixels.length; at++) {
    pixels[at] = tables[channel]![pixels[at]!]!;
    if (++channel === channels) channel = 0;
  }
}
