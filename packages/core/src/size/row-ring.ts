import type { Workspace } from '../kernels/kernels';
import type { Raster } from '../raster';
import type { PixelSize } from './geometry';
import type { EdgeWeights } from './kernel';

/** What a picture is resampled by: down its columns, then along its rows. */
export interface Edges {
  down: EdgeWeights;
  along: EdgeWeights;
}

/** The two passes of a resampling, which make some output rows at a time. */
export interface Passes {
  /** How many rows come at once. */
  readonly together: number;
  /**
   * Writes output rows from `y` on, 16 bits per channel, one after the other; beyond the last one it is repeated.
   * @param out address of the first
   */
  rows(y: number, out: number): void;
}

/** Whether the height stays, so that there is nothing to do down the columns. */
export const heightStays = ({ down }: Edges, { height }: PixelSize): boolean => down.taps === 1 && down.starts.length === height;

/** Whether the width stays, so that there is nothing to do along the rows. */
export const widthStays = ({ along }: Edges, { width }: PixelSize): boolean => along.taps === 1 && along.starts.length === width;

/** The bytes of a row of a picture, or of some; beyond its edges those of the outermost one. */
export function bytesOfRows({ pixels, width, height, channels }: Raster, row: number, count = 1): Uint8Array {
  const bytes = width * channels * pixels.BYTES_PER_ELEMENT;
  const first = Math.max(0, Math.min(row, height - 1));
  return new Uint8Array(pixels.buffer, pixels.byteOffset + first * bytes, Math.min(count, height - first) * bytes);
}

/** A picture whose rows are asked for one after another from top to bottom, so that it need never be in memory whole. */
export interface RowSource extends PixelSize {
  channels: Raster['channels'];
  bytesPerSample: 1 | 2;
  /** The bytes of a row, from 0 on, until the next is asked for. */
  row: (y: number) => Uint8Array;
}

export const rowSourceOf = (raster: Raster): RowSource => ({
  width: raster.width,
  height: raster.height,
  channels: raster.channels,
  bytesPerSample: raster.pixels instanceof Uint8Array ? 1 : 2,
  row: (y) => bytesOfRows(raster, y),
});

/** The source rows that an output row needs, in memory, each brought in once on the way from top to bottom. */
export class RowRing {
  private readonly places: number[];
  private readonly list: Uint32Array;
  private readonly listAt: number;
  private next = -Infinity;

  /**
   * @param entries how many an output row is made of
   * @param rowsTogether source rows that are kept as one entry
   * @param bytesPerEntry bytes of an entry
   * @param load brings the source rows from `row` on to an address
   * @param before rows of the first entry that lie before row 0
   */
  constructor(
    private readonly memory: Workspace,
    readonly entries: number,
    private readonly rowsTogether: number,
    bytesPerEntry: number,
    private readonly load: (row: number, address: number) => void,
    private readonly before = 0,
  ) {
    this.places = Array.from({ length: entries }, () => memory.reserve(bytesPerEntry + 64));
    this.list = new Uint32Array(entries);
    this.listAt = memory.reserve(4 * entries);
  }

  /** Address of a list of the entries from that with the source row `start` on; rows only ever go down. */
  from(start: number): number {
    const { entries, list, before, rowsTogether } = this;
    const first = Math.floor((start + before) / rowsTogether);
    for (this.next = Math.max(this.next, first); this.next < first + entries; this.next++)
      this.load(this.next * rowsTogether - before, this.placeOf(this.next));
    for (let k = 0; k < entries; k++) list[k] = this.placeOf(first + k);
    this.memory.fill(this.listAt, list);
    return this.listAt;
  }

  private placeOf(entry: number): number {
    const { entries } = this;
    return this.places[((entry % entries) + entries) % entries]!;
  }
}

/** Entries of two rows that hold so many rows, wherever they begin. */
export const pairsFor = (taps: number): number => Math.ceil((taps + 1) / 2);
