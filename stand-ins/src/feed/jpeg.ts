/** Segments that carry no pixels: APP1 to APP15 but Adobe's APP14, which tells how colours are coded, and comments (ITU-T T.81, B.2.4). */
const isAside = (marker: number): boolean => (marker > 0xe0 && marker <= 0xef && marker !== 0xee) || marker === 0xfe;

const START_OF_SCAN = 0xda;

/** A JPEG without what is told beside its pixels: metadata, profile, comments. The pixels stay as they are, to the bit. */
export function withoutAsides(jpeg: Buffer): Buffer {
  const kept = [jpeg.subarray(0, 2)];
  let at = 2;
  while (at + 4 <= jpeg.length && jpeg[at] === 0xff) {
    const marker = jpeg[at + 1]!;
    if (marker === START_OF_SCAN) break;
    const end = at + 2 + jpeg.readUInt16BE(at + 2);
    if (!isAside(marker)) kept.push(jpeg.subarray(at, end));
    at = end;
  }
  return Buffer.concat([...kept, jpeg.subarray(at)]);
}
