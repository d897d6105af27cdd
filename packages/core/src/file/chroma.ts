import type { FileRung } from '../preset/schema';

/** At and above this quality full chroma is worth its weight in any picture (common practice, no source). */
const FULL_CHROMA_FROM = 90;

/** A block of pixels smears when halved chroma moves a colour by more than this, in 8-bit steps of Cb or Cr. */
const SMEAR = 24;
/** Share of smeared blocks from which a picture gets full chroma: a thin neon edge across it. */
const SHARE = 0.002;

/** A finished picture, RGB of 8 bits. */
interface Rgb8 {
  width: number;
  height: number;
  pixels: Uint8Array;
}

/** The chroma sampling of a file: as asked, or by the picture where the preset leaves it to us. */
export function chromaSampling(chroma: FileRung['chroma'], quality: number, smears: () => boolean): '4:2:0' | '4:4:4' {
  if (chroma !== 'auto') return chroma;
  return quality >= FULL_CHROMA_FROM || smears() ? '4:4:4' : '4:2:0';
}

/**
 * Whether halved chroma would smear saturated edges: the share of 2 x 2 blocks in which a pixel's Cb or Cr (ITU-R BT.601, as JFIF has it) lies
 * far from the block's mean. Every eighth pair of rows is looked at.
 */
export function chromaSmears({ width, height, pixels }: Rgb8): boolean {
  let smeared = 0;
  let seen = 0;
  for (let y = 0; y + 1 < height; y += 16)
    for (let x = 0; x + 1 < width; x += 2) {
      const above = (y * width + x) * 3;
      const below = above + width * 3;
      seen++;
      const a = chroma(pixels, above);
      const b = chroma(pixels, above + 3);
      const c = chroma(pixels, below);
      const d = chroma(pixels, below + 3);
      if (spread(a[0], b[0], c[0], d[0]) > SMEAR || spread(a[1], b[1], c[1], d[1]) > SMEAR) smeared++;
    }
  return smeared > SHARE * seen;
}

/** Cb and Cr of a pixel, without their offset. */
function chroma(pixels: Uint8Array, at: number): [number, number] {
  const r = pixels[at]!;
  const g = pixels[at + 1]!;
  const b = pixels[at + 2]!;
  return [-0.168736 * r - 0.331264 * g + 0.5 * b, 0.5 * r - 0.418688 * g - 0.081312 * b];
}

/** The largest distance of four values from their mean. */
function spread(a: number, b: number, c: number, d: number): number {
  const mean = (a + b + c + d) / 4;
  return Math.max(Math.abs(a - mean), Math.abs(b - mean), Math.abs(c - mean), Math.abs(d - mean));
}
