import { crc32, deflateSync } from 'node:zlib';

/*
 * A PNG is a row of chunks (ISO/IEC 15948, 5.3): length, type, data, checksum. What stands beside the pixels can be exchanged without decoding.
 */

const SIGNATURE = 8;
/** What else tells of colours, and EXIF, whose orientation was followed already. */
const DROPPED = new Set(['sRGB', 'gAMA', 'cHRM', 'cICP', 'eXIf']);

/**
 * A PNG whose one word about its colours is a profile, and which lies as its pixels do.
 * @param profile undefined: its own, if it has one
 * @throws RangeError when it ends before its end
 */
export function onlyProfile(png: Buffer, profile?: Uint8Array): Buffer {
  const parts: Buffer[] = [png.subarray(0, SIGNATURE)];
  for (let at = SIGNATURE; at < png.length;) {
    const end = at + 12 + png.readUInt32BE(at);
    if (end > png.length) throw new RangeError('The PNG ends before its end.');
    const type = png.toString('latin1', at + 4, at + 8);
    if (!DROPPED.has(type) && !(profile && type === 'iCCP')) parts.push(png.subarray(at, end));
    if (type === 'IHDR' && profile) parts.push(profileChunk(profile));
    at = end;
  }
  return Buffer.concat(parts);
}

/** ISO/IEC 15948, 11.3.3.3: a name, the method of compression, and the profile. */
function profileChunk(profile: Uint8Array): Buffer {
  const data = Buffer.concat([Buffer.from('iCCPprofile\0\0', 'latin1'), deflateSync(profile)]);
  const chunk = Buffer.alloc(data.length + 8);
  chunk.writeUInt32BE(data.length - 4, 0);
  data.copy(chunk, 4);
  chunk.writeUInt32BE(crc32(data), data.length + 4);
  return chunk;
}
