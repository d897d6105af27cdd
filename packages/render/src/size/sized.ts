import {
  type Allocate,
  type Geometry,
  isTurned,
  type Kernel,
  type LinearLight,
  type PixelSize,
  type Raster,
  type ReadRows,
  resample,
  resampleInBands,
  upright,
} from '@rundle/core';

/** A smaller output is scaled from one already made that is at least so much larger: near enough to a full decode. */
const ENOUGH_LARGER = 1.25;

/**
 * How far libvips scales columns down at most; the rest is ours. From 4 on it would average blocks first, which is neither the
 * kernel that was asked for nor the same for a mirrored picture.
 */
const MOST_AT_ONCE = 3.5;

/** Rows of a large picture that are read at a time. */
const ROWS_AT_ONCE = 512;

interface Made {
  kernel: Kernel;
  light: boolean;
  raster: Raster<Uint16Array>;
}

/** How a master is decoded. */
export interface Decoding {
  /** All of it. */
  whole: () => Promise<Raster>;
  /**
   * Its columns scaled to a height already, where that is faster and no less right than it has to be; null: never. The
   * picture comes as it lies in its file.
   */
  atHeight: ((height: number, kernel: Kernel) => Promise<Raster>) | null;
  /** Some of its rows, where that does not take reading all rows above; null: never. */
  rows: ReadRows | null;
}

/** One master in every size that its outputs want. Sizes come fastest when the largest is asked for first. */
export class Sizes {
  private readonly made: Made[] = [];
  private full: Promise<Raster> | undefined;

  /**
   * @param master its upright size in px, bits per channel, and how it lies in its file
   * @param light the master's linear light, where it is known
   * @param allocate makes room for a size, for as long as this is in use
   */
  constructor(
    private readonly master: PixelSize & { bits: number; orientation: number },
    private readonly decoding: Decoding,
    private readonly light: LinearLight | null,
    private readonly allocate?: Allocate,
  ) {}

  /**
   * The master at a size, 16 bits per channel. The pixels are shared: whoever changes them takes a copy.
   * @param linear whether light is averaged instead of encoded values
   */
  async at(size: PixelSize, kernel: Kernel, linear: boolean): Promise<Raster<Uint16Array>> {
    const alike = this.made.filter((made) => made.kernel === kernel && made.light === linear);
    const same = alike.find(({ raster }) => raster.width === size.width && raster.height === size.height);
    if (same) return same.raster;
    const large = (edge: 'width' | 'height') => (made: Made) => made.raster[edge] >= size[edge] * ENOUGH_LARGER;
    const base = alike.filter(large('width')).filter(large('height')).at(-1)?.raster;
    const raster = await this.make(base ?? null, size, kernel, linear ? this.light : null);
    this.made.push({ kernel, light: linear, raster });
    return raster;
  }

  private async make(base: Raster | null, size: PixelSize, kernel: Kernel, light: LinearLight | null): Promise<Raster<Uint16Array>> {
    if (base) return this.scaled(base, size, kernel, light);
    const { atHeight, rows, whole } = this.decoding;
    if (rows && size.height < this.master.height) return resampleInBands(this.master, size, kernel, light, rows, ROWS_AT_ONCE);
    const least = Math.max(size.height, Math.ceil(this.master.height / MOST_AT_ONCE));
    if (atHeight && !this.full && !light && kernel !== 'nearest' && least < this.master.height)
      return this.turned(await atHeight(least, kernel), size, kernel);
    this.full ??= whole();
    return this.scaled(await this.full, size, kernel, light);
  }

  /**
   * Scales a picture as it lies in its file, and puts it upright: last, when it is small, unless both edges are still to be
   * scaled. Those have to come in the same order as in an upright file, or the results differ by a rounding.
   */
  private turned(stored: Raster, size: PixelSize, kernel: Kernel): Raster<Uint16Array> {
    const { orientation } = this.master;
    if (orientation === 1) return this.scaled(stored, size, kernel, null);
    const { width, height } = size;
    const lying = isTurned(orientation) ? { width: height, height: width } : size;
    const bothEdges = stored.width !== lying.width && stored.height !== lying.height;
    if (bothEdges) return this.scaled(upright(stored, orientation), size, kernel, null);
    return upright(this.scaled(stored, lying, kernel, null, false), orientation);
  }

  /** @param stays whether the result is kept for other sizes, and not only turned */
  private scaled(base: Raster, size: PixelSize, kernel: Kernel, light: LinearLight | null, stays = true): Raster<Uint16Array> {
    const { allocate } = this;
    return resample(base, size, kernel, { light, eightBits: this.master.bits === 8, ...(allocate && stays ? { allocate } : {}) });
  }
}

/** Cuts a rectangle out of decoded pixels; the result is a copy. */
export function crop(raster: Raster<Uint16Array>, { left, top, width, height }: NonNullable<Geometry['crop']>): Raster<Uint16Array> {
  const { channels } = raster;
  const pixels = new Uint16Array(width * height * channels);
  for (let row = 0; row < height; row++) {
    const start = ((top + row) * raster.width + left) * channels;
    pixels.set(raster.pixels.subarray(start, start + width * channels), row * width * channels);
  }
  return { width, height, channels, pixels };
}
