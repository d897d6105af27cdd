import { describe, expect, it } from 'vitest';
import { toEightBits } from '../colour/dither';
import { bandingShare, bandingSpots, ownBandingSpots, SEEN_BAND } from './banding';
import { blockSpots, SEEN_BLOCK } from './blocks';
import type { Luma } from './ms-ssim';
import { regionsOf } from './regions';

const [width, height] = [192, 96];
const size = { width, height };
const luma = (at: (x: number, y: number) => number): Luma => ({
  width,
  height,
  values: Float32Array.from({ length: width * height }, (_, i) => at(i % width, Math.floor(i / width))),
});
/** The same numbers every time, -0.5 to 0.5. */
const grain = (x: number, y: number) => ((Math.imul(x * 7919 + y * 104_729, 2654435761) >>> 8) % 1000) / 1000 - 0.5;
/** A ramp of one level in 16 px, as the engine rounds it. */
const ramp = Uint16Array.from({ length: width * height }, (_, i) => 257 * (80 + (i % width) / 16));
const dithered: Luma = { ...size, values: Float32Array.from(toEightBits(ramp, true)) };
const steps = (levels: number) => luma((x) => 80 + levels * Math.floor(x / 64));

describe('banding', () => {
  it('is a step of at least two levels between even strips, where there was an even slope before', () => {
    const banded = luma((x) => 80 + 3 * Math.floor((x + 24) / 48));
    const regions = regionsOf(bandingSpots(dithered, banded), size);
    // The strips change at 24, 72, 120 and 168.
    expect(regions.map(({ left, width: wide }) => Math.round((left + wide / 2 - 24) / 48))).toEqual([0, 1, 2, 3]);
    for (const { height: long } of regions) expect(long).toBeGreaterThan(80);
    expect(bandingShare(dithered, banded)).toBeGreaterThan(0.02);
    // A step of one level is what 8 bits are.
    expect(SEEN_BAND.added).toBeGreaterThan(1);
    expect(
      bandingShare(
        dithered,
        luma((x) => 80 + Math.floor(x / 16)),
      ),
    ).toBe(0);
  });

  it('is none in what the picture had itself, in texture, at edges, or on ground whose grain hides it', () => {
    expect(bandingShare(dithered, dithered)).toBe(0);
    expect(bandingShare(steps(3), steps(3))).toBe(0);
    expect(
      bandingShare(
        luma(() => 80),
        steps(40),
      ),
    ).toBe(0);
    const textured = luma((x, y) => 80 + 30 * grain(Math.floor(x / 6), Math.floor(y / 6)));
    expect(bandingShare(textured, steps(3))).toBe(0);
    const stepped = steps(3);
    const grained = luma((x, y) => stepped.values[y * width + x]! + 16 * grain(x, y));
    expect(
      bandingShare(
        luma((x, y) => 80 + x / 32 + 16 * grain(x, y)),
        grained,
      ),
    ).toBe(0);
  });

  it('of the picture itself is told apart', () => {
    expect(ownBandingSpots(steps(4)).some(Boolean)).toBe(true);
    expect(ownBandingSpots(dithered).some(Boolean)).toBe(false);
    expect(ownBandingSpots(luma((x, y) => 90 + 41 * grain(x, y))).some(Boolean)).toBe(false);
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
