import type { BytesAt } from '../type';

/** Markers of ITU-T T.81, Table B.1. */
const APP0 = 0xe0;
const APP15 = 0xef;
/** JFIF (T.871, 10.1), ICC profiles (ICC.1:2010, B.4) and what the encoder says of its colours (T.872, 6.5.3). */
const SAYS_NOTHING = [APP0, 0xe2, 0xee];
const DQT = 0xdb;
const SOS = 0xda;
const EOI = 0xd9;

/** Segments before the tables are few; a file that goes on and on is broken. */
const MOST_SEGMENTS = 500;

interface Segment {
  marker: number;
  /** Where its own bytes begin, and how many they are. */
  at: number;
  length: number;
}

/** What stands before the picture of a JPEG, segment by segment, so that large metadata are passed over; SOS is the last where nothing is broken. */
async function* segmentsOf(bytesAt: BytesAt): AsyncGenerator<Segment> {
  let position = 2; // behind SOI
  for (let segment = 0; segment < MOST_SEGMENTS; segment++) {
    const head = await bytesAt(position, 4);
    if (head.length < 4 || head[0] !== 0xff) return;
    const marker = head[1]!;
    if (marker === 0xff) {
      position++; // fill bytes may precede a marker
      continue;
    }
    if (marker === EOI) return;
    const length = head.readUInt16BE(2);
    yield { marker, at: position + 4, length: Math.max(0, length - 2) };
    if (marker === SOS) return;
    position += 2 + length;
  }
}

/**
 * The quantisation table 0 of a JPEG, by convention that of luminance (T.81, B.2.4.1): 64 divisors in zigzag order.
 * @returns null when there is none before the picture begins
 */
export async function luminanceTable(bytesAt: BytesAt): Promise<number[] | null> {
  for await (const { marker, at, length } of segmentsOf(bytesAt)) {
    const table = marker === DQT ? tableZero(await bytesAt(at, length)) : null;
    if (table) return table;
  }
  return null;
}

/** Whether a JPEG says nothing of its picture: neither EXIF, IPTC nor XMP, nor anything else that is not known to be something else. */
export async function isUndescribed(bytesAt: BytesAt): Promise<boolean> {
  for await (const { marker } of segmentsOf(bytesAt)) {
    if (marker === SOS) return true;
    if (marker >= APP0 && marker <= APP15 && !SAYS_NOTHING.includes(marker)) return false;
  }
  return false;
}

/** A segment may hold several tables, each of 8 or 16 bits (T.81, Figure B.6). */
function tableZero(segment: Buffer): number[] | null {
  for (let at = 0; at < segment.length;) {
    const wide = segment[at]! >> 4 === 1;
    const size = wide ? 128 : 64;
    if (at + 1 + size > segment.length) return null;
    const values = segment.subarray(at + 1, at + 1 + size);
    if ((segment[at]! & 15) === 0) return Array.from({ length: 64 }, (_, k) => (wide ? values.readUInt16BE(2 * k) : values[k]!));
    at += 1 + size;
  }
  return null;
}
