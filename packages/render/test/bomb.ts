import { deflateSync } from 'node:zlib';

/** A PNG that says how large it is and holds hardly anything (ISO/IEC 15948, 5.3 and 11.2.2). */
export function bomb(width: number, height: number): Buffer {
  const chunk = (type: string, data: Buffer) => {
    const length = Buffer.alloc(4);
    length.writeUInt32BE(data.length);
    const body = Buffer.concat([Buffer.from(type, 'latin1'), data]);
    const crc = Buffer.alloc(4);
    crc.writeUInt32BE(crc32(body));
    return Buffer.concat([length, body, crc]);
  };
  const header = Buffer.alloc(13);
  header.writeUInt32BE(width);
  header.writeUInt32BE(height, 4);
  header.set([8, 2], 8);
  const start = Buffer.from('\x89PNG\r\n\x1a\n', 'latin1');
  return Buffer.concat([start, chunk('IHDR', header), chunk('IDAT', deflateSync(Buffer.alloc(100))), chunk('IEND', Buffer.alloc(0))]);
}

/** ISO/IEC 15948, annex D. */
function crc32(bytes: Buffer): number {
  let crc = 0xffffffff;
  for (const byte of bytes) {
    crc ^= byte;
    for (let bit = 0; bit < 8; bit++) crc = crc & 1 ? (crc >>> 1) ^ 0xedb88320 : crc >>> 1;
  }
  return (crc ^ 0xffffffff) >>> 0;
}
