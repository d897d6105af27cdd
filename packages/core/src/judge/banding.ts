import type { Luma } from './ms-ssim';
import { longOnly } from './regions';

/*
 * Bands: steps over ground that is smooth otherwise, seen as lines where a sky or a soft background should go over evenly. What counts is the step from
 * one even strip to the next, beyond the slope that both have themselves; grain on them hides it. A picture's own steps are told apart from those that
 * the file has added. Limits fitted on photographs, see docs/proof.md.
 */

/** Pixels of the strips on either side of a step: half of them near it, half of them farther off; and how far a step may lie from either, px. */
const NEAR = 4;
const GAP = 1;
const STRIP = GAP + 2 * NEAR;
/** From the middle of one near half to that of the other, in strips' halves. */
const APART = (NEAR + 2 * GAP) / NEAR;
/** Rows along the step that are taken together, px. */
const ALONG = 5;
/**
 * Least step that is seen on ground without any noise, levels of 8 bits: one of a single level is what 8 bits are. Of its own a picture has to have a clearer
 * one to be told about, since nothing says how smooth its ground was meant to be.
 */
export const SEEN_BAND = { added: 1.15, own: 2 };
/** How much higher it has to be on noisy ground, as a multiple of the mean step from pixel to pixel: for what a file has added, and for what a picture has itself. */
const HIDES = { added: 1, own: 8 };
/** How steep the strips beside it may be themselves, over half a strip, as a share of the step: else it is part of a slope that goes on. */
const MOST_SLOPE = 0.5;
/** A step of more is an edge of the picture, levels. */
const MOST_STEP = 8;
/** Mean height of all steps within so many px, levels, from which ground is not smooth: it has texture, of which a file may lose some. */
const MOST_TEXTURE = 3;
const AROUND = 10;
/** A shorter line of spots is no band, px. */
const LEAST_LINE = 32;

/** Share of a picture's pixels from which its bands are worth telling. */
export const BANDING_WORTH_TELLING = 0.001;

/**
 * Where a file has bands that were not there before: one byte per pixel, 1 for a spot.
 * @param before luma of the finished picture that was encoded, @param after the same decoded; levels of 8 bits
 */
export function bandingSpots(before: Luma, after: Luma): Uint8Array {
  return spotsOf(after, groundOf(before));
}

/** Where a picture has bands of its own. */
export const ownBandingSpots = (picture: Luma): Uint8Array => spotsOf(picture, null);

/** Share of the pixels at which a file has added bands, 0-1. */
export function bandingShare(before: Luma, after: Luma): number {
  const was = knownBefore.get(before) ?? groundOf(before);
  knownBefore.set(before, was); // one picture is encoded many times
  const spots = spotsOf(after, was);
  return spots.reduce((sum, spot) => sum + spot, 0) / spots.length;
}

const knownBefore = new WeakMap<Luma, Ground>();

/** Steps along one direction, levels. */
interface Steps {
  height: Float32Array;
  /** Mean slope of the strips beside it, over half a strip. */
  slope: Float32Array;
  /** Mean step from pixel to pixel beside it. */
  noise: Float32Array;
}

/** A picture that files are held against: its own steps, and where its ground is smooth. */
interface Ground {
  across: Steps;
  down: Steps;
  smooth: Uint8Array;
}

function groundOf(luma: Luma): Ground {
  const [across, down] = stepsOf(luma);
  return { across, down, smooth: smoothGround(across.height, down.height, luma) };
}

function spotsOf(after: Luma, before: Ground | null): Uint8Array {
  const { width, height } = after;
  const spots = new Uint8Array(width * height);
  const [across, down] = stepsOf(after);
  const isBand = (steps: Steps, was: Steps | undefined, at: number) => {
    const step = steps.height[at]!;
    const kind = was ? 'added' : 'own';
    const seen = SEEN_BAND[kind] + HIDES[kind] * steps.noise[at]!;
    if (Math.abs(step) < seen || Math.abs(step) > MOST_STEP || steps.slope[at]! > MOST_SLOPE * Math.abs(step)) return false;
    return !was || Math.abs(step - was.height[at]!) >= seen;
  };
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const at = y * width + x;
      if (before && !before.smooth[at]) continue;
      if (isBand(across, before?.across, at) || isBand(down, before?.down, x * height + y)) spots[at] = 1;
    }
  return longOnly(spots, after, LEAST_LINE);
}

/** Where steps are low all around: neither texture nor an edge. @param across and @param down their heights, the latter column by column */
function smoothGround(across: Float32Array, down: Float32Array, { width, height }: Luma): Uint8Array {
  const smooth = new Uint8Array(width * height);
  // Sums of columns of a window that moves down, and of the window that moves along them.
  const columns = new Float64Array(width);
  const add = (y: number, sign: 1 | -1) => {
    if (y < 0 || y >= height) return;
    for (let x = 0; x < width; x++) columns[x]! += sign * (Math.abs(across[y * width + x]!) + Math.abs(down[x * height + y]!));
  };
  for (let y = -AROUND; y < height; y++) {
    add(y + AROUND, 1);
    add(y - AROUND - 1, -1);
    if (y < 0) continue;
    let sum = 0;
    const rows = Math.min(height - 1, y + AROUND) - Math.max(0, y - AROUND) + 1;
    for (let x = -AROUND; x < width; x++) {
      if (x + AROUND < width) sum += columns[x + AROUND]!;
      if (x - AROUND - 1 >= 0) sum -= columns[x - AROUND - 1]!;
      if (x < 0) continue;
      const count = 2 * rows * (Math.min(width - 1, x + AROUND) - Math.max(0, x - AROUND) + 1);
      if (sum <= MOST_TEXTURE * count) smooth[y * width + x] = 1;
    }
  }
  return smooth;
}

/** Steps from left to right, row by row, and from top to bottom, column by column. */
function stepsOf({ width, height, values }: Luma): [Steps, Steps] {
  const turned = new Float32Array(values.length);
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) turned[x * height + y] = values[y * width + x]!;
  return [stepsAlong(values, width, height), stepsAlong(turned, height, width)];
}

function stepsAlong(values: Float32Array, width: number, height: number): Steps {
  const steps: Steps = {
    height: new Float32Array(values.length),
    slope: new Float32Array(values.length),
    noise: new Float32Array(values.length),
  };
  // Sums of the rows that are taken together, column by column: of levels, and of the steps from a pixel to the next.
  const levels = new Float64Array(width);
  const noise = new Float64Array(width);
  const add = (y: number, sign: 1 | -1) => {
    if (y < 0 || y >= height) return;
    for (let x = 0, at = y * width; x < width; x++, at++) {
      levels[x]! += sign * values[at]!;
      if (x > 0) noise[x]! += sign * Math.abs(values[at]! - values[at - 1]!);
    }
  };
  const half = (ALONG - 1) / 2;
  const [levelSums, noiseSums] = [new Float64Array(width + 1), new Float64Array(width + 1)];
  for (let y = -half; y < half; y++) add(y, 1);
  for (let y = 0; y < height; y++) {
    add(y + half, 1);
    add(y - half - 1, -1);
    if (y < half || y + half >= height) continue;
    for (let x = 0; x < width; x++) {
      levelSums[x + 1] = levelSums[x]! + levels[x]!;
      noiseSums[x + 1] = noiseSums[x]! + noise[x]!;
    }
    const mean = (from: number) => (levelSums[from + NEAR]! - levelSums[from]!) / (ALONG * NEAR);
    for (let x = STRIP; x + STRIP <= width; x++) {
      const [farLeft, left, right, farRight] = [mean(x - STRIP), mean(x - GAP - NEAR), mean(x + GAP), mean(x + GAP + NEAR)];
      const [slopeLeft, slopeRight] = [left - farLeft, farRight - right];
      const at = y * width + x;
      steps.height[at] = right - left - (APART * (slopeLeft + slopeRight)) / 2;
      steps.slope[at] = (Math.abs(slopeLeft) + Math.abs(slopeRight)) / 2;
      const unrest = noiseSums[x - GAP]! - noiseSums[x - STRIP + 1]! + noiseSums[x + STRIP]! - noiseSums[x + GAP + 1]!;
      steps.noise[at] = unrest / (ALONG * (4 * NEAR - 2));
    }
  }
  return steps;
}
