/** From 10 on libjxl 0.7 halves the size of the picture before it encodes it (measured). */
const COARSEST = 9.9;

/**
 * What JPEG XL's encoder is told for a quality: a distance in the units of Butteraugli, 0 without loss, 1 hardly to be told from the
 * original. The mapping is that of libjxl (JxlEncoderDistanceFromQuality, from memory), so that a quality looks about as it does in a JPEG; but
 * neither end has its cliff: 100 stays with loss, and the lowest do not come to where the encoder halves the picture's size. A search needs that.
 * @param quality 1-100
 * @returns 0.1 to 9.9, falling with quality
 */
export function jpegXlDistance(quality: number): number {
  const distance = quality >= 30 ? 0.1 + (100 - quality) * 0.09 : (53 / 3000) * quality ** 2 - (23 / 20) * quality + 25;
  return Math.min(COARSEST, Math.round(distance * 1000) / 1000);
}
