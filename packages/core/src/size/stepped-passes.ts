import { type Workspace, workspace } from '../kernels/kernels';
import type { Raster } from '../raster';
import type { PixelSize } from './geometry';
import { edgeWeights, type Kernel } from './kernel';
import { type Allocate, allRows } from './resample';
import { bytesOfRows, pairsFor, type Passes, RowRing } from './row-ring';
import { withRoom, steppedWeights, withinEdge } from './stepped-weights';
import { BYTES, inStrides, wholeWeights } from './whole-passes';

/** Rows that the second pass works on at a time, so that starts and weights are fetched once for all of them. */
const TOGETHER = 4;

/**
 * Scales a picture of 8-bit RGB down to more than a quarter: one edge in steps of 8 bits, as libvips does it, the other by weights of 14 bits to 16
 * bits. The result is what `resample` makes of a picture whose one edge libvips has scaled, without that picture.
 * @param source 8 bits
 * @param to less than the source and more than a quarter of it, along both edges
 * @param first which edge is scaled in steps of 8 bits
 * @param allocate makes room for the result
 */
export function resampleStepped(
  source: Raster<Uint8Array>,
  to: PixelSize,
  kernel: Exclude<Kernel, 'nearest'>,
  first: 'height' | 'width',
  allocate: Allocate,
): Raster<Uint16Array> {
  const memory = workspace();
  const passes = first === 'height' ? new HeightFirst(source, to, kernel, memory) : new WidthFirst(source, to, kernel, memory);
  return allRows(passes, { ...to, channels: 3 }, memory, allocate);
}

/** Down the columns to bytes, then along these. */
class HeightFirst implements Passes {
  readonly together = TOGETHER;
  private readonly samples: number;
  private readonly starts: Int32Array;
  private readonly ring: RowRing;
  private readonly downAt: number;
  private readonly startsAt: number;
  private readonly alongAt: number;
  private readonly taps: number;
  private readonly stride: number;
  private readonly between: number;
  private readonly upper: number;
  private readonly lower: number;

  constructor(
    private readonly source: Raster<Uint8Array>,
    private readonly to: PixelSize,
    kernel: Exclude<Kernel, 'nearest'>,
    private readonly memory: Workspace,
  ) {
    this.samples = source.width * 3;
    const down = steppedWeights(kernel, source.height, to.height);
    this.starts = down.starts;
    // Where all begin at odd rows or all at even ones, pairs begin there, too, and there is one less of them.
    const parity = down.starts[0]! & 1;
    const inStep = down.starts.every((start) => (start & 1) === parity);
    const entries = inStep ? Math.ceil(down.taps / 2) : pairsFor(down.taps);
    this.ring = new RowRing(memory, entries, 2, 4 * this.samples, (row, address) => this.load(row, address), inStep ? parity : 0);
    this.downAt = memory.put(withRoom(down, 2 * entries, inStep ? 'at once' : 'at even rows'));
    const along = edgeWeights(kernel, source.width, to.width);
    this.taps = inStrides(along.taps, 4);
    this.alongAt = memory.put(wholeWeights(along, this.taps, 'at once'));
    this.startsAt = memory.put(along.starts);
    this.stride = this.samples + 64;
    this.between = memory.reserve(TOGETHER * this.stride);
    [this.upper, this.lower] = [memory.reserve(this.samples), memory.reserve(this.samples)];
  }

  rows(y: number, out: number): void {
    const { ring, starts, downAt, samples, between, stride, memory, to } = this;
    for (let row = 0; row < TOGETHER; row++) {
      const at = Math.min(y + row, to.height - 1);
      memory.loops.downPairsToBytes(ring.from(starts[at]!), ring.entries, downAt + 4 * ring.entries * at, samples, between + row * stride);
    }
    memory.loops.alongFourBytes(between, stride, this.startsAt, this.alongAt, this.taps, to.width, out);
  }

  private load(row: number, address: number): void {
    const { memory, source, upper, lower } = this;
    memory.fill(upper, bytesOfRows(source, row));
    memory.fill(lower, bytesOfRows(source, row + 1));
    memory.loops.pairRows(upper, lower, this.samples, address);
  }
}

/** Along the rows to bytes, then down the columns of these: for pictures that lie on their side. */
class WidthFirst implements Passes {
  readonly together = TOGETHER;
  private readonly samples: number;
  private readonly starts: Int32Array;
  private readonly ring: RowRing;
  private readonly downAt: number;
  private readonly startsAt: number;
  private readonly alongAt: number;
  private readonly taps: number;
  private readonly wide: number;
  private readonly narrowed: number;
  private readonly upper: number;
  private readonly lower: number;
  /** Which rows are narrowed at the moment, counted in groups. */
  private ready = -1;

  constructor(
    private readonly source: Raster<Uint8Array>,
    private readonly to: PixelSize,
    kernel: Exclude<Kernel, 'nearest'>,
    private readonly memory: Workspace,
  ) {
    this.samples = to.width * 3;
    const along = withinEdge(steppedWeights(kernel, source.width, to.width), source.width);
    this.taps = inStrides(along.taps, 4);
    this.alongAt = memory.put(withRoom(along, this.taps, 'at once'));
    this.startsAt = memory.put(along.starts);
    this.wide = memory.reserve(TOGETHER * source.width * 3);
    this.narrowed = memory.reserve(TOGETHER * this.samples);
    [this.upper, this.lower] = [memory.reserve(this.samples), memory.reserve(this.samples)];
    const down = edgeWeights(kernel, source.height, to.height);
    this.starts = down.starts;
    this.ring = new RowRing(memory, pairsFor(down.taps), 2, 4 * this.samples, (row, address) => this.load(row, address));
    this.downAt = memory.put(wholeWeights(down, 2 * this.ring.entries, 'at even rows'));
  }

  rows(y: number, out: number): void {
    const { ring, starts, downAt, samples, memory, to } = this;
    for (let row = 0; row < TOGETHER; row++) {
      const at = Math.min(y + row, to.height - 1);
      const list = ring.from(starts[at]!);
      const weights = downAt + 4 * ring.entries * at;
      memory.loops.downPairsToWords(list, ring.entries, weights, samples, BYTES.only, BYTES.offset, out + row * 2 * samples);
    }
  }

  private load(row: number, address: number): void {
    this.narrow(row, this.upper);
    this.narrow(row + 1, this.lower);
    this.memory.loops.pairRows(this.upper, this.lower, this.samples, address);
  }

  private narrow(row: number, address: number): void {
    const { memory, source, wide, narrowed, samples } = this;
    const inside = Math.max(0, Math.min(row, source.height - 1));
    const group = Math.floor(inside / TOGETHER);
    if (group !== this.ready) {
      memory.fill(wide, bytesOfRows(source, group * TOGETHER, TOGETHER));
      memory.loops.alongFourToBytes(wide, source.width * 3, this.startsAt, this.alongAt, this.taps, this.to.width, narrowed);
      this.ready = group;
    }
    memory.copy(narrowed + (inside % TOGETHER) * samples, samples, address);
  }
}
