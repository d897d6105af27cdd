type Field = [tag: number, type: keyof typeof SIZES, values: readonly number[] | string];
/** TIFF 6.0, section 2: types of fields, and bytes of a value. */
const SIZES = { 1: 1, 2: 1, 3: 2, 4: 4 };

/**
 * A raw file of the open format (DNG 1.7), made up: a thumbnail, raw data, and JPEGs.
 * @param raw width and height of the raw data, px
 */
export function rawFile(jpegs: readonly Buffer[], [width, height]: readonly [number, number]): Buffer {
  const parts: Buffer[] = [Buffer.from('II*\0\0\0\0\0', 'latin1')];
  let end = 8;
  const put = (bytes: Buffer): number => {
    const at = end;
    parts.push(bytes, Buffer.alloc(bytes.length & 1));
    end += bytes.length + (bytes.length & 1);
    return at;
  };
  const directory = (fields: readonly Field[]): number => {
    const entries = fields.map(([tag, type, values]) => {
      const size = SIZES[type];
      const list = typeof values === 'string' ? [...Buffer.from(values, 'latin1')] : values;
      const data = Buffer.concat(list.map((value) => (value > 255 || size > 1 ? number(value, size) : Buffer.from([value]))));
      const held = data.length <= 4 ? Buffer.concat([data, Buffer.alloc(4 - data.length)]) : number(put(data), 4);
      return Buffer.concat([number(tag, 2), number(type, 2), number(list.length, 4), held]);
    });
    return put(Buffer.concat([number(entries.length, 2), ...entries, number(0, 4)]));
  };
  const data = put(Buffer.alloc(1000));
  const within = [
    directory([
      [254, 4, [0]],
      [256, 4, [width]],
      [257, 4, [height]],
      [258, 3, [16]],
      [259, 3, [1]],
      [262, 3, [32_803]],
      [273, 4, [data]],
      [277, 3, [1]],
      [278, 4, [height]],
      [279, 4, [1000]],
    ]),
    ...jpegs.map((jpeg) => {
      const at = put(jpeg);
      return directory([
        [254, 4, [1]],
        [259, 3, [7]],
        [262, 3, [6]],
        [273, 4, [at]],
        [277, 3, [3]],
        [279, 4, [jpeg.length]],
      ]);
    }),
  ];
  const first = directory([
    [254, 4, [1]],
    [256, 4, [16]],
    [257, 4, [12]],
    [262, 3, [2]],
    [271, 2, 'Farhaven\0'],
    [272, 2, 'K 1\0'],
    [273, 4, [data]],
    [274, 3, [6]],
    [279, 4, [576]],
    [330, 4, within],
    [50_706, 1, [1, 4, 0, 0]],
  ]);
  parts[0]!.writeUInt32LE(first, 4);
  return Buffer.concat(parts);
}

function number(value: number, size: number): Buffer {
  const bytes = Buffer.alloc(size);
  bytes.writeUIntLE(value, 0, size);
  return bytes;
}
