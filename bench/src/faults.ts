import {
  bandingSpots,
  haloSpots,
  type Luma,
  lumaOf,
  ownBandingSpots,
  type PixelSize,
  type Raster,
  regionsOf,
  toEightBits,
  unsharpMask,
  type UnsharpMask,
} from '@rundle/core';
import sharp from 'sharp';
import { figureRow } from './measure';
import { photographs } from './pictures';
import type { Row } from './report';

/*
 * Halos and bands: how many of those that were put into photographs are found, and how many are told of photographs that have none. The limits of
 * core were fitted on every other photograph; the rest only looks on.
 */

/** Long edge at which the photographs are looked at, px. */
const EDGE = 1600;
/** Regions of each kind that are put into a photograph at most. */
const EACH = 20;
const FULL = 65_535;
/** What starter presets and the default sharpen by. */
const USUAL: readonly UnsharpMask[] = [
  { amount: 0.7, radius: 0.8, threshold: 0.01 },
  { amount: 0.8, radius: 0.7, threshold: 0.01 },
  { amount: 0.5, radius: 1, threshold: 0.01 },
];

interface Found {
  found: number;
  of: number;
}

interface Tally {
  megapixels: number;
  bands: Found;
  faintBands: Found;
  halos: Found;
  faintHalos: Found;
  /** Regions that are told and were not put in: of halos per usual sharpening, of bands in JPEGs of quality 85, of the photograph's own. */
  falseHalos: number;
  falseBands: number;
  ownBands: number;
}

export async function faults(): Promise<Row[]> {
  const tallies = [0, 1].map((): Tally => ({
    megapixels: 0,
    bands: { found: 0, of: 0 },
    faintBands: { found: 0, of: 0 },
    halos: { found: 0, of: 0 },
    faintHalos: { found: 0, of: 0 },
    falseHalos: 0,
    falseBands: 0,
    ownBands: 0,
  }));
  let at = 0;
  for (const [, path] of await photographs()) await lookAt(path, tallies[at++ % 2]!);
  return tallies.flatMap((tally, half) =>
    rowsOf(tally, half === 0 ? 'photographs that the limits were fitted on' : 'the other photographs'),
  );
}

function rowsOf({ megapixels, bands, faintBands, halos, faintHalos, falseHalos, falseBands, ownBands }: Tally, of: string): Row[] {
  const percent = ({ found, of: all }: Found) => (100 * found) / all;
  const perTen = (regions: number) => (10 * regions) / megapixels;
  const most = (figure: number) => figure <= 1;
  return [
    figureRow(`${bands.of} bands of 3 to 4 levels put into ${of}: found, percent`, percent(bands), '>= 95', (figure) => figure >= 95),
    figureRow(`${faintBands.of} bands of 2.5 levels: found, percent`, percent(faintBands), 'reported', () => true),
    figureRow(`${halos.of} halos of 12 to 20 % put into ${of}: found, percent`, percent(halos), '>= 95', (figure) => figure >= 95),
    figureRow(`${faintHalos.of} halos of 10 %: found, percent`, percent(faintHalos), 'reported', () => true),
    figureRow(`Halos told of ${of}, usual sharpening, regions per 10 megapixels`, perTen(falseHalos / USUAL.length), '<= 1', most),
    figureRow(`Bands told of ${of} as JPEG of quality 85, regions per 10 megapixels`, perTen(falseBands), '<= 1', most),
    figureRow(`Bands of their own told of ${of}, regions per 10 megapixels`, perTen(ownBands), 'reported', () => true),
  ];
}

async function lookAt(path: string, tally: Tally): Promise<void> {
  const photograph = await opened(path);
  const { width, height } = photograph;
  tally.megapixels += (width * height) / 1e6;
  const random = numbers(width * 7 + height);
  const eight = toEightBits(photograph.pixels, true);
  const luma = lumaOf({ width, height, pixels: eight });
  tally.ownBands += regionsOf(ownBandingSpots(luma), luma).length;
  const jpeg = await sharp(eight, { raw: { width, height, channels: 3 } })
    .jpeg({ quality: 85 })
    .toBuffer();
  const decoded = await sharp(jpeg).removeAlpha().raw().toBuffer();
  tally.falseBands += regionsOf(bandingSpots(luma, lumaOf({ width, height, pixels: decoded })), luma).length;
  for (const mask of USUAL) {
    const sharpened = { ...photograph, pixels: photograph.pixels.slice() };
    unsharpMask(sharpened, mask);
    tally.falseHalos += regionsOf(haloSpots(photograph, sharpened), photograph).length;
  }
  bandsIn(luma, random, tally);
  halosIn(photograph, random, tally);
}

async function opened(path: string): Promise<Raster<Uint16Array>> {
  const { data, info } = await sharp(path)
    .rotate()
    .resize({ width: EDGE, height: EDGE, fit: 'inside', withoutEnlargement: true })
    .toColourspace('rgb16')
    .removeAlpha()
    .raw({ depth: 'ushort' })
    .toBuffer({ resolveWithObject: true });
  const pixels = new Uint16Array(data.buffer, data.byteOffset, data.length / 2);
  return { width: info.width, height: info.height, channels: 3, pixels };
}

/** The same numbers every time, 0 to 1 (a linear congruential generator, Knuth's MMIX constants cut to 32 bits). */
function numbers(seed: number): () => number {
  let state = seed >>> 0;
  return () => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 2 ** 32;
}

/** A patch into which a band is put, and how far the patch reaches beyond it, px. */
const PATCH = 120;
const STEPS = [2.5, 3, 3, 4];
/** What is plain from here on. */
const PLAIN = { band: 3, halo: 0.12 };
const ANGLES = [0, Math.PI / 2, Math.PI / 6, Math.PI / 3, Math.PI / 4];

/** Puts steps into smooth ground, as an encoder does that has taken its grain: what is even within a level and whose grain is below 2.5 levels. */
function bandsIn(luma: Luma, random: () => number, { bands, faintBands }: Tally): void {
  const { width, height, values } = luma;
  for (let put = 0, tries = 0; put < EACH && tries < 40_000; tries++) {
    const left = Math.floor(random() * (width - PATCH));
    const top = Math.floor(random() * (height - PATCH));
    if (!isSmooth(luma, left + 20, top + 20, PATCH - 40)) continue;
    const [step, angle] = [STEPS[put % STEPS.length]!, ANGLES[put % ANGLES.length]!];
    const [before, after] = [new Float32Array(PATCH * PATCH), new Float32Array(PATCH * PATCH)];
    for (let y = 0; y < PATCH; y++)
      for (let x = 0; x < PATCH; x++) {
        before[y * PATCH + x] = values[(top + y) * width + left + x]!;
        const across = (x - PATCH / 2) * Math.cos(angle) + (y - PATCH / 2) * Math.sin(angle);
        const edge = Math.max(Math.abs(x - PATCH / 2), Math.abs(y - PATCH / 2));
        // It fades away to all sides, so that nothing but its own line is a step.
        const fade = Math.max(0, Math.min(1, (PATCH / 2 - 6 - edge) / 16)) * Math.max(0, Math.min(1, 1 - (Math.abs(across) - 10) / 40));
        after[y * PATCH + x] = Math.round(meanAround(luma, left + x, top + y, 3) + ((across >= 0 ? step : -step) / 2) * fade);
      }
    const size: PixelSize = { width: PATCH, height: PATCH };
    const tally = step >= PLAIN.band ? bands : faintBands;
    if (bandingSpots({ ...size, values: before }, { ...size, values: after }).some(Boolean)) tally.found++;
    tally.of++;
    put++;
  }
}

function meanAround({ width, height, values }: Luma, x: number, y: number, reach: number): number {
  let sum = 0;
  for (let dy = -reach; dy <= reach; dy++)
    for (let dx = -reach; dx <= reach; dx++)
      sum += values[Math.min(height - 1, Math.max(0, y + dy)) * width + Math.min(width - 1, Math.max(0, x + dx))]!;
  return sum / (2 * reach + 1) ** 2;
}

/** Whether a square differs from an even slope by a level at most, in means of 9 x 9 px, and has little grain. */
function isSmooth(luma: Luma, left: number, top: number, side: number): boolean {
  const GRID = 11;
  const points = Array.from({ length: GRID * GRID }, (_, at) => {
    const [column, row] = [at % GRID, Math.floor(at / GRID)];
    const [x, y] = [left + Math.floor((column * side) / GRID), top + Math.floor((row * side) / GRID)];
    const grain = Math.abs(luma.values[y * luma.width + x]! - luma.values[y * luma.width + x + 1]!);
    return { u: column - (GRID - 1) / 2, v: row - (GRID - 1) / 2, mean: meanAround(luma, x, y, 4), grain };
  });
  const mean = points.reduce((sum, point) => sum + point.mean, 0) / points.length;
  // Least squares on a centred grid: both slopes stand alone.
  const squares = points.reduce((sum, { u }) => sum + u * u, 0);
  const slope = (along: 'u' | 'v') => points.reduce((sum, point) => sum + point[along] * point.mean, 0) / squares;
  const [across, down] = [slope('u'), slope('v')];
  const rest = points.reduce((sum, { u, v, mean: own }) => sum + (own - mean - across * u - down * v) ** 2, 0) / points.length;
  const grain = points.reduce((sum, point) => sum + point.grain, 0) / points.length;
  return rest <= 1 && grain <= 2.5 && Math.abs(across) + Math.abs(down) <= 1.6 && mean >= 12 && mean <= 240;
}

/** Half the side of a patch into which a halo is put, and half the length of the halo, px. */
const ROOM = 30;
const LONG = 12;
const OVERSHOOTS = [0.1, 0.12, 0.15, 0.2];
/** Height of the edge that is put in with it, share of full scale. */
const HARD = 0.35;
const SIDES = [
  [1, 0],
  [-1, 0],
  [0, 1],
  [0, -1],
] as const;

/** Puts hard edges and bright or dark lines beside them onto quiet ground: from pixel to pixel it changes by a tenth of the overshoot at most. */
function halosIn(photograph: Raster<Uint16Array>, random: () => number, { halos, faintHalos }: Tally): void {
  const { width, height, pixels } = photograph;
  const lumaAt = (x: number, y: number) => {
    const at = 3 * (y * width + x);
    return (0.2126 * pixels[at]! + 0.7152 * pixels[at + 1]! + 0.0722 * pixels[at + 2]!) / FULL;
  };
  for (let put = 0, tries = 0; put < EACH && tries < 20_000; tries++) {
    const [x, y] = [width, height].map((side) => ROOM + Math.floor(random() * (side - 2 * ROOM))) as [number, number];
    const [dx, dy] = SIDES[put % SIDES.length]!;
    const over = OVERSHOOTS[put % OVERSHOOTS.length]!;
    // Where there is room for it: a bright line on the bright side of an edge, or a dark one on the dark side.
    const sign = lumaAt(x, y) > 0.5 ? 1 : -1;
    let unrest = 0;
    let hasRoom = true;
    for (let along = -LONG; along <= LONG; along++)
      for (let far = 0; far <= 7; far++) {
        const [px, py] = [x + Math.abs(dy) * along + far * dx, y + Math.abs(dx) * along + far * dy];
        const here = lumaAt(px, py);
        hasRoom &&= here + sign * over >= 0 && here + sign * over <= 1;
        if (far > 0) unrest += Math.abs(here - lumaAt(px - dx, py - dy)) / (7 * (2 * LONG + 1));
      }
    if (!hasRoom || unrest > over / 10) continue;
    const before = withEdge(photograph, x, y, dx, dy, sign);
    const after = { ...before, pixels: before.pixels.slice() };
    for (let along = -LONG; along <= LONG; along++)
      for (const [far, share] of [
        [0, 1],
        [1, 0.6],
      ] as const) {
        const pixel = (ROOM + Math.abs(dx) * along + far * dy) * 2 * ROOM + ROOM + Math.abs(dy) * along + far * dx;
        add(after.pixels, pixel, sign * share * over);
      }
    const tally = over >= PLAIN.halo ? halos : faintHalos;
    if (haloSpots(before, after).some(Boolean)) tally.found++;
    tally.of++;
    put++;
  }
}

/** A patch of a photograph around a place, with an edge right behind that: half a step high in the pixel next to it, whole from there on. */
function withEdge({ width, pixels }: Raster<Uint16Array>, x: number, y: number, dx: number, dy: number, sign: number): Raster<Uint16Array> {
  const size = 2 * ROOM;
  const patch = new Uint16Array(3 * size * size);
  for (let row = 0; row < size; row++) {
    const from = 3 * ((y - ROOM + row) * width + x - ROOM);
    patch.set(pixels.subarray(from, from + 3 * size), 3 * row * size);
  }
  for (let row = 0; row < size; row++)
    for (let column = 0; column < size; column++) {
      const behind = -((column - ROOM) * dx + (row - ROOM) * dy);
      if (behind > 0) add(patch, row * size + column, (-sign * HARD * Math.min(2, behind)) / 2);
    }
  return { width: size, height: size, channels: 3, pixels: patch };
}

/** Makes a pixel brighter or darker by a share of full scale. */
function add(pixels: Uint16Array, pixel: number, share: number): void {
  for (let at = 3 * pixel; at < 3 * pixel + 3; at++) pixels[at] = Math.max(0, Math.min(FULL, Math.round(pixels[at]! + share * FULL)));
}
