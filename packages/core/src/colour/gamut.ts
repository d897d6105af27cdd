import * as z from 'zod';
import { linearTable } from './curves';
import { ciede2000, type Lab } from './ciede2000';
import { labToXyz, xyzToLab } from './lab';
import { apply, invert, type Matrix, type Row } from './matrix';
import { between, GAMUT_TOLERANCE } from './matrix-transform';
import type { RgbSpace } from './spaces';

/** What the target space could not hold: how much of the picture, and how far its colours had to move. */
export const GamutLoss = z.object({
  share: z.number().meta({ description: 'Share of the pixels that lay outside the target before clipping, 0-1' }),
  mean: z.number().meta({ description: 'Mean CIEDE2000 by which those pixels moved; 0 when there are none' }),
  p99: z.number().meta({ description: '99th percentile of the same' }),
});
export type GamutLoss = z.infer<typeof GamutLoss>;

/** Share of a picture's pixels outside the target from which that is worth telling. */
export const CLIPPING_WORTH_TELLING = 0.005;

/** Pixels that are looked at for how far: enough for a percentile. */
const SAMPLE = 16_384;

/** Linear RGB of the target, unclipped, of pixels spread evenly over a picture of a matrix space. */
export function sampleLinear(pixels: Uint16Array, source: RgbSpace, target: RgbSpace): Row[] {
  const matrix = between(source, target);
  const tables = source.curves.map(linearTable);
  const light = (at: number, channel: number) => tables[channel]![pixels[at + channel]!]!;
  return sampleAt(pixels.length / 3).map((pixel) => apply(matrix, [light(3 * pixel, 0), light(3 * pixel, 1), light(3 * pixel, 2)]));
}

/** The same from colours of any other picture, measured as CIELAB of D50. */
export function linearOfLab(colours: readonly Lab[], target: RgbSpace): Row[] {
  const matrix = invert(target.toXyz);
  return colours.map((lab) => apply(matrix, labToXyz(lab)));
}

/** Which pixels of a picture are looked at: evenly spaced, at most {@link SAMPLE}. */
export function sampleAt(count: number): number[] {
  const step = Math.max(1, count / SAMPLE);
  return Array.from({ length: Math.min(count, SAMPLE) }, (_, index) => Math.floor(index * step));
}

/**
 * How far the pixels outside a target move when they are clipped.
 * @param sample linear RGB of the target, unclipped
 * @param share what is known of the share outside, 0-1; null: that of the sample
 */
export function gamutLoss(sample: readonly Row[], target: RgbSpace, share: number | null = null): GamutLoss {
  const beyond = (value: number) => value < -GAMUT_TOLERANCE || value > 1 + GAMUT_TOLERANCE;
  const outside = sample.filter((rgb) => rgb.some(beyond));
  const moved = outside.map((rgb) => distance(rgb, target.toXyz)).sort((a, b) => a - b);
  return {
    share: share ?? outside.length / Math.max(1, sample.length),
    mean: moved.reduce((sum, value) => sum + value, 0) / Math.max(1, moved.length),
    p99: moved[Math.min(moved.length - 1, Math.floor(0.99 * moved.length))] ?? 0,
  };
}

function distance(rgb: Row, toXyz: Matrix): number {
  const clipped = rgb.map((value) => Math.min(1, Math.max(0, value))) as unknown as Row;
  return ciede2000(xyzToLab(apply(toXyz, rgb)), xyzToLab(apply(toXyz, clipped)));
}
