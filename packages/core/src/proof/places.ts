import type { Raster } from '../raster';

/** Places in a picture at which a setting is judged best. */
export const PLACE_KINDS = ['busiest', 'smoothest', 'most-saturated', 'skin'] as const;
export type PlaceKind = (typeof PLACE_KINDS)[number];

/** The middle of a place, as shares of the picture. */
export interface FoundPlace {
  x: number;
  y: number;
}

/** Share of a window from which on it counts as skin. */
const SKIN_SHARE = 0.3;
/** Mean step between neighbours, levels, under which ground is all of one colour: nothing could band there. */
const BLANK = 0.05;

/**
 * Finds where a picture is busiest, where it is smoothest without being blank (a sky), where its colours are strongest, and where there is skin.
 * @param picture RGB of 8 bits; a few hundred px are enough
 * @param window size of a place, as shares of the picture
 * @returns null for what the picture does not have
 */
export function findPlaces(picture: Raster<Uint8Array>, window: { width: number; height: number }): Record<PlaceKind, FoundPlace | null> {
  const { width, height } = picture;
  const size = { width: part(window.width, width), height: part(window.height, height) };
  const best: Record<PlaceKind, { score: number; place: FoundPlace } | null> = {
    busiest: null,
    smoothest: null,
    'most-saturated': null,
    skin: null,
  };
  const keep = (kind: PlaceKind, score: number, place: FoundPlace) => {
    if (!best[kind] || score > best[kind].score) best[kind] = { score, place };
  };
  for (const top of starts(height, size.height))
    for (const left of starts(width, size.width)) {
      const place = { x: (left + size.width / 2) / width, y: (top + size.height / 2) / height };
      const { step, chroma, skin, light } = measured(picture, left, top, size);
      keep('busiest', step, place);
      // Deep shadow is smooth too, and nobody looks for bands in it first.
      if (step > BLANK && light > 40) keep('smoothest', -step, place);
      keep('most-saturated', chroma, place);
      if (skin >= SKIN_SHARE) keep('skin', skin, place);
    }
  return {
    busiest: best.busiest?.place ?? null,
    smoothest: best.smoothest?.place ?? null,
    'most-saturated': best['most-saturated']?.place ?? null,
    skin: best.skin?.place ?? null,
  };
}

const part = (share: number, whole: number): number => Math.max(2, Math.min(whole, Math.round(share * whole)));

/** Windows overlap by half. */
function starts(whole: number, size: number): number[] {
  const last = whole - size;
  const count = Math.max(1, Math.ceil(last / (size / 2)) + 1);
  return Array.from({ length: count }, (_, at) => (count === 1 ? 0 : Math.round((at * last) / (count - 1))));
}

/** Means over a window: luma step between neighbours, chroma and luma in levels, share of skin. */
function measured({ width, pixels }: Raster<Uint8Array>, left: number, top: number, size: { width: number; height: number }) {
  let [step, chroma, skin, light] = [0, 0, 0, 0];
  for (let y = top; y < top + size.height - 1; y++)
    for (let x = left; x < left + size.width - 1; x++) {
      const at = 3 * (y * width + x);
      const [r, g, b] = [pixels[at]!, pixels[at + 1]!, pixels[at + 2]!];
      const here = luma(pixels, at);
      step += Math.abs(here - luma(pixels, at + 3)) + Math.abs(here - luma(pixels, at + 3 * width));
      chroma += Math.max(r, g, b) - Math.min(r, g, b);
      light += here;
      if (isSkin(r, g, b)) skin++;
    }
  const count = (size.width - 1) * (size.height - 1);
  return { step: step / count, chroma: chroma / count, skin: skin / count, light: light / count };
}

const luma = (pixels: Uint8Array, at: number): number => 0.2126 * pixels[at]! + 0.7152 * pixels[at + 1]! + 0.0722 * pixels[at + 2]!;

/** Cb from 77 to 127 and Cr from 133 to 173 (D. Chai and K. N. Ngan 1999, "Face segmentation using skin-color map"), not in the dark. */
function isSkin(r: number, g: number, b: number): boolean {
  const cb = 128 - 0.168736 * r - 0.331264 * g + 0.5 * b;
  const cr = 128 + 0.5 * r - 0.418688 * g - 0.081312 * b;
  return cb >= 77 && cb <= 127 && cr >= 133 && cr <= 173 && r > 60;
}
