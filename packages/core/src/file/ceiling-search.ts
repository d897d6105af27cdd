import type { Ceiling } from '../preset/schema';

/** Encodes the picture at a quality and tells what came out. */
export type Encode<T extends { bytes: number }> = (quality: number) => Promise<T>;

/** The end of a search: a file under the ceiling, or the floor's file, which is too heavy. */
export interface CeilingResult<T> {
  fits: boolean;
  quality: number;
  file: T;
  /** How often the picture was encoded. */
  encodes: number;
}

/**
 * Finds the highest quality whose file is not above the ceiling. The logarithm of the weight is nearly straight in
 * quality, so a secant on it comes close in a step or two; bracketing keeps the answer exact, that is, the next quality
 * up has been seen to be too heavy. Where the curve is so flat that steps would be short, they double, and every third is a
 * bisection.
 * @param encode called with whole qualities from `floor` to `most`; heavier quality must not give a lighter file by much
 * @param most the quality asked for, 1-100: never exceeded
 * @example with `encode` giving 2,000 bytes a step: searchCeiling(encode, { bytes: 100_000, floor: 30 }, 80) // quality 50
 */
export async function searchCeiling<T extends { bytes: number }>(
  encode: Encode<T>,
  { bytes: ceiling, floor }: Pick<Ceiling, 'bytes' | 'floor'>,
  most: number,
): Promise<CeilingResult<T>> {
  let encodes = 0;
  const at = async (quality: number) => {
    encodes++;
    return { quality, file: await encode(quality) };
  };
  const top = await at(most);
  if (top.file.bytes <= ceiling) return { fits: true, ...top, encodes };
  const bottom = Math.min(floor, most);
  let heavy = top;
  let light: typeof top | null = null;
  let next = guess(heavy, null, bottom, ceiling, 0);
  while (next < heavy.quality && next > (light?.quality ?? bottom - 1)) {
    const tried = await at(next);
    if (tried.file.bytes <= ceiling) light = tried;
    else heavy = tried;
    if (!light && heavy.quality === bottom) return { fits: false, ...heavy, encodes };
    next = guess(heavy, light, bottom, ceiling, encodes);
  }
  return light ? { fits: true, ...light, encodes } : { fits: false, ...heavy, encodes };
}

interface Attempt {
  quality: number;
  file: { bytes: number };
}

/** Without a light end: bytes fall by about 2.2 % per step of quality. */
const USUAL_SLOPE = 0.022;

/** @param tried how often the picture has been encoded */
function guess(heavy: Attempt, light: Attempt | null, bottom: number, ceiling: number, tried: number): number {
  const over = Math.log(heavy.file.bytes / ceiling);
  if (!light) return Math.max(bottom, heavy.quality - Math.max(2 ** tried - 1, 1, Math.ceil(over / USUAL_SLOPE)));
  if (tried % 3 === 0) return Math.floor((heavy.quality + light.quality) / 2);
  const slope = Math.log(heavy.file.bytes / light.file.bytes) / (heavy.quality - light.quality);
  const secant = slope > 0 ? Math.floor(heavy.quality - over / slope) : Math.floor((heavy.quality + light.quality) / 2);
  return Math.min(heavy.quality - 1, Math.max(light.quality + 1, secant));
}
