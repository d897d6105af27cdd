import type { Curve, LinearLight } from '../colour/curves';
import type { Workspace } from '../kernels/kernels';
import { type Edges, heightStays, type Passes, RowRing, type RowSource } from './row-ring';

/** Sums of floats: for masters of 16 bits, for grey and CMYK, and for linear light. */
export class FloatPasses implements Passes {
  readonly together = 1;
  private readonly rowLength: number;
  private readonly ring: RowRing;
  private readonly raw: number;
  private readonly tables: number;
  private readonly downAt: number;
  private readonly alongAt: number;
  private readonly startsAt: number;
  private readonly between: number;
  private readonly scale: number;

  constructor(
    private readonly source: RowSource,
    private readonly edges: Edges,
    private readonly memory: Workspace,
    light: LinearLight | null,
  ) {
    this.rowLength = source.width * source.channels;
    this.ring = new RowRing(memory, edges.down.taps, 1, 4 * this.rowLength, (row, address) => this.load(row, address));
    this.scale = 65_535 / (light ? 1 : fullScaleOf(source));
    this.raw = memory.reserve(this.rowLength * source.bytesPerSample);
    this.tables = light ? memory.put(linearTables(light.toLinear, source)) : 0;
    this.downAt = memory.put(edges.down.weights);
    this.alongAt = memory.put(edges.along.weights);
    this.startsAt = memory.put(edges.along.starts);
    this.between = memory.reserve(4 * this.rowLength);
  }

  rows(y: number, out: number): void {
    const { loops } = this.memory;
    const { down, along } = this.edges;
    if (heightStays(this.edges, this.source)) this.load(y, this.between);
    else loops.downFloats(this.ring.from(down.starts[y]!), down.taps, this.downAt + 4 * down.taps * y, this.rowLength, this.between);
    const { between, startsAt, alongAt, scale } = this;
    const { channels } = this.source;
    loops.alongFloats(between, channels, startsAt, alongAt, along.taps, along.starts.length, scale, this.tables !== 0, out);
  }

  private load(row: number, address: number): void {
    const { height, bytesPerSample, channels } = this.source;
    // Beyond its edges it is as at them.
    this.memory.fill(this.raw, this.source.row(Math.max(0, Math.min(row, height - 1))));
    const { loops } = this.memory;
    if (this.tables)
      loops.floatsByTable(this.raw, bytesPerSample, this.rowLength, this.tables, fullScaleOf(this.source) + 1, channels, address);
    else if (bytesPerSample === 1) loops.floatsFromBytes(this.raw, this.rowLength, address);
    else loops.floatsFromWords(this.raw, this.rowLength, address);
  }
}

const fullScaleOf = ({ bytesPerSample }: Pick<RowSource, 'bytesPerSample'>): number => (bytesPerSample === 1 ? 255 : 65_535);

/** A table of light for each channel, one after the other. */
export function linearTables(
  curves: readonly Curve[],
  { channels, bytesPerSample }: Pick<RowSource, 'channels' | 'bytesPerSample'>,
): Float32Array {
  const full = fullScaleOf({ bytesPerSample });
  const tables = new Float32Array(channels * (full + 1));
  for (let channel = 0; channel < channels; channel++)
    for (let value = 0; value <= full; value++)
      tables[channel * (full + 1) + value] = curves[Math.min(channel, curves.length - 1)]!(value / full);
  return tables;
}
