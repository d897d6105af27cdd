import { type Curve, linearTable } from '../colour/curves';
import type { Raster } from '../raster';
import { lightnessOf, lightOf } from './lightness';
import type { Tone } from './schema';

/** How often each lightness (0-65,535 for L* 0-100) occurs, of each pixel's darkest and of its brightest channel. */
export interface Tones {
  darkest: Uint32Array;
  brightest: Uint32Array;
}

/** Long edge of the reduction that points are found on, px: a small picture has the tones of a large one. */
export const POINTS_EDGE = 1024;

const LEVELS = 65_536;
const tables = new WeakMap<Curve, Uint16Array>();

/** From encoded values of 16 bits to lightness, 0-65,535. */
function lightnessTable(curve: Curve): Uint16Array {
  const known = tables.get(curve);
  if (known) return known;
  const table = Uint16Array.from(linearTable(curve), (light) => Math.round(65_535 * lightnessOf(Math.max(0, light))));
  tables.set(curve, table);
  return table;
}

/**
 * Counts the tones of a picture.
 * @param curves from encoded values to light, one per channel
 */
export function tonesOf({ channels, pixels }: Raster<Uint16Array>, curves: readonly Curve[]): Tones {
  const lightness = Array.from({ length: channels }, (_, channel) => lightnessTable(curves[channel] ?? curves[0]!));
  const [darkest, brightest] = [new Uint32Array(LEVELS), new Uint32Array(LEVELS)];
  for (let at = 0; at < pixels.length; at += channels) {
    let [least, most] = [LEVELS, -1];
    for (let channel = 0; channel < channels; channel++) {
      const value = lightness[channel]![pixels[at + channel]!]!;
      if (value < least) least = value;
      if (value > most) most = value;
    }
    darkest[least]!++;
    brightest[most]!++;
  }
  return { darkest, brightest };
}

/** The smallest value at or below which at least a share of all lies: the percentile by nearest rank. */
export function percentile(counts: Uint32Array, share: number): number {
  const total = counts.reduce((sum, count) => sum + count, 0);
  const wanted = Math.max(1, Math.ceil(share * total));
  let seen = 0;
  for (let value = 0; value < counts.length; value++) {
    seen += counts[value]!;
    if (seen >= wanted) return value;
  }
  return counts.length - 1;
}

/** Linear light that becomes black, and that which becomes white. */
export interface Points {
  black: number;
  white: number;
}

const MIDDLE_GREY = 0.18;

/**
 * The points of a picture: those that are given, or, where they are automatic, the low percentile of the darkest channel and the high one of the
 * brightest, neither so far that middle grey (0.18) moves by more than the limit.
 * @param tones null where they are given
 */
export function pointsOf({ auto, black, white }: Pick<Tone, 'auto' | 'black' | 'white'>, tones: Tones | null): Points {
  if (!auto || !tones) return { black: lightOf(black), white: lightOf(white) };
  const found = {
    black: lightOf(percentile(tones.darkest, auto.low / 100) / 65_535),
    white: lightOf(percentile(tones.brightest, 1 - auto.high / 100) / 65_535),
  };
  const darker = MIDDLE_GREY * 2 ** -auto.limit;
  // (0.18 - b) / (1 - b) is the middle grey that a black point b leaves.
  const limited = { black: Math.min(found.black, (MIDDLE_GREY - darker) / (1 - darker)), white: Math.max(found.white, 2 ** -auto.limit) };
  // A picture of one tone has no points.
  return limited.black < limited.white ? limited : { black: 0, white: 1 };
}
