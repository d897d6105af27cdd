/** Whole planes, and what they are. */
interface Planes {
  width: number;
  height: number;
  bits: 8 | 16;
  model: 'grey' | 'rgb' | 'cmyk';
  profile: Buffer | null;
  /** One for each colour, the high byte first. */
  planes: readonly Buffer[];
  /** Whether they are packed by runs (TIFF 6.0, section 9). */
  packed: boolean;
}

/** TIFF 6.0, section 2: types of fields. */
const SHORT = 3;
const LONG = 4;
const UNDEFINED = 7;

/** Section 4 and 16. */
const PHOTOMETRIC = { grey: 1, rgb: 2, cmyk: 5 } as const;

/** A TIFF of planes (TIFF 6.0, PlanarConfiguration 2), each of which is one strip. */
export function planarTiff({ width, height, bits, model, profile, planes, packed }: Planes): Buffer {
  const offsets: number[] = [];
  let end = 8;
  for (const plane of planes) {
    offsets.push(end);
    end += plane.length + (plane.length & 1);
  }
  const shorts = (...values: number[]) => ({ type: SHORT, count: values.length, data: bytesOf(values, 2) });
  const longs = (...values: number[]) => ({ type: LONG, count: values.length, data: bytesOf(values, 4) });
  const fields: [tag: number, field: { type: number; count: number; data: Buffer }][] = [
    [256, longs(width)],
    [257, longs(height)],
    [258, shorts(...planes.map(() => bits))],
    [259, shorts(packed ? 32_773 : 1)],
    [262, shorts(PHOTOMETRIC[model])],
    [273, longs(...offsets)],
    [277, shorts(planes.length)],
    [278, longs(height)],
    [279, longs(...planes.map(({ length }) => length))],
    [284, shorts(2)],
    ...(profile ? [[34_675, { type: UNDEFINED, count: profile.length, data: profile }] as [number, ReturnType<typeof shorts>]] : []),
  ];
  // What does not fit into its entry stands behind them all.
  const entries = Buffer.alloc(2 + 12 * fields.length + 4);
  entries.writeUInt16BE(fields.length, 0);
  const behind: Buffer[] = [];
  let at = end + entries.length;
  for (const [index, [tag, { type, count, data }]] of fields.entries()) {
    const entry = 2 + 12 * index;
    entries.writeUInt16BE(tag, entry);
    entries.writeUInt16BE(type, entry + 2);
    entries.writeUInt32BE(count, entry + 4);
    if (data.length <= 4) data.copy(entries, entry + 8);
    else {
      entries.writeUInt32BE(at, entry + 8);
      behind.push(evenly(data));
      at += behind.at(-1)!.length;
    }
  }
  const header = Buffer.from([0x4d, 0x4d, 0, 42, 0, 0, 0, 0]);
  header.writeUInt32BE(end, 4);
  return Buffer.concat([header, ...planes.map(evenly), entries, ...behind]);
}

function bytesOf(values: readonly number[], size: 2 | 4): Buffer {
  const bytes = Buffer.alloc(values.length * size);
  for (const [at, value] of values.entries()) bytes.writeUIntBE(value, at * size, size);
  return bytes;
}

const evenly = (bytes: Buffer): Buffer => (bytes.length & 1 ? Buffer.concat([bytes, Buffer.alloc(1)]) : bytes);
