import {
  type Allocate,
  cutOut,
  isTurned,
  type Kernel,
  type LinearLight,
  type PixelSize,
  type Raster,
  type ReadRows,
  type Rectangle,
  resample,
  resampleInBands,
  resampleRows,
  resampleStepped,
  resampleTurned,
  upright,
  type View,
} from '@rundle/core';
import { Scratch } from '../scratch';
import type { OpenRows } from '../types/type';

/** Pixels from which a master is scaled by way of its half size, which all smaller outputs can share. */
export const LARGE = 8_000_000;

/** An output goes by way of the half size when that is at least so much larger: near enough to a full decode (49 to 51 dB). */
const ENOUGH_LARGER = 1.25;

/**
 * How far libvips scales columns down at most; the rest is ours. From 4 on it would average blocks first, which is neither the
 * kernel that was asked for nor the same for a mirrored picture.
 */
const MOST_AT_ONCE = 3.5;

/** Pixels up to which all of a master is kept in memory, for speed: more would take too much. */
export const MOST_STORED = 60_000_000;

/** Rows of a large picture that are read at a time. */
const ROWS_AT_ONCE = 512;

/** For what is only there to be turned. */
const beforeTurning = new Scratch();

/** How a master is decoded. */
export interface Decoding {
  /** All of it. */
  whole: () => Promise<Raster>;
  /** All of it as it lies in its file, where that is the fastest way; its promise is null where it could not be had. Null: never. */
  stored: (() => Promise<Raster<Uint8Array> | null>) | null;
  /**
   * Its columns scaled to a height already, where that is faster and no less right than it has to be; null: never. The
   * picture comes as it lies in its file.
   */
  atHeight: ((height: number, kernel: Kernel) => Promise<Raster>) | null;
  /** Some of its rows, where that does not take reading all rows above; null: never. */
  rows: ReadRows | null;
  /** The same one after another, where that is faster; null: it cannot be. */
  openRows: (() => OpenRows | null) | null;
}

/**
 * One master in every size that its outputs want. A size depends on the master and on itself alone, never on what else was asked
 * for or in which order: large masters are made half as large first, and whatever is small enough starts from there; the rest
 * starts from the master. So the same output is the same to the last bit alone, in company, or taken up again.
 */
export class Sizes {
  private readonly made = new Map<string, Promise<Raster<Uint16Array>>>();
  private full: Promise<Raster> | undefined;
  private stored: Promise<Raster<Uint8Array> | null> | undefined;

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
   * @param view the part of it that is made that size; null: all
   * @param part of a view, what of that size is made; null: all
   */
  at(
    size: PixelSize,
    kernel: Kernel,
    linear: boolean,
    view: View | null = null,
    part: Rectangle | null = null,
  ): Promise<Raster<Uint16Array>> {
    const key = JSON.stringify([size.width, size.height, kernel, linear, view, part]);
    const known = this.made.get(key) ?? (view ? this.ofView(view, size, kernel, linear, part) : this.make(size, kernel, linear));
    // The one that was used last stands last.
    this.made.delete(key);
    this.made.set(key, known);
    return known;
  }

  /**
   * Lets go of the sizes that have not been used for longest, until the rest takes no more than so many bytes.
   * @returns what the rest takes
   */
  async keep(most: number): Promise<number> {
    const weighed = async (raster: Promise<Raster | null>) => (await raster.catch(() => null))?.pixels.byteLength ?? 0;
    const whole = this.full ? await weighed(this.full) : 0;
    const sizes = await Promise.all([...this.made].map(async ([key, raster]) => ({ key, bytes: await weighed(raster) })));
    let left = whole + sizes.reduce((sum, { bytes }) => sum + bytes, 0);
    // What is made of it is there, and only few sizes would want it again.
    const stored = this.stored ? await weighed(this.stored) : 0;
    if (left + stored > most) this.stored = undefined;
    else left += stored;
    for (const { key, bytes } of sizes) {
      if (left <= most) return left;
      this.made.delete(key);
      left -= bytes;
    }
    if (left > most) this.full = undefined;
    return left > most ? 0 : left;
  }

  private async make(size: PixelSize, kernel: Kernel, linear: boolean): Promise<Raster<Uint16Array>> {
    const half = this.halfFor(size, kernel);
    const light = linear ? this.light : null;
    if (half) return this.scaled(await this.at(half, kernel, linear), size, kernel, light);
    const { atHeight, rows } = this.decoding;
    if (rows && size.height < this.master.height) return this.ofRows(rows, size, kernel, light);
    const least = Math.max(size.height, Math.ceil(this.master.height / MOST_AT_ONCE));
    if (atHeight && !light && kernel !== 'nearest' && least < this.master.height) {
      const stored = least === size.height && size.width < this.master.width ? await this.asStored() : null;
      return stored ? this.stepped(stored, size, kernel) : this.turned(await atHeight(least, kernel), size, kernel);
    }
    this.full ??= this.whole();
    return this.scaled(await this.full, size, kernel, light);
  }

  /**
   * A part of the master. However it is cut, large masters start from the one half size of all of the master, so that another cut costs no decode.
   */
  private async ofView(
    view: View,
    size: PixelSize,
    kernel: Kernel,
    linear: boolean,
    window: Rectangle | null,
  ): Promise<Raster<Uint16Array>> {
    const light = linear ? this.light : null;
    const { allocate, master } = this;
    const half = this.halfFor(size, kernel, view);
    const { rows } = this.decoding;
    if (!half && rows && view.angle === 0) {
      const whole = await this.ofRows(rows, size, kernel, light, view);
      return window ? cutOut(whole, window) : whole;
    }
    if (!half) this.full ??= this.whole();
    const base = half ? await this.at(half, kernel, linear) : await this.full!;
    const how = { light, window, ...(allocate ? { allocate } : {}) };
    if (view.angle !== 0) return resampleTurned(base, master, view, size, kernel, how);
    const [x, y] = [base.width / master.width, base.height / master.height];
    const part = { left: view.left * x, top: view.top * y, width: view.width * x, height: view.height * y };
    return resample(base, size, kernel, { ...how, eightBits: master.bits === 8, part });
  }

  /** Of a master that is never in memory whole. */
  private ofRows(rows: ReadRows, size: PixelSize, kernel: Kernel, light: LinearLight | null, part?: View): Promise<Raster<Uint16Array>> {
    const opened = this.decoding.openRows?.();
    try {
      if (opened) return Promise.resolve(resampleRows(opened, size, kernel, light, part));
    } catch {
      // Whatever is wrong with the file, the decoder says it better.
    } finally {
      opened?.close();
    }
    return resampleInBands(this.master, size, kernel, light, rows, ROWS_AT_ONCE, part);
  }

  /** The half size, for outputs that may start from it; null: they start from the master. @param used the part of the master that becomes the size */
  private halfFor(size: PixelSize, kernel: Kernel, used: PixelSize = this.master): PixelSize | null {
    const { width, height } = this.master;
    if (width * height < LARGE || kernel === 'nearest') return null; // to pick every second pixel is not to pick the nearest
    const fits = (edge: 'width' | 'height') => Math.ceil(used[edge] / 2) >= size[edge] * ENOUGH_LARGER;
    return fits('width') && fits('height') ? { width: Math.ceil(width / 2), height: Math.ceil(height / 2) } : null;
  }

  /** Of what has been decoded as it lies, if it has. */
  private async whole(): Promise<Raster> {
    const stored = await this.stored;
    return stored ? upright<Uint8Array>(stored, this.master.orientation) : this.decoding.whole();
  }

  private asStored(): Promise<Raster<Uint8Array> | null> {
    return (this.stored ??= this.decoding.stored?.() ?? Promise.resolve(null));
  }

  /** What {@link turned} gives of a picture whose columns the decoder has scaled, from one that it has not. */
  private stepped(stored: Raster<Uint8Array>, size: PixelSize, kernel: Exclude<Kernel, 'nearest'>): Raster<Uint16Array> {
    const { orientation } = this.master;
    const { allocate = (words) => new Uint16Array(words) } = this;
    const { width, height } = size;
    if (orientation === 1) return resampleStepped(stored, size, kernel, 'height', allocate);
    const lying = isTurned(orientation) ? { width: height, height: width } : size;
    const room: Allocate = (words) => new Uint16Array(beforeTurning.take(2 * words), 0, words);
    const made = resampleStepped(stored, lying, kernel, isTurned(orientation) ? 'width' : 'height', room);
    return upright<Uint16Array>(made, orientation, allocate(made.pixels.length));
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
