import type { Luma } from './ms-ssim';

/** Edge of a block of a JPEG, px; ITU-T T.81, A.3.1. */
const BLOCK = 8;
/** Step of luma, levels of 8 bits, from which the border of two blocks is seen on even ground (common practice, no source). */
export const SEEN_BLOCK = 2.5;
/** How much of the ground's own unrest hides a step of the same size (common practice, no source). */
const HIDES = 0.6;
/** Share of a picture's block borders from which its blocks are worth telling. */
export const BLOCKS_WORTH_TELLING = 0.02;

/** Where blocks show, and how much of all there are. */
export interface BlockSpots {
  /** One byte per pixel, 1 on either side of a border that is seen. */
  spots: Uint8Array;
  /** Share of the borders that are seen, 0-1. */
  share: number;
}

/**
 * Where the borders between blocks of 8 x 8 px are seen: where what the file has changed makes a step from one block to the next, larger than the
 * ground around it hides. Detail that the picture itself has along such a line does not count.
 * @param before the finished picture that was encoded, @param after the same decoded
 * @param at where both lie in the output, px: its blocks begin at multiples of 8
 */
export function blockSpots(before: Luma, after: Luma, at: { left: number; top: number } = { left: 0, top: 0 }): BlockSpots {
  const { width, height } = before;
  const spots = new Uint8Array(width * height);
  let borders = 0;
  let seen = 0;
  const look = (alongX: boolean) => {
    const [across, along] = alongX ? [width, height] : [height, width];
    const [crossOffset, alongOffset] = alongX ? [at.left, at.top] : [at.top, at.left];
    const place = (cross: number, down: number) => (alongX ? down * width + cross : cross * width + down);
    for (let cross = BLOCK - (crossOffset % BLOCK); cross < across; cross += BLOCK)
      for (let from = (BLOCK - (alongOffset % BLOCK)) % BLOCK; from + BLOCK <= along; from += BLOCK) {
        let step = 0;
        let unrest = 0;
        for (let down = from; down < from + BLOCK; down++) {
          const [here, there] = [place(cross, down), place(cross - 1, down)];
          step += after.values[here]! - before.values[here]! - (after.values[there]! - before.values[there]!);
          unrest += Math.abs(before.values[here]! - before.values[there]!);
        }
        borders++;
        if (Math.abs(step) / BLOCK < SEEN_BLOCK + HIDES * (unrest / BLOCK)) continue;
        seen++;
        for (let down = from; down < from + BLOCK; down++) spots[place(cross, down)] = spots[place(cross - 1, down)] = 1;
      }
  };
  look(true);
  look(false);
  return { spots, share: borders ? seen / borders : 0 };
}
