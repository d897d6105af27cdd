import type { Luma } from './ms-ssim';

/*
 * Banding after CAMBI (P. Tandon, M. Afonso, J. Sole and L. Krasula, "CAMBI: Contrast-aware Multiscale Banding Index", Picture Coding Symposium
 * 2021; from memory, at one scale and on luma of 8 bits): in smooth ground, how evenly a window is shared by a level and another that lies a few
 * levels off. What the picture had before is taken off, so that only what the file has added counts.
 */

/** Half the edge of the window, px: contours that lie nearer than this are found. */
const REACH = 15;
/** Contrasts that are looked for, levels of 8 bits: a step of more is an edge that belongs to the picture. */
const MOST_STEP = 4;
/** Half the edge of the ground that has to be flat for a pixel to count, px, and the share of its pixels without a gradient. */
const GROUND = 3;
const FLAT = 0.55;

/** From this much more banding than before a pixel is told as a spot. A contour of one level between two even halves is 0.25. */
export const SEEN_BANDING = 0.3;
/** Share of a picture's pixels from which its banding is worth telling. */
export const BANDING_WORTH_TELLING = 0.01;

/**
 * Where a file has steps in smooth areas that were not there before: one byte per pixel, 1 for a spot.
 * @param before luma of the finished picture that was encoded, @param after the same decoded
 */
export function bandingSpots(before: Luma, after: Luma): Uint8Array {
  const [was, is] = [bandingOf(before), bandingOf(after)];
  return Uint8Array.from(is, (value, at) => (value - was[at]! >= SEEN_BANDING ? 1 : 0));
}

/** Share of the pixels that are spots, 0-1; of a large picture by every fourth pixel of every fourth row. */
export function bandingShare(before: Luma, after: Luma): number {
  const every = before.values.length > LARGE ? 4 : 1;
  const was = knownBefore.get(before) ?? bandingOf(before, every);
  knownBefore.set(before, was); // one picture is encoded many times
  const is = bandingOf(after, every);
  let spots = 0;
  for (let at = 0; at < is.length; at++) if (is[at]! - was[at]! >= SEEN_BANDING) spots++;
  return spots / (Math.ceil(before.width / every) * Math.ceil(before.height / every));
}

const knownBefore = new WeakMap<Luma, Float32Array>();

/** Pixels from which a picture is looked at here and there. */
const LARGE = 300_000;

/**
 * How much banding there is at each pixel: the highest, over contrasts k of 1 to 4 levels, of k * p(0) * p(k) / (p(0) + p(k)), with p the share of
 * the window's flat pixels that are k levels off this one. 0 where the ground is not flat.
 * @param every only every so many pixels of every so many rows are looked at; 0 stays in the others
 */
export function bandingOf({ width, height, values }: Luma, every = 1): Float32Array {
  const levels = new Uint8ClampedArray(values); // rounds
  const flat = flatGround(levels, width, height);
  const banding = new Float32Array(width * height);
  // How many flat pixels of each level a window holds, a column of pixels in and one out with each step to the right; room at both ends.
  const counts = new Uint16Array(256 + 2 * MOST_STEP);
  for (let y = 0; y < height; y += every) {
    counts.fill(0);
    let total = 0;
    const [top, bottom] = [Math.max(0, y - REACH), Math.min(height - 1, y + REACH)];
    const add = (x: number, by: 1 | -1) => {
      if (x < 0 || x >= width) return;
      for (let row = top; row <= bottom; row++) {
        const at = row * width + x;
        if (!flat[at]) continue;
        counts[levels[at]! + MOST_STEP]! += by;
        total += by;
      }
    };
    for (let x = -REACH; x < REACH; x++) add(x, 1);
    for (let x = 0; x < width; x++) {
      add(x + REACH, 1);
      if (x > REACH) add(x - REACH - 1, -1);
      const at = y * width + x;
      if (x % every || !flat[at] || total === 0) continue;
      const level = levels[at]!;
      const here = counts[level + MOST_STEP]! / total;
      let most = 0;
      for (let k = 1; k <= MOST_STEP; k++) {
        const there = Math.max(counts[level + MOST_STEP + k]!, counts[level + MOST_STEP - k]!) / total;
        most = Math.max(most, (k * here * there) / (here + there));
      }
      banding[at] = most;
    }
  }
  return banding;
}

/** Pixels around which most have no gradient: neither to the right nor down. */
function flatGround(levels: Uint8ClampedArray, width: number, height: number): Uint8Array {
  const even = new Uint8Array(width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const at = y * width + x;
      const level = levels[at]!;
      const right = x + 1 < width ? levels[at + 1]! : level;
      const down = y + 1 < height ? levels[at + width]! : level;
      if (right === level && down === level) even[at] = 1;
    }
  const flat = new Uint8Array(width * height);
  /** Even pixels of each column within reach of the row, and of a window of columns: both move along. */
  const columns = new Uint16Array(width);
  for (let y = -GROUND; y < height; y++) {
    const [comes, goes] = [y + GROUND, y - GROUND - 1];
    for (let x = 0; x < width; x++)
      columns[x]! += (comes < height ? even[comes * width + x]! : 0) - (goes >= 0 ? even[goes * width + x]! : 0);
    if (y < 0) continue;
    const rows = Math.min(height - 1, y + GROUND) - Math.max(0, y - GROUND) + 1;
    let sum = 0;
    for (let x = -GROUND; x < width; x++) {
      if (x + GROUND < width) sum += columns[x + GROUND]!;
      if (x - GROUND - 1 >= 0) sum -= columns[x - GROUND - 1]!;
      if (x < 0) continue;
      const across = Math.min(width - 1, x + GROUND) - Math.max(0, x - GROUND) + 1;
      if (sum >= FLAT * rows * across) flat[y * width + x] = 1;
    }
  }
  return flat;
}
