import { workspace } from '../kernels/kernels';
import type { FileRung } from '../preset/schema';

/** At and above this quality full chroma is worth its weight in any picture (common practice, no source). */
export const FULL_CHROMA_FROM = 90;

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
 * The same where qualities are tried one after the other: by the picture alone. Full chroma from one quality on would make a step in the
 * weight, below which room under a ceiling stays empty.
 */
export function steadySampling(chroma: FileRung['chroma'], smears: () => boolean): '4:2:0' | '4:4:4' {
  if (chroma !== 'auto') return chroma;
  return smears() ? '4:4:4' : '4:2:0';
}

/**
 * Whether halved chroma would smear saturated edges: the share of 2 x 2 blocks in which a pixel's Cb or Cr (ITU-R BT.601, as JFIF has it) lies
 * far from the block's mean. Every eighth pair of rows is looked at.
 */
export function chromaSmears({ width, height, pixels }: Rgb8): boolean {
  const memory = workspace();
  const above = memory.reserve(3 * width);
  const below = memory.reserve(3 * width);
  const rowOf = (y: number) => pixels.subarray(3 * width * y, 3 * width * (y + 1));
  let smeared = 0;
  let seen = 0;
  for (let y = 0; y + 1 < height; y += 16) {
    memory.fill(above, rowOf(y));
    memory.fill(below, rowOf(y + 1));
    smeared += memory.loops.smearedBlocks(above, below, width, SMEAR);
    seen += width >> 1;
  }
  return smeared > SHARE * seen;
}
