import type { Workspace } from '../kernels/kernels';
import type { Raster } from '../raster';
import type { EdgeWeights } from './kernel';
import { bytesOfRows, type Edges, heightStays, pairsFor, type Passes, RowRing, widthStays } from './row-ring';

/**
 * What is rounded away between the passes, how the sums of the second become words, and how those of the first do where there
 * is no second, for samples of each kind.
 */
export const BYTES = { shift: 8, scale: 257 / 2 ** 20, only: 257 / 2 ** 14, offset: 0.5 };
/** Words are halved and go about 0, so that they fit into i16 with room to overshoot. */
const WORDS = { shift: 15, scale: 2 / 2 ** 14, only: 1 / 2 ** 14, offset: 32_768.5 };

const WEIGHT_ONE = 16_384;

/** Weights of 14 bits and whole sums, for RGB that has 8 bits or had them once: right to a twentieth of an 8-bit step. */
export class WholePasses implements Passes {
  readonly together = 4;
  private readonly kind: typeof BYTES;
  private readonly ring: RowRing;
  private readonly downAt: number;
  private readonly taps: number;
  private readonly alongAt: number;
  private readonly startsAt: number;
  private readonly between: number;
  private readonly stride: number;
  private readonly upper: number;
  private readonly lower: number;

  constructor(
    private readonly source: Raster,
    private readonly edges: Edges,
    private readonly memory: Workspace,
  ) {
    const samples = source.width * 3;
    this.kind = source.pixels instanceof Uint8Array ? BYTES : WORDS;
    this.ring = new RowRing(memory, pairsFor(edges.down.taps), 2, 4 * samples, (row, address) => this.load(row, address));
    // A row that starts at an odd row of the source gets a 0 in front, since rows are kept in pairs.
    this.downAt = memory.put(wholeWeights(edges.down, 2 * this.ring.entries, 'at even rows'));
    // Bytes are gone through four pixels at a time, words two.
    this.taps = inStrides(edges.along.taps, this.kind === BYTES && heightStays(edges, source) ? 4 : 2);
    this.alongAt = memory.put(wholeWeights(edges.along, this.taps, 'at once'));
    this.startsAt = memory.put(edges.along.starts);
    this.stride = 2 * samples + 64;
    this.between = memory.reserve(this.together * this.stride);
    this.upper = memory.reserve(2 * samples);
    this.lower = memory.reserve(2 * samples);
  }

  rows(y: number, out: number): void {
    const { loops } = this.memory;
    const { between, startsAt, alongAt, edges, source, taps } = this;
    const width = edges.along.starts.length;
    if (this.kind === BYTES && heightStays(edges, source)) {
      this.memory.fill(between, bytesOfRows(source, y, this.together));
      return loops.alongFourBytes(between, source.width * 3, startsAt, alongAt, taps, width, out);
    }
    if (widthStays(edges, source)) {
      for (let row = 0; row < this.together; row++) this.downOnly(y + row, out + row * 2 * source.width * 3);
      return;
    }
    for (let row = 0; row < this.together; row++) this.down(y + row, between + row * this.stride);
    loops.alongFour(between, this.stride, startsAt, alongAt, taps, width, this.kind.scale, this.kind.offset, out);
  }

  private down(y: number, out: number): void {
    const { list, entries, weights } = this.rowsOf(y);
    this.memory.loops.downPairs(list, entries, weights, this.source.width * 3, this.kind.shift, out);
  }

  private downOnly(y: number, out: number): void {
    const { list, entries, weights } = this.rowsOf(y);
    const { only, offset } = this.kind;
    this.memory.loops.downPairsToWords(list, entries, weights, this.source.width * 3, only, offset, out);
  }

  /** What an output row is made of; beyond the last one that. */
  private rowsOf(y: number): { list: number; entries: number; weights: number } {
    const { starts } = this.edges.down;
    const row = Math.min(y, starts.length - 1);
    const { entries } = this.ring;
    return { list: this.ring.from(starts[row]!), entries, weights: this.downAt + 4 * entries * row };
  }

  private load(row: number, address: number): void {
    const { memory, upper, lower, source } = this;
    memory.fill(upper, bytesOfRows(source, row));
    memory.fill(lower, bytesOfRows(source, row + 1));
    const { pairRows, pairWordRows } = memory.loops;
    (this.kind === BYTES ? pairRows : pairWordRows)(upper, lower, source.width * 3, address);
  }
}

/**
 * Weights as whole numbers, {@link WEIGHT_ONE} being 1, that sum to it exactly: an even grey stays as it is. What rounding left
 * over goes to the largest; where two are equally large it is split between them, so that a mirrored edge gets mirrored weights.
 * @param room how many weights each output sample gets; the rest is 0
 * @param from whether the first weight is that of the first sample, or of the even sample before it, where there is one
 */
export function wholeWeights(edge: EdgeWeights, room: number, from: 'at once' | 'at even rows'): Int16Array {
  const known = wholes.get(edge) ?? new Map<string, Int16Array>();
  wholes.set(edge, known);
  const key = `${room} ${from}`;
  const whole = known.get(key) ?? makeWhole(edge, room, from);
  known.set(key, whole);
  return whole;
}

/** As long as the weights that they are of are kept. */
const wholes = new WeakMap<EdgeWeights, Map<string, Int16Array>>();

function makeWhole({ taps, starts, weights }: EdgeWeights, room: number, from: 'at once' | 'at even rows'): Int16Array {
  const whole = new Int16Array(starts.length * room);
  for (let i = 0; i < starts.length; i++) {
    const first = i * room + (from === 'at once' ? 0 : starts[i]! & 1);
    let left = WEIGHT_ONE;
    for (let k = 0; k < taps; k++) left -= whole[first + k] = Math.round(weights[i * taps + k]! * WEIGHT_ONE);
    const own = whole.subarray(first, first + taps);
    let largest = 0;
    for (let k = 1; k < taps; k++) if (own[k]! > own[largest]!) largest = k;
    const twin = own.lastIndexOf(own[largest]!);
    const inFirstHalf = 2 * i < starts.length;
    own[inFirstHalf ? largest : twin]! += Math.ceil(left / 2);
    own[inFirstHalf ? twin : largest]! += Math.floor(left / 2);
  }
  return whole;
}

/** So many taps, and more, so that they can be gone through so many at a time. */
export const inStrides = (taps: number, atOnce: number): number => Math.ceil(taps / atOnce) * atOnce;
