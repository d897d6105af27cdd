import type { BytesAt } from '../type';

/** Markers of ITU-T T.81, Table B.1. */
const DQT = 0xdb;
const SOS = 0xda;
const EOI = 0xd9;

/** Segments before the tables are few; a file that goes on and on is broken. */
const MOST_SEGMENTS = 500;

/**
 * The quantisation table 0 of a JPEG, by convention that of luminance (T.81, B.2.4.1): 64 divisors in zigzag order. Reads
 * segment by segment, so that large metadata are passed over.
 * @returns null when there is none before the picture begins
 */
export async function luminanceTable(bytesAt: BytesAt): Promise<number[] | null> {
  let position = 2; // behind SOI
  for (let segment = 0; segment < MOST_SEGMENTS; segment++) {
    const head = await bytesAt(position, 4);
    if (head.length < 4 || head[0] !== 0xff) return null;
    const marker = head[1]!;
    if (marker === 0xff) {
      position++; // fill bytes may precede a marker
      continue;
    }
    if (marker === SOS || marker === EOI) return null;
    const length = head.readUInt16BE(2);
    if (marker === DQT) {
      const table = tableZero(await bytesAt(position + 4, Math.max(0, length - 2)));
      if (table) return table;
    }
    position += 2 + length;
  }
  return null;
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
