import type { Curve, LinearLight } from '../colour/curves';
import type { Workspace } from '../kernels/kernels';
import { fullScale, type Raster } from '../raster';
import type { EdgeWeights } from './kernel';

/*
 * The two passes of a resampling, row by row: how source rows come into memory, and what is summed there. Two kinds: whole
 * numbers for the everyday picture, floats for all others.
 */

/** What a picture is resampled by: down its columns, then along its rows. */
export interface Edges {
  down: EdgeWeights;
  along: EdgeWeights;
}

/** Makes output rows from top to bottom; the source rows that one of them needs lie in a ring, each brought in once. */
abstract class Passes {
  private readonly ring: number[];
  private readonly list: number;
  private next = 0;
  protected readonly rowLength: number;

  /**
   * @param rowsTogether source rows that are kept as one entry of the ring
   * @param bytesPerEntry bytes of such an entry per sample
   */
  constructor(
    protected readonly source: Raster,
    protected readonly edges: Edges,
    protected readonly memory: Workspace,
    private readonly rowsTogether: number,
    bytesPerEntry: number,
  ) {
    this.rowLength = source.width * source.channels;
    const entries = Math.ceil((edges.down.taps + rowsTogether - 1) / rowsTogether);
    this.ring = Array.from({ length: entries }, () => memory.reserve(this.rowLength * bytesPerEntry + 64));
    this.list = memory.reserve(4 * entries);
  }

  /** Writes output row `y`, 16 bits per channel, to the address `out`. */
  row(y: number, out: number): void {
    const entries = this.ring.length;
    if (this.alongOnly) return this.average(y, 0, out);
    const first = Math.floor(this.edges.down.starts[y]! / this.rowsTogether);
    for (this.next = Math.max(this.next, first); this.next < first + entries; this.next++)
      this.load(this.next * this.rowsTogether, this.ring[this.next % entries]!);
    this.memory.fill(
      this.list,
      Uint32Array.from({ length: entries }, (_, k) => this.ring[(first + k) % entries]!),
    );
    this.average(y, this.list, out);
  }

  /** Whether the height stays, so that there is nothing to do down the columns. */
  protected get alongOnly(): boolean {
    return this.edges.down.taps === 1 && this.edges.down.starts.length === this.source.height;
  }

  /** How many entries of the ring an output row is made of. */
  protected get entries(): number {
    return this.ring.length;
  }

  /** The bytes of a row of the source; beyond its end the last one, whose weight is 0. */
  protected sourceRow(row: number): Uint8Array {
    const { buffer, byteOffset, BYTES_PER_ELEMENT } = this.source.pixels;
    const bytes = this.rowLength * BYTES_PER_ELEMENT;
    return new Uint8Array(buffer, byteOffset + Math.min(row, this.source.height - 1) * bytes, bytes);
  }

  /** Brings the source rows from `row` on into an entry of the ring. */
  protected abstract load(row: number, address: number): void;
  /** Sums the entries whose addresses stand in `list`, then along them. */
  protected abstract average(y: number, list: number, out: number): void;
}

/** Weights of 14 bits and whole sums, for RGB of 8 bits: right to a twentieth of an 8-bit step, and fastest. */
export class WholePasses extends Passes {
  private readonly downAt: number;
  private readonly along: WholeWeights;
  private readonly alongAt: number;
  private readonly startsAt: number;
  private readonly between: number;
  private readonly upper: number;
  private readonly lower: number;

  constructor(source: Raster, edges: Edges, memory: Workspace) {
    super(source, edges, memory, 2, 4);
    // A row that starts at an odd row of the source gets a 0 in front, since rows are kept in pairs.
    this.downAt = memory.put(wholeWeights(edges.down, 2 * this.entries, (start) => start & 1).weights);
    this.along = wholeWeights(edges.along, edges.along.taps + (edges.along.taps & 1), () => 0);
    this.alongAt = memory.put(this.along.weights);
    this.startsAt = memory.put(edges.along.starts);
    this.between = memory.reserve(2 * this.rowLength);
    this.upper = memory.reserve(this.rowLength);
    this.lower = memory.reserve(this.rowLength);
  }

  protected load(row: number, address: number): void {
    this.memory.fill(this.upper, this.sourceRow(row));
    this.memory.fill(this.lower, this.sourceRow(row + 1));
    this.memory.loops.pairRows(this.upper, this.lower, this.rowLength, address);
  }

  protected average(y: number, list: number, out: number): void {
    const { loops } = this.memory;
    if (this.alongOnly) {
      this.memory.fill(this.upper, this.sourceRow(y));
      loops.rowOfBytes(this.upper, this.rowLength, this.between);
    } else loops.downPairs(list, this.entries, this.downAt + 4 * this.entries * y, this.rowLength, this.between);
    loops.alongWholeRgb(this.between, this.startsAt, this.alongAt, this.along.taps, this.edges.along.starts.length, out);
  }
}

interface WholeWeights {
  taps: number;
  weights: Int16Array;
}

const WEIGHT_ONE = 16_384;

/**
 * Weights as whole numbers, {@link WEIGHT_ONE} being 1, that sum to it exactly: an even grey stays as it is.
 * @param room how many weights each output sample gets; the rest is 0
 * @param shift how many zeros come first
 */
function wholeWeights({ taps, starts, weights }: EdgeWeights, room: number, shift: (start: number) => number): WholeWeights {
  const whole = new Int16Array(starts.length * room);
  for (let i = 0; i < starts.length; i++) {
    const first = i * room + shift(starts[i]!);
    let left = WEIGHT_ONE;
    let largest = first;
    for (let k = 0; k < taps; k++) {
      left -= whole[first + k] = Math.round(weights[i * taps + k]! * WEIGHT_ONE);
      if (whole[first + k]! > whole[largest]!) largest = first + k;
    }
    whole[largest]! += left;
  }
  return { taps: room, weights: whole };
}

/** Sums of floats: for 16 bits, for grey and CMYK, and for linear light. */
export class FloatPasses extends Passes {
  private readonly raw: number;
  private readonly tables: number;
  private readonly downAt: number;
  private readonly alongAt: number;
  private readonly startsAt: number;
  private readonly between: number;
  private readonly scale: number;

  constructor(source: Raster, edges: Edges, memory: Workspace, light: LinearLight | null) {
    super(source, edges, memory, 1, 4);
    this.scale = 65_535 / (light ? 1 : fullScale(source.pixels));
    this.raw = memory.reserve(this.rowLength * source.pixels.BYTES_PER_ELEMENT);
    this.tables = light ? memory.put(linearTables(light.toLinear, source)) : 0;
    this.downAt = memory.put(edges.down.weights);
    this.alongAt = memory.put(edges.along.weights);
    this.startsAt = memory.put(edges.along.starts);
    this.between = memory.reserve(4 * this.rowLength);
  }

  protected load(row: number, address: number): void {
    const { pixels, channels } = this.source;
    this.memory.fill(this.raw, this.sourceRow(row));
    const { loops } = this.memory;
    if (this.tables)
      loops.floatsByTable(this.raw, pixels.BYTES_PER_ELEMENT, this.rowLength, this.tables, fullScale(pixels) + 1, channels, address);
    else if (pixels instanceof Uint8Array) loops.floatsFromBytes(this.raw, this.rowLength, address);
    else loops.floatsFromWords(this.raw, this.rowLength, address);
  }

  protected average(y: number, list: number, out: number): void {
    const { loops } = this.memory;
    const { down, along } = this.edges;
    if (this.alongOnly) this.load(y, this.between);
    else loops.downFloats(list, down.taps, this.downAt + 4 * down.taps * y, this.rowLength, this.between);
    const { channels } = this.source;
    loops.alongFloats(
      ...([
        this.between,
        channels,
        this.startsAt,
        this.alongAt,
        along.taps,
        along.starts.length,
        this.scale,
        this.tables !== 0,
        out,
      ] as const),
    );
  }
}

function linearTables(curves: readonly Curve[], { channels, pixels }: Raster): Float32Array {
  const full = fullScale(pixels);
  const tables = new Float32Array(channels * (full + 1));
  for (let channel = 0; channel < channels; channel++)
    for (let value = 0; value <= full; value++)
      tables[channel * (full + 1) + value] = curves[Math.min(channel, curves.length - 1)]!(value / full);
  return tables;
}
