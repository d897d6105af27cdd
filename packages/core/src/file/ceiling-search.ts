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

/** What a quality is expected to weigh, in bytes, found without much work; a factor that is the same for all does no harm. */
export type Expect = (quality: number) => Promise<number>;

/**
 * Finds the highest quality whose file is not above the ceiling. The logarithm of the weight is nearly straight in
 * quality, so a secant on it comes close in a step or two; bracketing keeps the answer exact, that is, the next quality
 * up has been seen to be too heavy. Where the curve is so flat that steps would be short, they double, and every third is a
 * bisection.
 * @param encode called with whole qualities from `floor` to `most`; heavier quality must not give a lighter file by much
 * @param most the quality asked for, 1-100: never exceeded
 * @param expect where it is given, the search begins with what is expected to fit, so that two or three encodes do
 * @example with `encode` giving 2,000 bytes a step: searchCeiling(encode, { bytes: 100_000, floor: 30 }, 80) // quality 50
 */
export async function searchCeiling<T extends { bytes: number }>(
  encode: Encode<T>,
  { bytes: ceiling, floor }: Pick<Ceiling, 'bytes' | 'floor'>,
  most: number,
  expect: Expect | null = null,
): Promise<CeilingResult<T>> {
  let encodes = 0;
  const at = async (quality: number) => {
    encodes++;
    return { quality, file: await encode(quality) };
  };
  const bottom = Math.min(floor, most);
  let heavy: Attempt<T> | null = null;
  let light: Attempt<T> | null = null;
  let next = expect ? await expectedToFit(expect, ceiling, bottom, most) : most;
  while (next < (heavy?.quality ?? most + 1) && next > (light?.quality ?? bottom - 1)) {
    const tried = await at(next);
    if (tried.file.bytes <= ceiling) light = tried;
    else heavy = tried;
    if (light?.quality === most) return { fits: true, ...light, encodes };
    if (!light && heavy?.quality === bottom) return { fits: false, ...heavy, encodes };
    // A factor between what was expected and what came out has been seen by now.
    const by = expect && encodes < TRUSTED ? ceiling * ((await expect(next)) / tried.file.bytes) : null;
    if (expect && by !== null) next = besides(await expectedToFit(expect, by, bottom, most), light, heavy);
    else next = heavy ? guess(heavy, light, bottom, ceiling, encodes) : Math.min(most, next + 2 ** encodes);
  }
  return light ? { fits: true, ...light, encodes } : { fits: false, ...heavy!, encodes };
}

/** After so many encodes an expectation has been wrong often enough. */
const TRUSTED = 4;

/** A quality between what fits and what does not, as near to what is expected as can be. */
function besides(expected: number, light: Attempt | null, heavy: Attempt | null): number {
  return Math.min((heavy?.quality ?? 101) - 1, Math.max((light?.quality ?? -1) + 1, expected));
}

/** The highest quality that is expected to fit, or the lowest. */
async function expectedToFit(expect: Expect, ceiling: number, bottom: number, most: number): Promise<number> {
  const found = await searchCeiling(async (quality) => ({ bytes: await expect(quality) }), { bytes: ceiling, floor: bottom }, most);
  return found.quality;
}

interface Attempt<T extends { bytes: number } = { bytes: number }> {
  quality: number;
  file: T;
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
