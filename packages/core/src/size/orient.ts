import { workspace } from '../kernels/kernels';
import type { Raster } from '../raster';

/** Stored rows that are turned at a time: going down the columns of a whole picture would miss the processor's cache at every step. */
const BAND = 256;

/** Whether width and height change places between the stored picture and the upright one. */
export const isTurned = (orientation: number): boolean => orientation > 4;

/** What has to be done to a stored picture: its rows become columns first, where it is turned; then it is mirrored. */
interface Way {
  turned: boolean;
  /** Left and right change places, in the upright picture. */
  mirrored: boolean;
  /** Top and bottom do. */
  upsideDown: boolean;
}

/** EXIF 2.32, tag 0x0112. */
const wayOf = (orientation: number): Way => ({
  turned: isTurned(orientation),
  mirrored: [2, 3, 6, 7].includes(orientation),
  upsideDown: [3, 4, 7, 8].includes(orientation),
});

/**
 * Puts a picture upright: a copy, or the picture itself where it is upright already.
 * @param stored the picture as it lies in its file
 * @param orientation of EXIF 2.32, tag 0x0112, 1-8
 * @param out where to write a copy; new pixels when it is not given
 */
export function upright<Pixels extends Raster['pixels']>(stored: Raster<Pixels>, orientation: number, out?: Pixels): Raster<Pixels> {
  if (orientation === 1) return stored;
  const { channels, pixels } = stored;
  const way = wayOf(orientation);
  const [width, height] = way.turned ? [stored.height, stored.width] : [stored.width, stored.height];
  const copy = out ?? ((pixels instanceof Uint8Array ? new Uint8Array(pixels.length) : new Uint16Array(pixels.length)) as Pixels);
  const pixelBytes = channels * pixels.BYTES_PER_ELEMENT;
  const from = new Uint8Array(pixels.buffer, pixels.byteOffset, pixels.byteLength);
  const to = new Uint8Array(copy.buffer, copy.byteOffset, copy.byteLength);
  if (way.turned) turn(from, stored, pixelBytes, way, to);
  else mirrorRows(from, stored, pixelBytes, way, to);
  return { width, height, channels, pixels: copy };
}

type Size = Pick<Raster, 'width' | 'height'>;

function turn(from: Uint8Array, { width, height }: Size, pixelBytes: number, { mirrored, upsideDown }: Way, to: Uint8Array): void {
  const memory = workspace();
  const rowBytes = width * pixelBytes;
  const band = memory.reserve(BAND * rowBytes);
  const columns = memory.reserve(BAND * rowBytes);
  for (let first = 0; first < height; first += BAND) {
    const rows = Math.min(BAND, height - first);
    memory.fill(band, from.subarray(first * rowBytes, (first + rows) * rowBytes));
    memory.loops.columnsOfBand(band, width, rows, pixelBytes, mirrored, columns);
    const turned = memory.bytes(columns, rows * rowBytes);
    const left = mirrored ? height - first - rows : first;
    for (let column = 0; column < width; column++) {
      const y = upsideDown ? width - 1 - column : column;
      to.set(turned.subarray(column * rows * pixelBytes, (column + 1) * rows * pixelBytes), (y * height + left) * pixelBytes);
    }
  }
}

function mirrorRows(from: Uint8Array, { width, height }: Size, pixelBytes: number, { mirrored, upsideDown }: Way, to: Uint8Array): void {
  const memory = workspace();
  const rowBytes = width * pixelBytes;
  const row = memory.reserve(rowBytes);
  const reversed = memory.reserve(rowBytes);
  for (let y = 0; y < height; y++) {
    memory.fill(row, from.subarray(y * rowBytes, (y + 1) * rowBytes));
    if (mirrored) memory.loops.backToFront(row, width, pixelBytes, reversed);
    to.set(memory.bytes(mirrored ? reversed : row, rowBytes), (upsideDown ? height - 1 - y : y) * rowBytes);
  }
}
