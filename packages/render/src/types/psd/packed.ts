/**
 * Unpacks bytes that were packed by runs (TIFF 6.0, section 9, PackBits).
 * @param length of what comes out, in bytes
 * @throws Error when more or less comes out
 */
export function unpacked(packed: Buffer, length: number): Buffer {
  const plain = Buffer.alloc(length);
  let to = 0;
  for (let at = 0; at < packed.length;) {
    const count = packed.readInt8(at++);
    if (count === -128) continue;
    const long = count >= 0 ? count + 1 : 1 - count;
    if (to + long > length || at + (count >= 0 ? long : 1) > packed.length) throw new Error('its rows are longer than the picture');
    if (count >= 0) packed.copy(plain, to, at, at + long);
    else plain.fill(packed[at]!, to, to + long);
    at += count >= 0 ? long : 1;
    to += long;
  }
  if (to < length) throw new Error('its rows are shorter than the picture');
  return plain;
}
