import { describe, expect, it } from 'vitest';
import { toEightBits } from '../colour/dither';
import { bandingOf, bandingSpots, SEEN_BANDING } from './banding';
import { blockSpots, SEEN_BLOCK } from './blocks';
import type { Luma } from './ms-ssim';

const [width, height] = [192, 64];
const luma = (at: (x: number, y: number) => number): Luma => ({
  width,
  height,
  values: Float32Array.from({ length: width * height }, (_, i) => at(i % width, Math.floor(i / width))),
});
const middle = (values: ArrayLike<number>, x: number) => values[32 * width + x]!;
const share = (spots: Uint8Array) => spots.reduce((sum, spot) => sum + spot, 0) / spots.length;
/** A ramp of one level in 16 px, as the engine rounds it. */
const ramp = Uint16Array.from({ length: width * height }, (_, i) => 257 * (80 + (i % width) / 16));
const dithered: Luma = { width, height, values: Float32Array.from(toEightBits(ramp, true)) };
const steps = (levels: number) => luma((x) => 80 + levels * Math.floor(x / 64));

describe('banding', () => {
  it.each([1, 2, 4])('of a contour of %i levels is what the formula gives for a window that it divides', (levels) => {
    const banding = bandingOf(steps(levels));
    // At x = 64 + d the window of 31 columns holds 15 - d of the darker side; all of it is flat but the column left of the contour.
    for (const d of [2, 5, 10]) {
      const [darker, all] = [15 - d, 31];
      const [here, there] = [(all - darker) / all, darker / all];
      expect(middle(banding, 64 + d)).toBeCloseTo((levels * here * there) / (here + there), 1);
    }
    expect(middle(banding, 32)).toBe(0); // further off than the window reaches
  });

  it('is none in a dithered ramp, in texture and at edges that belong to the picture', () => {
    expect(Math.max(...bandingOf(dithered))).toBeLessThan(SEEN_BANDING);
    expect(Math.max(...bandingOf(luma((x, y) => 90 + ((x * 7919 + y * 104_729) % 41))))).toBe(0);
    expect(Math.max(...bandingOf(steps(40)))).toBe(0);
  });

  it('counts only where it was not before', () => {
    const banded = luma((x) => 80 + 3 * Math.floor(x / 48));
    expect(share(bandingSpots(dithered, banded))).toBeGreaterThan(0.2);
    expect(share(bandingSpots(banded, banded))).toBe(0);
    expect(share(bandingSpots(dithered, dithered))).toBe(0);
    expect(SEEN_BANDING).toBeGreaterThan(0.25);
  });
});

describe('blocks', () => {
  const even = luma(() => 100);
  const offset = (by: number) => luma((x, y) => 100 + ((Math.floor(x / 8) + Math.floor(y / 8)) % 2 ? by : -by));

  it('are seen where every one is off its neighbours by more than the ground hides', () => {
    expect(blockSpots(even, offset(SEEN_BLOCK / 2 + 0.1)).share).toBe(1);
    expect(blockSpots(even, offset(SEEN_BLOCK / 2 - 0.1)).share).toBe(0);
    // On restless ground the same step is hidden.
    const unrest = (x: number, y: number) => 12 * ((x * 31 + y * 17) % 2);
    const busy = luma((x, y) => 100 + unrest(x, y));
    const after = luma((x, y) => 100 + unrest(x, y) + ((Math.floor(x / 8) + Math.floor(y / 8)) % 2 ? 1.5 : -1.5));
    expect(blockSpots(busy, after).share).toBe(0);
  });

  it('are those of the file, wherever the part was cut; a step that the picture has itself is none', () => {
    const cut = (by: number) => luma((x, y) => 100 + ((Math.floor((x + by) / 8) + Math.floor((y + by) / 8)) % 2 ? 3 : -3));
    expect(blockSpots(even, cut(5), { left: 5, top: 5 }).share).toBe(1);
    expect(blockSpots(even, cut(5), { left: 4, top: 4 }).share).toBe(0);
    expect(blockSpots(offset(20), offset(20)).share).toBe(0);
  });
});
