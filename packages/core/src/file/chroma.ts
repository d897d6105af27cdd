import type { FileRung } from '../preset/schema';

/** At and above this quality full chroma is worth its weight; below, halved chroma is hardly seen (common practice, no source). */
const FULL_CHROMA_FROM = 90;

/** The chroma sampling of a JPEG: as asked, or by quality where the preset leaves it to us. */
export function chromaSampling({ chroma, quality }: Pick<FileRung, 'chroma' | 'quality'>): '4:2:0' | '4:4:4' {
  if (chroma !== 'auto') return chroma;
  return quality >= FULL_CHROMA_FROM ? '4:4:4' : '4:2:0';
}
