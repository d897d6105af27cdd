/** Encodes the picture at a quality and tells how like the unencoded one it looks, 0-1. */
export type Judge<T extends { score: number }> = (quality: number) => Promise<T>;

/** The end of a search: the lowest quality that reaches the target, or 100, which does not. */
export interface MatchResult<T> {
  reached: boolean;
  quality: number;
  file: T;
}

/** A first guess that is near for photographs. */
const GUESS = 64;

/**
 * Finds the lowest quality whose picture is like enough, by halving: seven encodes at most. Likeness rises with quality, so
 * the next quality down has been seen to fall short.
 * @param judge called with whole qualities from 1 to 100
 * @param target least score, 0-1
 * @example with `judge` giving quality / 100: searchMatch(judge, 0.9) // { reached: true, quality: 90, ... }
 */
export async function searchMatch<T extends { score: number }>(judge: Judge<T>, target: number): Promise<MatchResult<T>> {
  let short = 0;
  let enough = 101;
  let best: MatchResult<T> | null = null;
  for (let quality = GUESS; enough - short > 1; quality = (short + enough) >> 1) {
    const file = await judge(quality);
    const reached = file.score >= target;
    if (reached) enough = quality;
    else short = quality;
    if (reached || !best?.reached) best = { reached, quality, file };
  }
  return best!;
}
