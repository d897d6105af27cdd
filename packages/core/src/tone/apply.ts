import { type Curve, encodeTable, linearTable } from '../colour/curves';
import { apply, invert, type Matrix, multiply, type Row } from '../colour/matrix';
import { D65_TO_D50, type RgbSpace } from '../colour/spaces';
import { workspace } from '../kernels/kernels';
import type { Raster } from '../raster';
import { lightnessCurve, lightnessOf, lightOf } from './lightness';
import { localContrast } from './local-contrast';
import type { Points } from './points';
import type { Tone } from './schema';
import { warmthMatrix } from './warmth';

/*
 * The order of a tone, on the picture at its size, in linear light of the picture's own primaries:
 * 1. points: (v - black) / (white - black) in each channel;
 * 2. exposure: times 2^EV; warmth: Bradford along daylight (warmth.ts);
 * 3. the curve of shadows, highlights, gamma and contrast on the lightness L* of what came of it (lightness.ts); the three channels are multiplied
 *    alike by how much luminance changes, so that hue and purity of the light stay;
 * 4. local contrast on that lightness (local-contrast.ts), carried out in the same multiplication;
 * 5. saturation: chroma in Oklab times 1 + s;
 * 6. what lies outside the space goes towards grey of the same luminance until it fits.
 * Sharpening before the size comes before all of this, on the master.
 */

const LEVELS = 65_536;
const MOST = LEVELS - 1;
/** Steps of the tables over the square root of light that loops read, straight between two values. */
const STEPS = 8192;
/** Pixels that are worked on at a time. */
const PIECE = 8192;

/**
 * Oklab (Bjoern Ottosson, A perceptual color space for image processing, 2020): XYZ of D65 to cone responses, whose cube roots l, m, s give the lightness
 * 0.2104542553 l + 0.7936177850 m - 0.0040720468 s. Chroma changes by the distances of l, m and s from that lightness.
 */
const XYZ_TO_LMS: Matrix = [
  [0.8189330101, 0.3618667424, -0.1288597137],
  [0.0329845436, 0.9293118715, 0.0361456387],
  [0.0482003018, 0.2643662691, 0.633851707],
];
const LMS_LIGHTNESS: Row = [0.2104542553, 0.793617785, -0.0040720468];

/** A row whose values sum to 1, so that grey stays grey to the last bit. */
const summingToOne = ([a, b, c]: Row): Row => [a / (a + b + c), b / (a + b + c), c / (a + b + c)];

/** A matrix as loops read it: its columns, each in four lanes. */
const columnsOf = (matrix: Matrix): number[] => [0, 1, 2].flatMap((at) => [...matrix.map((row) => row[at]!), 0]);

/** What a pixel goes through first, and what its luminance is. */
function firstStep({ exposure, warmth }: Pick<Tone, 'exposure' | 'warmth'>, { black, white }: Points, { toXyz }: RgbSpace): number[] {
  const warmed = warmth === 0 ? IDENTITY : multiply(invert(toXyz), multiply(warmthMatrix(warmth), toXyz));
  const gain = 2 ** exposure / (white - black);
  const matrix = warmed.map((row) => row.map((value) => gain * value)) as unknown as Matrix;
  const added = apply(matrix, [-black, -black, -black]);
  return [...columnsOf(matrix), ...added, 0, ...summingToOne(toXyz[1]), 0];
}

const IDENTITY: Matrix = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
];

function chromaStep(saturation: number, { toXyz }: RgbSpace): number[] {
  const rows = multiply(XYZ_TO_LMS, multiply(invert(D65_TO_D50), toXyz));
  const toLms = rows.map(summingToOne) as unknown as Matrix;
  const back = invert(toLms).map(summingToOne) as unknown as Matrix;
  return [...columnsOf(toLms), ...summingToOne(LMS_LIGHTNESS), 0, ...columnsOf(back), ...Array<number>(4).fill(1 + saturation)];
}

/** Tables that were used last: the next picture has the same tone, and often the same space. */
const kept = new Map<string, Float32Array>();
const MOST_KEPT = 12;

/** One more than the steps: what lies behind the last is read, and counts for nothing. @param of the value at a share of 0-1 */
const sampled = (of: (share: number) => number): Float32Array =>
  Float32Array.from({ length: STEPS + 2 }, (_, step) => of(Math.min(1, step / STEPS)));

function table(key: string, of: (share: number) => number): Float32Array {
  const known = kept.get(key) ?? sampled(of);
  kept.delete(key);
  kept.set(key, known);
  for (const oldest of kept.keys()) if (kept.size > MOST_KEPT) kept.delete(oldest);
  return known;
}

const bends = ({ shadows, highlights, gamma, contrast }: Tone): string => JSON.stringify([shadows, highlights, gamma, contrast]);

/** By the square root of luminance: how much its light is multiplied. */
function ratios(tone: Tone): Float32Array {
  const curve = lightnessCurve(tone);
  return table(`ratios ${bends(tone)}`, (root) => {
    const light = Math.max(0.25 / STEPS, root) ** 2;
    return lightOf(curve(lightnessOf(light))) / light;
  });
}

/** By the square root of luminance: its lightness, 0-65,535. */
function lightnessByRoot(tone: Tone): Float32Array {
  const curve = lightnessCurve(tone);
  return table(`lightness ${bends(tone)}`, (root) => MOST * curve(lightnessOf(root ** 2)));
}

let lights: Float32Array | undefined;
/** By lightness of 16 bits: luminance. */
const lightByLightness = () => (lights ??= Float32Array.from({ length: LEVELS }, (_, lightness) => lightOf(lightness / MOST)));

/**
 * Carries out a tone, but for the sharpening before the size.
 * @param raster RGB or grey of 16 bits, which stays as it is
 * @param space what its numbers mean; of grey only the first curve counts
 * @returns the picture with the tone, in the same space
 */
export function applyTone(raster: Raster<Uint16Array>, tone: Tone, points: Points, space: RgbSpace): Raster<Uint16Array> {
  return raster.channels === 1 ? toneOfGrey(raster, tone, points, space.curves[0]) : toneOfRgb(raster, tone, points, space);
}

function toneOfRgb(raster: Raster<Uint16Array>, tone: Tone, points: Points, space: RgbSpace): Raster<Uint16Array> {
  const { pixels, ...about } = raster;
  const local = tone.local && tone.local.amount !== 0 ? tone.local : null;
  let lightness: Uint16Array | null = null;
  if (local) {
    const plane = (lightness = new Uint16Array(pixels.length / 3));
    const { memory, at, inPieces } = prepared(raster, tone, points, space);
    const curve = memory.put(lightnessByRoot(tone));
    const made = memory.reserve(2 * PIECE);
    inPieces((count, start) => {
      memory.loops.toneLightness(at.from, count, at.tables, at.stride, at.values, curve, made);
      plane.set(memory.words(made, count), start);
    });
    localContrast(plane, about.width, about.height, local.amount, local.radius);
  }
  const { memory, at, inPieces } = prepared(raster, tone, points, space);
  const [bent, lights] = lightness ? [0, memory.put(lightByLightness())] : [memory.put(ratios(tone)), 0];
  const own = lightness ? memory.reserve(2 * PIECE) : 0;
  const to = memory.reserve(6 * PIECE);
  const out = new Uint16Array(pixels.length);
  inPieces((count, start) => {
    if (lightness) memory.fill(own, lightness.subarray(start, start + count));
    memory.loops.toneRgb(
      at.from,
      count,
      at.tables,
      at.stride,
      at.values,
      bent,
      own,
      lights,
      tone.saturation !== 0,
      at.encode,
      at.encodeStride,
      to,
    );
    out.set(memory.words(to, 3 * count), 3 * start);
  });
  return { ...about, pixels: out };
}

/** What both loops need, in an empty memory. */
function prepared({ pixels }: Raster<Uint16Array>, tone: Tone, points: Points, space: RgbSpace) {
  const memory = workspace();
  // One table for all, where all have the same: more of it stays at hand.
  const curves = space.curves.every((one) => one === space.curves[0]) ? space.curves.slice(0, 1) : space.curves;
  const [tables, encode] = [new Float32Array(curves.length * LEVELS), new Uint16Array(curves.length * LEVELS)];
  for (const [channel, curve] of curves.entries()) {
    tables.set(linearTable(curve), channel * LEVELS);
    encode.set(encodeTable(curve), channel * LEVELS);
  }
  const chroma = tone.saturation === 0 ? [] : chromaStep(tone.saturation, space);
  const isShared = curves.length === 1;
  const at = {
    stride: isShared ? 0 : 4 * LEVELS,
    encodeStride: isShared ? 0 : 2 * LEVELS,
    tables: memory.put(tables),
    values: memory.put(Float32Array.from([...firstStep(tone, points, space), ...chroma])),
    encode: memory.put(encode),
    from: memory.reserve(6 * PIECE),
  };
  const inPieces = (work: (count: number, start: number) => void) => {
    for (let start = 0; start < pixels.length; start += 3 * PIECE) {
      const piece = pixels.subarray(start, start + 3 * PIECE);
      memory.fill(at.from, piece);
      work(piece.length / 3, start / 3);
    }
  };
  return { memory, at, inPieces };
}

/** Grey has neither warmth nor chroma. */
function toneOfGrey({ pixels, ...about }: Raster<Uint16Array>, tone: Tone, { black, white }: Points, curve: Curve): Raster<Uint16Array> {
  const gain = 2 ** tone.exposure / (white - black);
  const bend = lightnessCurve(tone);
  const lightness = Uint16Array.from(linearTable(curve), (light) =>
    Math.round(MOST * bend(lightnessOf(Math.min(1, Math.max(0, gain * (light - black)))))),
  );
  const plane = pixels.map((value) => lightness[value]!);
  if (tone.local && tone.local.amount !== 0) localContrast(plane, about.width, about.height, tone.local.amount, tone.local.radius);
  const encode = encodeTable(curve);
  const back = Uint16Array.from({ length: LEVELS }, (_, value) => encode[Math.round(Math.sqrt(lightOf(value / MOST)) * MOST)]!);
  return { ...about, pixels: plane.map((value) => back[value]!) };
}
