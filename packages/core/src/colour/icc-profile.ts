import { type Curve, gammaCurve, parametricCurve, sampledCurve } from './curves';
import type { Row } from './matrix';
import type { RgbSpace } from './spaces';

/** What the pipeline needs to know of an ICC profile (ICC.1:2022). */
export interface IccProfile {
  /** Data colour space signature, trimmed: `RGB`, `CMYK`, `GRAY`, `Lab`. */
  space: string;
  description: string;
  /** For three-component matrix profiles: curves, and the matrix from linear RGB to XYZ of D50. Null for table profiles. */
  matrix: RgbSpace | null;
  /** For grey profiles: the curve from encoded grey to light. Null for all others. */
  grey: Curve | null;
}

/**
 * Reads the parts of an ICC profile that decide how a picture is converted.
 * @param bytes the whole profile
 * @throws Error when the bytes are no profile or end too soon
 */
export function parseIccProfile(bytes: Uint8Array): IccProfile {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < 132 || ascii(bytes, 36, 4) !== 'acsp') throw new Error('The embedded colour profile is damaged.');
  const tags = new Map<string, { offset: number; size: number }>();
  for (let index = 0, count = view.getUint32(128); index < count; index++) {
    const entry = 132 + 12 * index;
    const tag = { offset: view.getUint32(entry + 4), size: view.getUint32(entry + 8) };
    if (tag.offset + tag.size > bytes.length) throw new Error('The embedded colour profile is cut off.');
    tags.set(ascii(bytes, entry, 4), tag);
  }
  const space = ascii(bytes, 16, 4).trim();
  const description = tags.get('desc');
  return {
    space,
    description: description ? readDescription(bytes, view, description.offset) : 'unnamed profile',
    matrix: space === 'RGB' && !tags.has('A2B0') ? readMatrix(bytes, view, tags) : null,
    grey: space === 'GRAY' && !tags.has('A2B0') ? greyCurve(bytes, view, tags) : null,
  };
}

type Tags = ReadonlyMap<string, { offset: number; size: number }>;

function readMatrix(bytes: Uint8Array, view: DataView, tags: Tags): IccProfile['matrix'] {
  const at = (name: string) => tags.get(name)?.offset;
  const columns = [at('rXYZ'), at('gXYZ'), at('bXYZ')];
  const curves = [at('rTRC'), at('gTRC'), at('bTRC')];
  if ([...columns, ...curves].includes(undefined)) return null;
  const xyz = columns.map((offset) => [0, 4, 8].map((step) => view.getInt32((offset ?? 0) + 8 + step) / 65536));
  const row = (index: number): Row => [xyz[0]?.[index] ?? 0, xyz[1]?.[index] ?? 0, xyz[2]?.[index] ?? 0];
  const [red, green, blue] = curves.map((offset) => readCurve(bytes, view, offset ?? 0));
  if (!red || !green || !blue) return null;
  return { toXyz: [row(0), row(1), row(2)], curves: [red, green, blue] };
}

function greyCurve(bytes: Uint8Array, view: DataView, tags: Tags): Curve | null {
  const tag = tags.get('kTRC');
  return tag ? readCurve(bytes, view, tag.offset) : null;
}

function readCurve(bytes: Uint8Array, view: DataView, offset: number): Curve {
  if (ascii(bytes, offset, 4) === 'para') {
    const kind = view.getUint16(offset + 8);
    const count = [1, 3, 4, 5, 7][kind] ?? 0;
    const numbers = Array.from({ length: count }, (_, index) => view.getInt32(offset + 12 + 4 * index) / 65536);
    return parametricCurve(kind, numbers);
  }
  const count = view.getUint32(offset + 8);
  if (count === 0) return (encoded) => encoded;
  if (count === 1) return gammaCurve(view.getUint16(offset + 12) / 256); // u8Fixed8Number
  return sampledCurve(Float64Array.from({ length: count }, (_, index) => view.getUint16(offset + 12 + 2 * index) / 65535));
}

/** The first text of a `desc` tag: textDescriptionType of version 2, multiLocalizedUnicodeType of version 4. */
function readDescription(bytes: Uint8Array, view: DataView, offset: number): string {
  if (ascii(bytes, offset, 4) === 'mluc') {
    const length = view.getUint32(offset + 20);
    const start = offset + view.getUint32(offset + 24);
    const units = Array.from({ length: length >> 1 }, (_, index) => view.getUint16(start + 2 * index));
    return String.fromCharCode(...units).replace(/\0+$/, '');
  }
  return ascii(bytes, offset + 12, view.getUint32(offset + 8)).replace(/\0.*$/s, '');
}

function ascii(bytes: Uint8Array, start: number, length: number): string {
  return String.fromCharCode(...bytes.subarray(start, start + length));
}
