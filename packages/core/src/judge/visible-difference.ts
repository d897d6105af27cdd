import { type Luma, lumaOf, msSsim } from './ms-ssim';

/** A finished picture, RGB of 8 bits. */
export interface Rgb8 {
  width: number;
  height: number;
  pixels: Uint8Array;
}

/** Edge of a place, px, and the step from one to the next. */
const PLACE = 5;
const STEP = 2;
/** Share of the places that are at most as far off as the figure says: the worst hundredth counts. */
const WORST = 0.99;
/** What a level by which they are off counts, against structure that is lost. */
const LEVEL = 0.0004;
/** Bins of a level when places are counted. */
const BINS = 16;

/** What is seen of a difference, and the part of it that is structure. */
export interface VisibleDifference {
  /** 0: none; the more, the more is seen. */
  difference: number;
  /** MS-SSIM of luma, 0-1. */
  likeness: number;
}

/**
 * How much of a difference is seen between two pictures of one size: the structure that luma has lost (1 - MS-SSIM, Wang et al. 2003), and how far the
 * worst hundredth of all places of 5 x 5 px is off, in luma and in both chromas (ITU-R BT.709). MS-SSIM alone takes no notice of colours that run.
 * Fitted on photographs that Debian ships, against its programs `butteraugli_main` and `ssimulacra_main`; see bench/src/proof.ts.
 */
export function visibleDifference(before: Planes, after: Planes): VisibleDifference {
  const likeness = msSsim(before[0], after[0]);
  const off = before.reduce((sum, plane, at) => sum + worstOff(plane, after[at]!), 0);
  return { likeness, difference: 1 - likeness + LEVEL * off };
}

/** Luma, Cb and Cr of ITU-R BT.709 as levels of 8 bits; the chromas around 0. */
export type Planes = readonly [luma: Luma, cb: Luma, cr: Luma];

/** A picture as it is judged. */
export function planesOf(picture: Rgb8): Planes {
  const { width, height, pixels } = picture;
  const luma = lumaOf(picture);
  const [cb, cr] = [new Float32Array(width * height), new Float32Array(width * height)];
  for (let at = 0, from = 0; at < cb.length; at++, from += 3) {
    cb[at] = (pixels[from + 2]! - luma.values[at]!) / 1.8556;
    cr[at] = (pixels[from]! - luma.values[at]!) / 1.5748;
  }
  return [luma, { width, height, values: cb }, { width, height, values: cr }];
}

/** How far the worst hundredth of places is off at least, levels: each is the mean of its pixels. */
function worstOff({ width, height, values }: Luma, after: Luma): number {
  const [across, down] = [Math.min(PLACE, width), Math.min(PLACE, height)];
  const counts = new Uint32Array(256 * BINS + 1);
  /** Sums of the last rows, column by column. */
  const columns = new Float32Array(width);
  const ring = Array.from({ length: down }, () => new Float32Array(width));
  let total = 0;
  for (let y = 0; y < height; y++) {
    const row = ring[y % down]!;
    for (let x = 0; x < width; x++) {
      const off = Math.abs(values[y * width + x]! - after.values[y * width + x]!);
      columns[x]! += off - row[x]!;
      row[x] = off;
    }
    if (y < down - 1 || (y - down + 1) % STEP) continue;
    let sum = 0;
    for (let x = 0; x < width; x++) {
      sum += columns[x]! - (x >= across ? columns[x - across]! : 0);
      if (x < across - 1 || (x - across + 1) % STEP) continue;
      counts[Math.round((BINS * Math.max(0, sum)) / (across * down))]!++;
      total++;
    }
  }
  let seen = 0;
  let bin = 0;
  while ((seen += counts[bin]!) <= WORST * total && bin < counts.length - 1) bin++;
  return bin / BINS;
}
