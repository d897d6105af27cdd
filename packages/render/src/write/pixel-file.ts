import type { Raster } from '@rundle/core';

/*
 * Finished pixels in the simplest file that can carry a profile: TIFF 6.0, uncompressed. Handed to the encoder, which then
 * embeds the profile as it is; given bare pixels and a profile, it would convert them once more.
 */

const SHORT = 3;
const LONG = 4;
const UNDEFINED = 7;
const SIZES: Record<number, number> = { [SHORT]: 2, [LONG]: 4, [UNDEFINED]: 1 };

/** Rows per strip: decoders read strip by strip. */
const STRIP_ROWS = 64;

interface Field {
  tag: number;
  type: number;
  values: ArrayLike<number>;
}

/**
 * @param picture RGB, or RGB with transparency (4 channels), 8 or 16 bits
 * @param profile ICC profile; null: none
 */
export function pixelFile({ width, height, channels, pixels }: Raster, profile: Uint8Array | null): Buffer {
  const bytesPerRow = width * channels * pixels.BYTES_PER_ELEMENT;
  const strips = Math.ceil(height / STRIP_ROWS);
  const rowsOf = (strip: number) => Math.min(STRIP_ROWS, height - strip * STRIP_ROWS);
  const each = <T>(value: (index: number) => T, count = strips) => Array.from({ length: count }, (_, index) => value(index));
  const fields: Field[] = [
    { tag: 256, type: LONG, values: [width] },
    { tag: 257, type: LONG, values: [height] },
    { tag: 258, type: SHORT, values: each(() => 8 * pixels.BYTES_PER_ELEMENT, channels) },
    { tag: 259, type: SHORT, values: [1] }, // not compressed
    { tag: 262, type: SHORT, values: [2] }, // RGB
    { tag: 273, type: LONG, values: each(() => 0) }, // offsets, filled in below
    { tag: 277, type: SHORT, values: [channels] },
    { tag: 278, type: LONG, values: [STRIP_ROWS] },
    { tag: 279, type: LONG, values: each((strip) => rowsOf(strip) * bytesPerRow) },
    { tag: 284, type: SHORT, values: [1] }, // interleaved
    ...(channels === 4 ? [{ tag: 338, type: SHORT, values: [2] }] : []), // transparency, not multiplied in
    ...(profile ? [{ tag: 34675, type: UNDEFINED, values: profile }] : []),
  ];
  const lengthOf = ({ type, values }: Field) => values.length * SIZES[type]!;
  const apart = (field: Field) => lengthOf(field) > 4;
  const directory = 8;
  const values = directory + 2 + 12 * fields.length + 4;
  const start = fields.filter(apart).reduce((end, field) => end + ((lengthOf(field) + 1) & ~1), values + (values & 1));
  const offsets = fields.find(({ tag }) => tag === 273)!;
  offsets.values = each((strip) => start + strip * STRIP_ROWS * bytesPerRow);
  const file = Buffer.allocUnsafe(start + height * bytesPerRow).fill(0, 0, start);
  file.write('II*\0', 0, 'latin1');
  file.writeUInt32LE(directory, 4);
  file.writeUInt16LE(fields.length, directory);
  let free = values + (values & 1);
  fields.forEach((field, index) => {
    const entry = directory + 2 + 12 * index;
    file.writeUInt16LE(field.tag, entry);
    file.writeUInt16LE(field.type, entry + 2);
    file.writeUInt32LE(field.values.length, entry + 4);
    if (apart(field)) file.writeUInt32LE(free, entry + 8);
    writeValues(file, field, apart(field) ? free : entry + 8);
    if (apart(field)) free += (lengthOf(field) + 1) & ~1;
  });
  Buffer.from(pixels.buffer, pixels.byteOffset, pixels.byteLength).copy(file, start);
  return file;
}

function writeValues(file: Buffer, { type, values }: Field, at: number): void {
  for (let index = 0; index < values.length; index++) {
    const value = values[index]!;
    if (type === SHORT) file.writeUInt16LE(value, at + 2 * index);
    else if (type === LONG) file.writeUInt32LE(value, at + 4 * index);
    else file[at + index] = value;
  }
}
