import type { Matrix, Row } from './matrix';
import { D65_TO_D50, SPACES, type SpaceName } from './spaces';

/**
 * A compact ICC profile of one of the spaces, version 4.3: matrix, one parametric curve for all channels, and what the
 * standard demands besides (ICC.1:2010, 8.3.2 and 8.4). About 500 bytes, and ours to give away.
 */
export const iccProfileOf = (name: SpaceName): Uint8Array => writeIccProfile(SPACES[name]);

/** @param space `parameters` of its curve are those of parametricCurveType, type 0 (g) or 3 (g, a, b, c, d) */
export function writeIccProfile({
  title,
  toXyz,
  white = 'D65',
  parameters,
}: {
  title: string;
  toXyz: Matrix;
  white?: 'D65' | 'D50';
  parameters: readonly number[];
}): Uint8Array {
  const column = (c: number): Row => [toXyz[0][c]!, toXyz[1][c]!, toXyz[2][c]!];
  const curve = tag('para', 4 + 4 * parameters.length, (at, view) => {
    view.setUint16(at, parameters.length === 1 ? 0 : 3);
    parameters.forEach((value, index) => fixed(view, at + 4 + 4 * index, value));
  });
  const tags: [string, Uint8Array][] = [
    ['desc', text(title)],
    ['cprt', text('No rights reserved')],
    ['wtpt', numbers('XYZ ', [0.9642, 1, 0.8249])],
    ['chad', numbers('sf32', (white === 'D65' ? D65_TO_D50 : IDENTITY).flat())],
    ['rXYZ', numbers('XYZ ', column(0))],
    ['gXYZ', numbers('XYZ ', column(1))],
    ['bXYZ', numbers('XYZ ', column(2))],
    ['rTRC', curve],
    ['gTRC', curve],
    ['bTRC', curve],
  ];
  return assemble(tags);
}

const IDENTITY: Matrix = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
];

const HEADER = 128;

function assemble(tags: readonly [string, Uint8Array][]): Uint8Array {
  const offsets = new Map<Uint8Array, number>();
  let end = HEADER + 4 + 12 * tags.length;
  for (const [, data] of tags) {
    if (offsets.has(data)) continue; // The three channels share one curve.
    offsets.set(data, end);
    end += (data.length + 3) & ~3;
  }
  const bytes = new Uint8Array(end);
  const view = new DataView(bytes.buffer);
  view.setUint32(0, end);
  view.setUint32(8, 0x04300000); // version 4.3
  ascii(bytes, 12, 'mntrRGB XYZ ');
  [2026, 1, 1].forEach((part, index) => view.setUint16(24 + 2 * index, part));
  ascii(bytes, 36, 'acsp');
  [0.9642, 1, 0.8249].forEach((value, index) => fixed(view, 68 + 4 * index, value));
  view.setUint32(HEADER, tags.length);
  tags.forEach(([name, data], index) => {
    const entry = HEADER + 4 + 12 * index;
    ascii(bytes, entry, name);
    view.setUint32(entry + 4, offsets.get(data)!);
    view.setUint32(entry + 8, data.length);
    bytes.set(data, offsets.get(data));
  });
  return bytes;
}

/** A tag: its type, four zeros, then `length` bytes that `fill` writes. */
function tag(type: string, length: number, fill: (at: number, view: DataView, bytes: Uint8Array) => void): Uint8Array {
  const bytes = new Uint8Array(8 + length);
  ascii(bytes, 0, type);
  fill(8, new DataView(bytes.buffer), bytes);
  return bytes;
}

const numbers = (type: string, values: readonly number[]): Uint8Array =>
  tag(type, 4 * values.length, (at, view) => values.forEach((value, index) => fixed(view, at + 4 * index, value)));

/** multiLocalizedUnicodeType with one text, in American English as most readers look for. */
const text = (value: string): Uint8Array =>
  tag('mluc', 20 + 2 * value.length, (at, view, bytes) => {
    view.setUint32(at, 1);
    view.setUint32(at + 4, 12);
    ascii(bytes, at + 8, 'enUS');
    view.setUint32(at + 12, 2 * value.length);
    view.setUint32(at + 16, 28);
    Array.from(value, (letter, index) => view.setUint16(at + 20 + 2 * index, letter.charCodeAt(0)));
  });

/** s15Fixed16Number. */
const fixed = (view: DataView, at: number, value: number): void => view.setInt32(at, Math.round(value * 65_536));

const ascii = (bytes: Uint8Array, at: number, value: string): void => {
  for (let index = 0; index < value.length; index++) bytes[at + index] = value.charCodeAt(index);
};
