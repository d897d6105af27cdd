import { type FileHandle, open } from 'node:fs/promises';
import { ProblemError } from '@rundle/core';
import { MOST_PIXELS } from '../../read/limits';
import { madeOnce } from '../made-once';
import { bytesOf, type Opener } from '../type';
import { planarTiff } from './planar-tiff';
import { unpacked } from './packed';

/*
 * A layered file ends with its flattened picture (by the specification that its maker has published, 2019: "Image Data Section"): whole planes, one colour
 * after the other, plain or packed row by row. Around them a TIFF is put, whose planes may be the same, for the decoder. Channels beyond the
 * colours are saved selections, or what is clear in the flattened picture, which lies over white there: they are left aside.
 */

export const psdOpener: Opener = {
  // As it is written down for the decoder.
  isOf: ({ format }) => format === 'tiff',
  inRows: false,
  input: (path) => madeOnce(path, () => pictureOf(path)),
};

/** Modes that can be read, with their colours; the number of each is its place in the specification. */
const MODES: Partial<Record<number, { model: 'grey' | 'rgb' | 'cmyk'; channels: 1 | 3 | 4 }>> = {
  1: { model: 'grey', channels: 1 },
  3: { model: 'rgb', channels: 3 },
  4: { model: 'cmyk', channels: 4 },
};
const OTHER_MODES: Partial<Record<number, string>> = { 0: 'bitmap', 2: 'indexed colour', 7: 'multichannel', 8: 'duotone', 9: 'Lab' };

/** Image resources: the profile, and what says whether the flattened picture is there. */
const PROFILE = 1039;
const VERSION_INFO = 1057;
/** The most that all image resources of a file may take, in bytes. */
const MOST_RESOURCES = 200_000_000;

async function pictureOf(path: string): Promise<Buffer> {
  const file = await open(path, 'r');
  try {
    return await picture(file, (await file.stat()).size);
  } finally {
    await file.close();
  }
}

async function picture(file: FileHandle, bytes: number): Promise<Buffer> {
  const bytesAt = bytesOf(file);
  const read = async (position: number, length: number): Promise<Buffer> => {
    if (length < 0 || position + length > bytes) throw new Error('it ends before its end');
    const found = await bytesAt(position, length);
    if (found.length < length) throw new Error('it ends before its end');
    return found;
  };
  const header = await read(0, 26);
  const isLarge = header.readUInt16BE(4) === 2;
  const [stored, height, width] = [header.readUInt16BE(12), header.readUInt32BE(14), header.readUInt32BE(18)];
  const [depth, mode] = [header.readUInt16BE(22), header.readUInt16BE(24)];
  const colours = MODES[mode];
  if (!colours) throw refused(`It is in ${OTHER_MODES[mode] ?? 'another'} mode. Convert it to RGB, and save it again.`);
  if (depth !== 8 && depth !== 16) throw refused(`It has ${depth} bits per channel. Convert it to 16 or 8 bits, and save it again.`);
  if (width * height > MOST_PIXELS) throw new Error('exceeds pixel limit');
  if (width * height === 0 || stored < colours.channels) throw new Error('it has no picture');

  const resourcesAt = 26 + 4 + (await read(26, 4)).readUInt32BE(0);
  const resourcesLong = (await read(resourcesAt, 4)).readUInt32BE(0);
  if (resourcesLong > MOST_RESOURCES) throw new Error('its resources are too long');
  const resources = resourcesIn(await read(resourcesAt + 4, resourcesLong));
  if (resources.get(VERSION_INFO)?.[4] === 0)
    throw refused('It was saved without its flattened picture. Save it again so that other programs can read it, or export it as TIFF.');

  const layersAt = resourcesAt + 4 + resourcesLong;
  const layersLong = isLarge ? Number((await read(layersAt, 8)).readBigUInt64BE(0)) : (await read(layersAt, 4)).readUInt32BE(0);
  const imageAt = layersAt + (isLarge ? 8 : 4) + layersLong;
  const compression = (await read(imageAt, 2)).readUInt16BE(0);
  if (compression > 1) throw refused('Its flattened picture is packed in a way that cannot be read. Export it as TIFF.');

  const rowBytes = width * (depth / 8);
  const planes: Buffer[] = [];
  if (compression === 0)
    for (let channel = 0; channel < colours.channels; channel++)
      planes.push(await read(imageAt + 2 + channel * rowBytes * height, rowBytes * height));
  else {
    const entry = isLarge ? 4 : 2;
    const lengths = await read(imageAt + 2, entry * height * stored);
    let at = imageAt + 2 + lengths.length;
    for (let channel = 0; channel < colours.channels; channel++) {
      let long = 0;
      for (let row = channel * height; row < (channel + 1) * height; row++)
        long += isLarge ? lengths.readUInt32BE(4 * row) : lengths.readUInt16BE(2 * row);
      planes.push(await read(at, long));
      at += long;
    }
  }
  const about = { width, height, bits: depth, model: colours.model, profile: resources.get(PROFILE) ?? null } as const;
  if (colours.model !== 'cmyk') return planarTiff({ ...about, planes, packed: compression === 1 });
  // Here no ink is the highest number, in TIFF the lowest.
  const plain = planes.map((plane) => inverted(compression === 1 ? unpacked(plane, rowBytes * height) : plane));
  return planarTiff({ ...about, planes: plain, packed: false });
}

function inverted(plane: Buffer): Buffer {
  for (let at = 0; at < plane.length; at++) plane[at] = 255 - plane[at]!;
  return plane;
}

/** Blocks of "8BIM", a number, a name and data, each of even length. */
function resourcesIn(section: Buffer): Map<number, Buffer> {
  const found = new Map<number, Buffer>();
  for (let at = 0; at + 12 <= section.length && section.toString('latin1', at, at + 4) === '8BIM';) {
    const name = section[at + 6]!;
    const start = at + 6 + name + 1 + ((name + 1) & 1);
    if (start + 4 > section.length) break;
    const long = section.readUInt32BE(start);
    const end = start + 4 + long;
    if (end > section.length) break;
    found.set(section.readUInt16BE(at + 4), section.subarray(start + 4, end));
    at = end + (long & 1);
  }
  return found;
}

const refused = (message: string) => new ProblemError({ code: 'unreadable', message });
