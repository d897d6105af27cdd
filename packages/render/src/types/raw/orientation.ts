/**
 * A JPEG that says how it lies.
 * @param orientation 1-8, as EXIF counts (EXIF 2.32, 4.6.4); any other, and 1, leave it as it is
 */
export function withOrientation(jpeg: Buffer, orientation: number): Buffer {
  if (!(orientation >= 2 && orientation <= 8)) return jpeg;
  // APP1 with the smallest TIFF: one directory of one SHORT, tag 274 (ITU-T T.81, B.2.4.6; EXIF 2.32, 4.5).
  const segment = Buffer.from('ffe100224578696600004d4d002a00000008000101120003000000010000000000000000', 'hex');
  segment.writeUInt16BE(orientation, 28);
  return Buffer.concat([jpeg.subarray(0, 2), segment, jpeg.subarray(2)]);
}
