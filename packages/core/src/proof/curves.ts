/** A real file: what it weighs and how much of its difference is seen, at a quality. */
export interface CurvePoint {
  quality: number;
  bytes: number;
  difference: number;
  /** MS-SSIM of luma to the unencoded picture, 0-1. */
  likeness: number;
}

/** Qualities that are tried for a curve: enough for a line, few enough to be encoded. */
export const CURVE_QUALITIES = [35, 50, 60, 70, 78, 85, 91, 96] as const;

/**
 * What a file of a given difference would weigh, between two that were made: on a straight line of logarithms.
 * @param points of one type and one picture, in any order
 * @returns null where the difference lies beyond what was made
 */
export const bytesAt = (points: readonly CurvePoint[], difference: number): number | null =>
  between(points, difference, ({ bytes }) => bytes);

/** The likeness that a file of a given difference has, found in the same way: a preset can aim at it. */
export function likenessAt(points: readonly CurvePoint[], difference: number): number | null {
  const off = between(points, difference, ({ likeness }) => Math.max(1e-9, 1 - likeness));
  return off === null ? null : 1 - off;
}

function between(points: readonly CurvePoint[], difference: number, of: (point: CurvePoint) => number): number | null {
  const sorted = points.filter((point) => point.difference > 0).toSorted((a, b) => a.difference - b.difference);
  const next = sorted.findIndex((point) => point.difference >= difference);
  const [from, to] = [sorted[next - 1], sorted[next]];
  if (!to) return null;
  if (to.difference === difference) return of(to);
  if (!from) return null;
  const along = Math.log(difference / from.difference) / Math.log(to.difference / from.difference);
  return Math.exp(Math.log(of(from)) + along * (Math.log(of(to)) - Math.log(of(from))));
}

/** The best of the files that were made that weigh so much at most; null: none of them does. */
export const bestWithin = (points: readonly CurvePoint[], ceiling: number): CurvePoint | null =>
  points
    .filter(({ bytes }) => bytes <= ceiling)
    .reduce<CurvePoint | null>((best, point) => (best && best.difference <= point.difference ? best : point), null);

/**
 * How much lighter one type is than another at the same looks: a share of the other's weight; negative where it is heavier, null where it is not known.
 * @example lighterBy(jpeg, webp, 0.0135) // 0.31: WebP is 31 % lighter
 */
export function lighterBy(usual: readonly CurvePoint[], other: readonly CurvePoint[], difference: number): number | null {
  const [was, is] = [bytesAt(usual, difference), bytesAt(other, difference)];
  return was === null || is === null ? null : 1 - is / was;
}

/** What would do for a whole set. */
export interface Settlement {
  /** One quality for all: the least at which every picture stays under the difference, and what all of them weigh then. */
  fixed: { quality: number; bytes: number };
  /** Each picture at the least quality that does for it: the fewest bytes at the same worst picture. */
  each: { least: number; most: number; bytes: number };
}

/**
 * The least quality, of those that were tried, at which every picture stays under a visible difference.
 * @param pictures points of each, all of one type
 * @param most the difference that is still allowed
 * @returns null where none of them is good enough for all
 */
export function settle(pictures: readonly (readonly CurvePoint[])[], most: number): Settlement | null {
  const best = pictures.map((points) =>
    points
      .filter(({ difference }) => difference <= most)
      .reduce<CurvePoint | null>((low, point) => (low && low.quality <= point.quality ? low : point), null),
  );
  if (best.length === 0 || best.some((point) => point === null)) return null;
  const enough = best as CurvePoint[];
  const quality = Math.max(...enough.map((point) => point.quality));
  const atQuality = pictures.map((points) => points.find((point) => point.quality === quality));
  if (atQuality.some((point) => point === undefined)) return null;
  const sum = (points: readonly (CurvePoint | undefined)[]) => points.reduce((total, point) => total + (point?.bytes ?? 0), 0);
  return {
    fixed: { quality, bytes: sum(atQuality) },
    each: { least: Math.min(...enough.map((point) => point.quality)), most: quality, bytes: sum(enough) },
  };
}
