import type { Raster } from '@rundle/core';
import { Scratch } from '../scratch';

/*
 * Finished pixels in the simplest file that can carry a profile: TIFF 6.0, uncompressed. Handed to the encoder, which then
 * embeds the profile as it is; given bare pixels and a profile, it would convert them once more.
 */

/** What a finished picture's channels are. */
export type ColourModel = 'grey' | 'rgb' | 'cmyk';

const CHANNELS: Record<ColourModel, number> = { grey: 1, rgb: 3, cmyk: 4 };
/** TIFF 6.0, PhotometricInterpretation: BlackIsZero, RGB, Separated. */
const PHOTOMETRIC: Record<ColourModel, number> = { grey: 1, rgb: 2, cmyk: 5 };

/** The model of a picture that has no transparency yet. */
export const modelOf = ({ channels }: Raster): ColourModel => (channels === 1 ? 'grey' : channels === 4 ? 'cmyk' : 'rgb');

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

/** Such a file, and the room in it for its pixels: they are written straight into it. */
export interface PixelFile {
  file: Buffer;
  pixels: Uint8Array | Uint16Array;
}

const scratch = new Scratch();

/**
 * Makes a file without its pixels; it is valid until the next one is made in this thread.
 * @param model what the channels are; one more than it has is transparency
 * @param profile ICC profile; null: none
 */
export function pixelFile(
  { width, height, channels }: Omit<Raster, 'pixels'>,
  model: ColourModel,
  bits: 8 | 16,
  profile: Uint8Array | null,
): PixelFile {
  const sampleBytes = bits / 8;
  const bytesPerRow = width * channels * sampleBytes;
  const strips = Math.ceil(height / STRIP_ROWS);
  const rowsOf = (strip: number) => Math.min(STRIP_ROWS, height - strip * STRIP_ROWS);
  const each = <T>(value: (index: number) => T, count = strips) => Array.from({ length: count }, (_, index) => value(index));
  const fields: Field[] = [
    { tag: 256, type: LONG, values: [width] },
    { tag: 257, type: LONG, values: [height] },
    { tag: 258, type: SHORT, values: each(() => bits, channels) },
    { tag: 259, type: SHORT, values: [1] }, // not compressed
    { tag: 262, type: SHORT, values: [PHOTOMETRIC[model]] },
    { tag: 273, type: LONG, values: each(() => 0) }, // offsets, filled in below
    { tag: 277, type: SHORT, values: [channels] },
    { tag: 278, type: LONG, values: [STRIP_ROWS] },
    { tag: 279, type: LONG, values: each((strip) => rowsOf(strip) * bytesPerRow) },
    { tag: 284, type: SHORT, values: [1] }, // interleaved
    ...(channels > CHANNELS[model] ? [{ tag: 338, type: SHORT, values: [2] }] : []), // transparency, not multiplied in
    ...(profile ? [{ tag: 34675, type: UNDEFINED, values: profile }] : []),
  ];
  const lengthOf = ({ type, values }: Field) => values.length * SIZES[type]!;
  const apart = (field: Field) => lengthOf(field) > 4;
  const directory = 8;
  const values = directory + 2 + 12 * fields.length + 4;
  const start = fields.filter(apart).reduce((end, field) => end + ((lengthOf(field) + 1) & ~1), values + (values & 1));
  const offsets = fields.find(({ tag }) => tag === 273)!;
  offsets.values = each((strip) => start + strip * STRIP_ROWS * bytesPerRow);
  const bytes = height * bytesPerRow;
  const file = Buffer.from(scratch.take(start + bytes), 0, start + bytes).fill(0, 0, start);
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
  const { buffer, byteOffset } = file;
  const pixels = bits === 8 ? new Uint8Array(buffer, byteOffset + start, bytes) : new Uint16Array(buffer, byteOffset + start, bytes / 2);
  return { file, pixels };
}

function writeValues(file: Buffer, { type, values }: Field, at: number): void {
  for (let index = 0; index < values.length; index++) {
    const value = values[index]!;
    if (type === SHORT) file.writeUInt16LE(value, at + 2 * index);
    else if (type === LONG) file.writeUInt32LE(value, at + 4 * index);
    else file[at + index] = value;
  }
}
