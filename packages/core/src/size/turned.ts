import { workspace, type Workspace } from '../kernels/kernels';
import { fullScale, type Raster } from '../raster';
import { directionOf, type View } from './crop';
import { linearTables } from './float-passes';
import type { PixelSize } from './geometry';
import { type Kernel, phasedKernel } from './kernel';
import { type Rectangle, wholeOf } from './rectangle';
import { encode, type Resampling } from './resample';
import { bytesOfRows, rowSourceOf } from './row-ring';

/** Source px along a side of what is weighed in one go, so that it stays in the processor's cache. */
const PART = 240;
const LEAST_TILE = 8;

/** How a turned picture is resampled; every field may be left out. */
type TurnedResampling = Pick<Resampling, 'light' | 'allocate' | 'window'>;

/**
 * Resamples a turned part of a picture by one inverse mapping: each output pixel is weighed from the source pixels around the place where it lies,
 * by the kernel, widened by the reduction. What lies outside the picture does not count: the rest of the weights is made to sum to 1.
 * @param source grey, RGB or CMYK of 8 or 16 bits: the picture, or a smaller one of it
 * @param picture size of the picture in which the view lies, px
 * @param view the part that is used, and the angle by which the picture is turned
 * @param to size of the whole result, px
 */
export function resampleTurned(
  source: Raster,
  picture: PixelSize,
  view: View,
  to: PixelSize,
  kernel: Kernel,
  { light = null, allocate = (words) => new Uint16Array(words), window = null }: TurnedResampling = {},
): Raster<Uint16Array> {
  const { channels } = source;
  const mapping = mappingOf(source, picture, view, to);
  const ratio = Math.max(Math.hypot(mapping.dx.u, mapping.dx.v), Math.hypot(mapping.dy.u, mapping.dy.v));
  const { reach, taps, phases, table } = phasedKernel(kernel, ratio);
  const memory = workspace();
  const scale = 65_535 / (light ? 1 : fullScale(source.pixels));
  const tableAt = memory.put(table);
  const side = Math.max(LEAST_TILE, Math.round(PART / ratio));
  const rowAt = memory.reserve(2 * side * channels);
  const loader = new PartLoader(
    source,
    memory,
    light && linearTables(light.toLinear, rowSourceOf(source)),
    Math.ceil(1.5 * side * ratio + 2 * reach + 4),
  );
  const made = window ?? wholeOf(to);
  const pixels = allocate(made.width * made.height * channels);
  for (let y0 = 0; y0 < made.height; y0 += side)
    for (let x0 = 0; x0 < made.width; x0 += side) {
      const tile = {
        left: made.left + x0,
        top: made.top + y0,
        width: Math.min(side, made.width - x0),
        height: Math.min(side, made.height - y0),
      };
      const part = partUnder(mapping, tile, reach, source);
      const at = loader.load(part);
      for (let y = 0; y < tile.height; y++) {
        const { u, v } = mapping.at(0, tile.top + y);
        const { dx } = mapping;
        // prettier-ignore
        memory.loops.turnedRow(at, part.width, part.height, part.left, part.top, u, v, dx.u, dx.v, tile.left, tile.width, reach, tableAt, taps, phases, channels, scale, light !== null, rowAt);
        pixels.set(memory.words(rowAt, tile.width * channels), ((y0 + y) * made.width + x0) * channels);
      }
    }
  if (light) encode(pixels, light.toLinear, channels);
  return { width: made.width, height: made.height, channels, pixels };
}

/** A place in the source, in px between the middles of its pixels. */
interface Place {
  u: number;
  v: number;
}

interface Mapping {
  /** Where the middle of an output pixel lies. */
  at: (x: number, y: number) => Place;
  /** From one output pixel to the next. */
  dx: Place;
  dy: Place;
}

function mappingOf(source: PixelSize, picture: PixelSize, view: View, to: PixelSize): Mapping {
  const { cos, sin } = directionOf(view.angle);
  const [across, down] = [view.width / to.width, view.height / to.height];
  const [sx, sy] = [source.width / picture.width, source.height / picture.height];
  const dx = { u: across * cos * sx, v: -across * sin * sy };
  const dy = { u: down * sin * sx, v: down * cos * sy };
  const middle = { u: (view.left + view.width / 2) * sx - 0.5, v: (view.top + view.height / 2) * sy - 0.5 };
  const at = (x: number, y: number): Place => {
    const [i, j] = [x + 0.5 - to.width / 2, y + 0.5 - to.height / 2];
    return { u: middle.u + i * dx.u + j * dy.u, v: middle.v + i * dx.v + j * dy.v };
  };
  return { at, dx, dy };
}

/** The part of the source that some output pixels are weighed from; at least one pixel of it. */
function partUnder({ at }: Mapping, { left, top, width, height }: Rectangle, reach: number, source: PixelSize): Rectangle {
  const corners = [at(left, top), at(left + width - 1, top), at(left, top + height - 1), at(left + width - 1, top + height - 1)];
  const span = (places: number[], room: number) => {
    const from = Math.min(room - 1, Math.max(0, Math.floor(Math.min(...places) - reach)));
    return { from, length: Math.max(from + 1, Math.min(room, Math.ceil(Math.max(...places) + reach) + 1)) - from };
  };
  const [u, v] = [
    span(
      corners.map((place) => place.u),
      source.width,
    ),
    span(
      corners.map((place) => place.v),
      source.height,
    ),
  ];
  return { left: u.from, top: v.from, width: u.length, height: v.length };
}

/** Brings parts of the source into memory, as floats, four to a pixel. */
class PartLoader {
  private readonly raw: number;
  private readonly floats: number;
  private readonly tables: number;
  private readonly out: number;

  /** @param most longest side of a part, px */
  constructor(
    private readonly source: Raster,
    private readonly memory: Workspace,
    tables: Float32Array | null,
    most: number,
  ) {
    const values = Math.min(most, source.width) * source.channels;
    this.raw = memory.reserve(values * source.pixels.BYTES_PER_ELEMENT);
    this.floats = memory.reserve(4 * values);
    this.tables = tables ? memory.put(tables) : 0;
    this.out = memory.reserve(16 * Math.min(most, source.width) * Math.min(most, source.height));
  }

  load({ left, top, width, height }: Rectangle): number {
    const { raw, floats, tables, out, memory, source } = this;
    const { pixels, channels } = source;
    const bytes = channels * pixels.BYTES_PER_ELEMENT;
    const { loops } = memory;
    for (let row = 0; row < height; row++) {
      memory.fill(raw, bytesOfRows(source, top + row).subarray(left * bytes, (left + width) * bytes));
      const length = width * channels;
      if (tables) loops.floatsByTable(raw, pixels.BYTES_PER_ELEMENT, length, tables, fullScale(pixels) + 1, channels, floats);
      else if (pixels instanceof Uint8Array) loops.floatsFromBytes(raw, length, floats);
      else loops.floatsFromWords(raw, length, floats);
      loops.pixelsOfFour(floats, channels, width, out + 16 * width * row);
    }
    return out;
  }
}
