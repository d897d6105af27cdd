import type { Tone } from './schema';

/*
 * CIE lightness as a share of 0-1 (L* / 100), and how a tone changes it.
 */

const DELTA = 6 / 29;

/** Lightness L* / 100 of relative luminance 0-1 (ISO/CIE 11664-4:2019, 5.1). */
export const lightnessOf = (light: number): number =>
  1.16 * (light > DELTA ** 3 ? Math.cbrt(light) : light / (3 * DELTA ** 2) + 4 / 29) - 0.16;

/** Relative luminance of lightness 0-1; the inverse of {@link lightnessOf}. */
export function lightOf(lightness: number): number {
  const f = (lightness + 0.16) / 1.16;
  return f > DELTA ? f ** 3 : 3 * DELTA ** 2 * (f - 4 / 29);
}

/** How far shadows and highlights at their ends move the tones that they move most, share of L*. */
const MOST_LIFT = 0.14;
/** Lightness around which contrast turns: it stays as it is. */
export const PIVOT = 0.5;

/**
 * The curve of a tone on lightness t = L* / 100, rising from 0 to 0 and from 1 to 1, in this order:
 * 1. shadows s and highlights h: t + 0.14 s (27/4) t (1 - t)^2 + 0.14 h (27/4) t^2 (1 - t), which move L* 33 and L* 67 most, by up to 14;
 * 2. gamma g: t to the power of 1 / g;
 * 3. contrast c around the pivot p = 0.5: p (t / p)^k below it, 1 - (1 - p) ((1 - t) / (1 - p))^k above, with k = 2^c its slope there.
 * These are ours: plain curves that neither clip nor turn back.
 */
export function lightnessCurve({ shadows, highlights, gamma, contrast }: Pick<Tone, 'shadows' | 'highlights' | 'gamma' | 'contrast'>) {
  const slope = 2 ** contrast;
  return (lightness: number): number => {
    const t = Math.min(1, Math.max(0, lightness));
    const lifted = t + MOST_LIFT * 6.75 * t * (1 - t) * (shadows * (1 - t) + highlights * t);
    const brightened = gamma === 1 ? lifted : lifted ** (1 / gamma);
    if (contrast === 0) return brightened;
    return brightened < PIVOT
      ? PIVOT * (brightened / PIVOT) ** slope
      : 1 - (1 - PIVOT) * (Math.max(0, 1 - brightened) / (1 - PIVOT)) ** slope;
  };
}
