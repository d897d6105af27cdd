import type { PixelSize } from '../size/geometry';

/** Spots that lie together: how many, and the box around them, px. */
export interface Region {
  spots: number;
  left: number;
  top: number;
  width: number;
  height: number;
}

/** Spots so near to each other belong together, px. */
const GAP = 2;

/** Regions of spots, those first whose first spot stands first. @param spots one byte per pixel, 1 for a spot */
export const regionsOf = (spots: Uint8Array, size: PixelSize): Region[] => label(spots, size).regions;

/** Drops spots of regions that are not long enough to be seen as a line. @param least length of the longer side of a region's box, px */
export function longOnly(spots: Uint8Array, size: PixelSize, least: number): Uint8Array {
  const { regions, labels } = label(spots, size);
  const isLong = regions.map(({ width, height }) => Math.max(width, height) >= least);
  return spots.map((spot, at) => (spot && isLong[labels[at]!] ? 1 : 0));
}

function label(spots: Uint8Array, { width, height }: PixelSize): { regions: Region[]; labels: Int32Array } {
  const labels = new Int32Array(spots.length).fill(-1);
  const regions: Region[] = [];
  const waiting: number[] = [];
  for (let first = 0; first < spots.length; first++) {
    if (!spots[first] || labels[first]! >= 0) continue;
    let [count, left, right, top, bottom] = [0, width, -1, height, -1];
    labels[first] = regions.length;
    waiting.push(first);
    for (let at = waiting.pop(); at !== undefined; at = waiting.pop()) {
      const [x, y] = [at % width, Math.floor(at / width)];
      count++;
      [left, right, top, bottom] = [Math.min(left, x), Math.max(right, x), Math.min(top, y), Math.max(bottom, y)];
      for (let row = Math.max(0, y - GAP); row <= Math.min(height - 1, y + GAP); row++)
        for (let column = Math.max(0, x - GAP); column <= Math.min(width - 1, x + GAP); column++) {
          const near = row * width + column;
          if (!spots[near] || labels[near]! >= 0) continue;
          labels[near] = regions.length;
          waiting.push(near);
        }
    }
    regions.push({ spots: count, left, top, width: right - left + 1, height: bottom - top + 1 });
  }
  return { regions, labels };
}
