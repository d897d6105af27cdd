import { linearOfLab } from '../colour/gamut';
import { linearTable } from '../colour/curves';
import type { Lab } from '../colour/ciede2000';
import { apply, type Row } from '../colour/matrix';
import { between, GAMUT_TOLERANCE } from '../colour/matrix-transform';
import type { RgbSpace } from '../colour/spaces';
import type { Raster } from '../raster';
import { HALO_GROUND, SEEN_HALO, standsOut } from '../sharpen/halo';
import type { PixelSize } from '../size/geometry';
import { longOnly } from './regions';
import type { Rgb8 } from './visible-difference';

/*
 * Where in a picture something is to be seen: one byte per pixel, 1 for a spot.
 */

const FULL = 65_535;

/** A line of spots that is shorter is no halo, px: fitted with the limits of {@link standsOut}. */
const LEAST_LINE = 8;

/**
 * Where sharpening drew halos that are seen: luma beyond the range that the 3 x 3 px around had before, in a line that stands out against its
 * surroundings. {@link HaloMeter} takes the same measure, along one row of sixteen.
 * @param before and @param after grey, RGB or CMYK of 16 bits
 */
export function haloSpots(before: Raster<Uint16Array>, after: Raster<Uint16Array>): Uint8Array {
  const { width, height } = before;
  const [was, is] = [lumaOf(before), lumaOf(after)];
  const spots = new Uint8Array(width * height);
  for (let y = 1; y < height - 1; y++)
    for (let x = 1; x < width - 1; x++) {
      const at = y * width + x;
      const sign = is[at]! > was[at]! ? 1 : -1;
      if (Math.abs(is[at]! - was[at]!) < SEEN_HALO * FULL) continue;
      let [low, high] = [Infinity, -Infinity];
      for (let row = -1; row <= 1; row++)
        for (let column = -1; column <= 1; column++) {
          const value = was[(y + row) * width + x + column]!;
          if (value < low) low = value;
          if (value > high) high = value;
        }
      const over = sign > 0 ? is[at]! - high : low - is[at]!;
      if (over < SEEN_HALO * FULL) continue;
      const along = x >= HALO_GROUND && x < width - HALO_GROUND && standsOut(was, at, 1, over, sign, FULL);
      const down = y >= HALO_GROUND && y < height - HALO_GROUND && standsOut(was, at, width, over, sign, FULL);
      if (along || down) spots[at] = 1;
    }
  return longOnly(spots, before, LEAST_LINE);
}

/** Luma on the scale of 16 bits, as the unsharp mask takes it. */
function lumaOf({ width, height, channels, pixels }: Raster<Uint16Array>): Float32Array {
  const luma = new Float32Array(width * height);
  for (let pixel = 0, at = 0; pixel < luma.length; pixel++, at += channels) {
    if (channels === 1) luma[pixel] = pixels[at]!;
    else if (channels === 3) luma[pixel] = 0.2126 * pixels[at]! + 0.7152 * pixels[at + 1]! + 0.0722 * pixels[at + 2]!;
    else {
      const light = 1 - pixels[at + 3]! / FULL;
      luma[pixel] = light * (0.2126 * (FULL - pixels[at]!) + 0.7152 * (FULL - pixels[at + 1]!) + 0.0722 * (FULL - pixels[at + 2]!));
    }
  }
  return luma;
}

const isOutside = (rgb: Row): boolean => rgb.some((value) => value < -GAMUT_TOLERANCE || value > 1 + GAMUT_TOLERANCE);

/** Where a picture of a matrix space holds colours that a target cannot. @param pixels RGB of 16 bits */
export function outsideSpots(pixels: Uint16Array, source: RgbSpace, target: RgbSpace): Uint8Array {
  const matrix = between(source, target);
  const tables = source.curves.map(linearTable);
  const light = (at: number, channel: number) => tables[channel]![pixels[at + channel]!]!;
  return Uint8Array.from({ length: pixels.length / 3 }, (_, pixel) =>
    isOutside(apply(matrix, [light(3 * pixel, 0), light(3 * pixel, 1), light(3 * pixel, 2)])) ? 1 : 0,
  );
}

/** The same of colours that are known as CIELAB of D50. */
export const outsideSpotsOfLab = (colours: readonly Lab[], target: RgbSpace): Uint8Array =>
  Uint8Array.from(linearOfLab(colours, target), (rgb) => (isOutside(rgb) ? 1 : 0));

/**
 * Where a picture has reached the end of its scale: at least one of a pixel's channels is as bright, or as dark, as it can be.
 * @param picture RGB or grey of 8 or 16 bits
 */
export function clippedSpots({ pixels, channels }: Raster, end: 'highlights' | 'shadows'): Uint8Array {
  const limit = end === 'shadows' ? 0 : pixels instanceof Uint8Array ? 255 : FULL;
  const colours = Math.min(3, channels);
  const spots = new Uint8Array(pixels.length / channels);
  for (let pixel = 0, at = 0; pixel < spots.length; pixel++, at += channels)
    for (let channel = 0; channel < colours; channel++) if (pixels[at + channel] === limit) spots[pixel] = 1;
  return spots;
}

/** How many times a difference is drawn as large as it is. */
export const DIFFERENCE_FACTOR = 8;

/** The difference of two pictures as a picture: mid grey where there is none, {@link DIFFERENCE_FACTOR} times as large as it is. */
export function differencePicture(before: Rgb8, after: Rgb8): Uint8ClampedArray {
  const out = new Uint8ClampedArray(before.pixels.length);
  for (let at = 0; at < out.length; at++) out[at] = 128 + DIFFERENCE_FACTOR * (after.pixels[at]! - before.pixels[at]!);
  return out;
}

/** Spots of a picture that is shown smaller: one of them is enough for a pixel. */
export function pooledSpots(spots: Uint8Array, from: PixelSize, to: PixelSize): Uint8Array {
  const pooled = new Uint8Array(to.width * to.height);
  for (let y = 0; y < from.height; y++)
    for (let x = 0; x < from.width; x++)
      if (spots[y * from.width + x])
        pooled[Math.floor((y * to.height) / from.height) * to.width + Math.floor((x * to.width) / from.width)] = 1;
  return pooled;
}

/** A line around spots, a little off them, so that they stay in sight. */
export function outlinedSpots(spots: Uint8Array, size: PixelSize): Uint8Array {
  const [inner, outer] = [dilated(spots, size, 2), dilated(spots, size, 3)];
  return outer.map((value, at) => (value && !inner[at] ? 1 : 0));
}

/** Slanting lines over spots, px apart. */
export const hatchedSpots = (spots: Uint8Array, { width }: PixelSize): Uint8Array =>
  spots.map((value, at) => (value && ((at % width) + Math.floor(at / width)) % 7 < 2 ? 1 : 0));

function dilated(spots: Uint8Array, { width, height }: PixelSize, by: number): Uint8Array {
  const out = new Uint8Array(spots.length);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      if (!spots[y * width + x]) continue;
      for (let row = Math.max(0, y - by); row <= Math.min(height - 1, y + by); row++)
        out.fill(1, row * width + Math.max(0, x - by), row * width + Math.min(width, x + by + 1));
    }
  return out;
}

/** Side of the window in which spots are counted, px, and how far the next one is. */
const WINDOW = 64;
const STRIDE = 32;

/**
 * Where most spots lie together.
 * @param spots one for each pixel, 0: none there; more: how much
 * @returns the middle of the window that has the most, px; null: there are none
 */
export function densestPlace(spots: Uint8Array, { width, height }: PixelSize): { x: number; y: number } | null {
  const [across, down] = [Math.ceil(width / STRIDE), Math.ceil(height / STRIDE)];
  const counts = new Float64Array(across * down);
  for (let y = 0; y < height; y++) {
    const row = Math.floor(y / STRIDE) * across;
    for (let x = 0; x < width; x++) counts[row + Math.floor(x / STRIDE)]! += spots[y * width + x]!;
  }
  const half = WINDOW / STRIDE;
  let [most, place]: [number, { x: number; y: number } | null] = [0, null];
  for (let row = 0; row < down; row++)
    for (let column = 0; column < across; column++) {
      let sum = 0;
      for (let y = row; y < Math.min(down, row + half); y++)
        for (let x = column; x < Math.min(across, column + half); x++) sum += counts[y * across + x]!;
      if (sum > most)
        [most, place] = [sum, { x: Math.min(width, column * STRIDE + WINDOW / 2), y: Math.min(height, row * STRIDE + WINDOW / 2) }];
    }
  return place;
}
