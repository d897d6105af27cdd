import { KERNELS } from './binary';

/*
 * The pixel loops that are worth compiling (see packages/core/kernels), and the memory they work in. One instance per
 * thread; calls are synchronous, so that one piece of memory serves them all, one after the other.
 */

interface Loops {
  pairRows(upper: number, lower: number, length: number, out: number): void;
  pairWordRows(upper: number, lower: number, length: number, out: number): void;
  downPairs(rows: number, count: number, weights: number, length: number, shift: number, out: number): void;
  downPairsToBytes(rows: number, count: number, weights: number, length: number, out: number): void;
  // prettier-ignore
  downPairsToWords(rows: number, count: number, weights: number, length: number, scale: number, offset: number, out: number): void;
  // prettier-ignore
  alongFour(row: number, stride: number, starts: number, weights: number, taps: number, width: number, scale: number, offset: number, out: number): void;
  // prettier-ignore
  alongFourBytes(row: number, stride: number, starts: number, weights: number, taps: number, width: number, out: number): void;
  // prettier-ignore
  alongFourToBytes(row: number, stride: number, starts: number, weights: number, taps: number, width: number, out: number): void;
  downFloats(rows: number, count: number, weights: number, length: number, out: number): void;
  // prettier-ignore
  alongFloats(row: number, channels: number, starts: number, weights: number, taps: number, width: number, scale: number, root: boolean, out: number): void;
  floatsFromBytes(from: number, length: number, out: number): void;
  floatsFromWords(from: number, length: number, out: number): void;
  floatsByTable(from: number, bytes: number, length: number, tables: number, tableLength: number, channels: number, out: number): void;
  lumaOfRow(from: number, width: number, out: number): void;
  continueRow(row: number, width: number, reach: number): void;
  blurAlong(row: number, width: number, weights: number, reach: number, out: number): void;
  // prettier-ignore
  sharpenRow(row: number, luma: number, blurred: number, weights: number, reach: number, width: number, amount: number, threshold: number): void;
  // prettier-ignore
  convertRgb(from: number, count: number, tables: number, matrix: number, encode: number, tolerance: number, out: number): number;
  columnsOfBand(band: number, width: number, rows: number, pixelBytes: number, fromLast: boolean, out: number): void;
  backToFront(row: number, width: number, pixelBytes: number, out: number): void;
  smearedBlocks(above: number, below: number, width: number, limit: number): number;
  pixelsOfFour(from: number, channels: number, width: number, out: number): void;
  // prettier-ignore
  turnedRow(part: number, partWidth: number, partHeight: number, left: number, top: number, u: number, v: number, du: number, dv: number, first: number, width: number, reach: number, table: number, taps: number, phases: number, channels: number, scale: number, root: boolean, out: number): void;
  // prettier-ignore
  toneLightness(from: number, count: number, tables: number, stride: number, values: number, curve: number, out: number): void;
  // prettier-ignore
  toneRgb(from: number, count: number, tables: number, stride: number, values: number, ratios: number, lightness: number, lights: number, chroma: boolean, encode: number, encodeStride: number, out: number): void;
  sumWithSquares(row: number, width: number, sign: number, sums: number): void;
  sumOfTwo(first: number, second: number, width: number, sign: number, sums: number): void;
  alongSums(columns: number, width: number, r: number, out: number): void;
  guidedRow(sums: number, shares: number, rowShare: number, width: number, detail: number, slopes: number, offsets: number): void;
  contrastRow(sums: number, shares: number, rowShare: number, width: number, amount: number, lightness: number): void;
  wordsToBytes(from: number, length: number, offsets: number, out: number): void;
}

interface Memory {
  readonly buffer: ArrayBuffer;
  grow(pages: number): number;
}

// Part of every JavaScript engine, but not of the language's own type library.
declare const WebAssembly: {
  Module: new (bytes: Uint8Array) => object;
  Memory: new (size: { initial: number }) => Memory;
  Instance: new (module: object, imports: { env: { memory: Memory } }) => { exports: unknown };
};

type Values = Uint8Array | Uint16Array | Int16Array | Int32Array | Uint32Array | Float32Array | Float64Array;

const PAGE = 65_536;
let memory: Memory | undefined;
let loops: Loops | undefined;

/** A stretch of the loops' memory, given out piece by piece; valid until the next {@link workspace}. */
export class Workspace {
  private used = 1024;

  constructor(
    readonly loops: Loops,
    private readonly memory: Memory,
  ) {}

  /** Reserves bytes and returns their address, a multiple of 16. Loops may read and write 64 bytes beyond. */
  reserve(bytes: number): number {
    const address = this.used;
    this.used = (address + bytes + 64 + 15) & ~15;
    const missing = this.used - this.memory.buffer.byteLength;
    if (missing > 0) this.memory.grow(Math.ceil(missing / PAGE));
    return address;
  }

  /** Copies values into the memory and returns their address. */
  put(values: Values): number {
    const address = this.reserve(values.byteLength);
    this.fill(address, values);
    return address;
  }

  /** Copies values to an address that has been reserved. */
  fill(address: number, values: Values): void {
    this.bytes(address, values.byteLength).set(new Uint8Array(values.buffer, values.byteOffset, values.byteLength));
  }

  /** Copies bytes from one address to another. */
  copy(from: number, bytes: number, to: number): void {
    new Uint8Array(this.memory.buffer).copyWithin(to, from, from + bytes);
  }

  /** Views of the memory; a later {@link reserve} may end them. */
  bytes(address: number, length: number): Uint8Array {
    return new Uint8Array(this.memory.buffer, address, length);
  }

  floats(address: number, length: number): Float32Array {
    return new Float32Array(this.memory.buffer, address, length);
  }

  integers(address: number, length: number): Uint32Array {
    return new Uint32Array(this.memory.buffer, address, length);
  }

  words(address: number, length: number): Uint16Array {
    return new Uint16Array(this.memory.buffer, address, length);
  }
}

/** The loops and an empty memory for them. */
export function workspace(): Workspace {
  memory ??= new WebAssembly.Memory({ initial: 16 });
  loops ??= new WebAssembly.Instance(new WebAssembly.Module(KERNELS), { env: { memory } }).exports as Loops;
  return new Workspace(loops, memory);
}
