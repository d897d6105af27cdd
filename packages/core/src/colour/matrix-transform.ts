import { linearToSrgb, srgbToLinear } from './curves';
import type { IccProfile, Matrix, Row } from './icc-profile';

type MatrixProfile = NonNullable<IccProfile['matrix']>;

/** sRGB to XYZ of D50, chromatically adapted by the linear Bradford transform: the columns of ICC's own sRGB profiles. */
const SRGB_TO_XYZ: Matrix = [
  [0.4360747, 0.3850649, 0.1430804],
  [0.2225045, 0.7168786, 0.0606169],
  [0.0139322, 0.0971045, 0.7141733],
];

/** sRGB as a matrix profile: what an untagged master is taken for, and the usual target. */
export const SRGB: MatrixProfile = { toXyz: SRGB_TO_XYZ, curves: [srgbToLinear, srgbToLinear, srgbToLinear] };

/**
 * Whether converting from this profile to sRGB would change nothing worth a step of 8 bits: its matrix lies within 0.001
 * and its curves within 0.001 of sRGB's.
 */
export function isSrgb({ toXyz, curves }: MatrixProfile): boolean {
  const matrixAgrees = toXyz.every((row, r) => row.every((value, c) => Math.abs(value - (SRGB_TO_XYZ[r]?.[c] ?? 0)) < 0.001));
  const steps = Array.from({ length: 33 }, (_, index) => index / 32);
  return matrixAgrees && curves.every((curve) => steps.every((step) => Math.abs(curve(step) - srgbToLinear(step)) < 0.001));
}

/** Steps of linear light in the table that encodes sRGB: its curve starts straight, so even steps are fine enough. */
const STEPS = 65_535;

/** Share of pixels that the target could not hold before they were clipped, 0-1. */
export interface Clipping {
  share: number;
}

/**
 * Converts a picture of a matrix profile to sRGB: relative colorimetric, which for matrix profiles is the curve, the
 * product of the matrices and the target's curve (ICC.1:2022, annex F.3). Black-point compensation changes nothing, since
 * the black of both is 0.
 * @param pixels RGB interleaved, 8 or 16 bits per channel
 * @returns RGB interleaved with 16 bits per channel, and how many pixels were clipped
 */
export function matrixToSrgb(pixels: Uint8Array | Uint16Array, source: MatrixProfile): { pixels: Uint16Array; clipping: Clipping } {
  const full = pixels instanceof Uint8Array ? 255 : 65_535;
  const [red, green, blue] = source.curves.map((curve) => linearTable(curve, full)) as [Float32Array, Float32Array, Float32Array];
  const [m0, m1, m2] = multiply(invert(SRGB_TO_XYZ), source.toXyz);
  const encode = srgbTable();
  const out = new Uint16Array(pixels.length);
  let clipped = 0;
  for (let at = 0; at < pixels.length; at += 3) {
    const r = red[pixels[at]!]!;
    const g = green[pixels[at + 1]!]!;
    const b = blue[pixels[at + 2]!]!;
    const toR = m0[0] * r + m0[1] * g + m0[2] * b;
    const toG = m1[0] * r + m1[1] * g + m1[2] * b;
    const toB = m2[0] * r + m2[1] * g + m2[2] * b;
    if (outside(toR) || outside(toG) || outside(toB)) clipped++;
    out[at] = encode[index(toR)]!;
    out[at + 1] = encode[index(toG)]!;
    out[at + 2] = encode[index(toB)]!;
  }
  return { pixels: out, clipping: { share: (clipped * 3) / pixels.length } };
}

/** Beyond what rounding of the profile's own numbers explains. */
const outside = (linear: number): boolean => linear < -0.002 || linear > 1.002;

const index = (linear: number): number => (linear <= 0 ? 0 : linear >= 1 ? STEPS : (linear * STEPS + 0.5) | 0);

function linearTable(curve: (encoded: number) => number, full: number): Float32Array {
  return Float32Array.from({ length: full + 1 }, (_, value) => curve(value / full));
}

let srgbSteps: Uint16Array | undefined;

function srgbTable(): Uint16Array {
  srgbSteps ??= Uint16Array.from({ length: STEPS + 1 }, (_, step) => Math.round(linearToSrgb(step / STEPS) * 65_535));
  return srgbSteps;
}

function multiply(a: Matrix, b: Matrix): Matrix {
  const row = (r: Row): Row => [0, 1, 2].map((c) => r[0] * b[0][c]! + r[1] * b[1][c]! + r[2] * b[2][c]!) as unknown as Row;
  return [row(a[0]), row(a[1]), row(a[2])];
}

/** The inverse of a 3 x 3 matrix by its adjugate. */
function invert([[a, b, c], [d, e, f], [g, h, i]]: Matrix): Matrix {
  const det = a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g);
  return [
    [(e * i - f * h) / det, (c * h - b * i) / det, (b * f - c * e) / det],
    [(f * g - d * i) / det, (a * i - c * g) / det, (c * d - a * f) / det],
    [(d * h - e * g) / det, (b * g - a * h) / det, (a * e - b * d) / det],
  ];
}
