import type { ColourRung } from '../preset/schema';
import { type Curve, gammaCurve, srgbToLinear } from './curves';
import { apply, invert, type Matrix, multiply, type Row } from './matrix';

/** An RGB space as ICC matrix profiles describe it. */
export interface RgbSpace {
  /** Linear RGB to XYZ of D50, the white of ICC's connection space. */
  toXyz: Matrix;
  /** Encoded 0-1 to linear light, for red, green and blue. */
  curves: readonly [Curve, Curve, Curve];
}

export type SpaceName = Exclude<ColourRung['space'], 'keep'>;

interface Definition {
  /** What the embedded profile calls itself. */
  title: string;
  /** Chromaticities of red, green and blue. */
  primaries: readonly [Chromaticity, Chromaticity, Chromaticity];
  /** The curve, and the same as parameters of ICC.1:2022, 10.18: type 0 (g) or 3 (g, a, b, c, d). */
  curve: Curve;
  parameters: readonly number[];
}

type Chromaticity = readonly [x: number, y: number];

const SRGB_PARAMETERS = [2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045] as const;
const ADOBE_GAMMA = 563 / 256;

/**
 * The spaces that outputs can have. sRGB: IEC 61966-2-1:1999, table 1. Display P3: primaries of SMPTE RP 431-2 with D65 and
 * the curve of sRGB. Adobe RGB (1998): Adobe RGB (1998) Color Image Encoding 2005-05, 4.3.1.
 */
const DEFINITIONS: Record<SpaceName, Definition> = {
  srgb: {
    title: 'sRGB',
    primaries: [
      [0.64, 0.33],
      [0.3, 0.6],
      [0.15, 0.06],
    ],
    curve: srgbToLinear,
    parameters: SRGB_PARAMETERS,
  },
  'display-p3': {
    title: 'Display P3',
    primaries: [
      [0.68, 0.32],
      [0.265, 0.69],
      [0.15, 0.06],
    ],
    curve: srgbToLinear,
    parameters: SRGB_PARAMETERS,
  },
  'adobe-rgb': {
    title: 'Compatible with Adobe RGB (1998)',
    primaries: [
      [0.64, 0.33],
      [0.21, 0.71],
      [0.15, 0.06],
    ],
    curve: gammaCurve(ADOBE_GAMMA),
    parameters: [ADOBE_GAMMA],
  },
};

const xyz = ([x, y]: Chromaticity): Row => [x / y, 1, (1 - x - y) / y];
/** CIE standard illuminant D65 as IEC 61966-2-1 has it, and the D50 of ICC.1:2022, 7.2.16. */
const D65 = xyz([0.3127, 0.329]);
const D50: Row = [0.9642, 1, 0.8249];

/** The cone responses of the linear Bradford transform (ICC.1:2022, annex E.3). */
const BRADFORD: Matrix = [
  [0.8951, 0.2664, -0.1614],
  [-0.7502, 1.7135, 0.0367],
  [0.0389, -0.0685, 1.0296],
];

const diagonal = ([a, b, c]: Row): Matrix => [
  [a, 0, 0],
  [0, b, 0],
  [0, 0, c],
];

/** From D65 to D50 by linear Bradford: what profiles carry as their `chad` tag. */
export const D65_TO_D50: Matrix = (() => {
  const from = apply(BRADFORD, D65);
  const to = apply(BRADFORD, D50);
  return multiply(invert(BRADFORD), multiply(diagonal([to[0] / from[0], to[1] / from[1], to[2] / from[2]]), BRADFORD));
})();

/** Linear RGB of D65 primaries to XYZ of D50 (SMPTE RP 177-1993 for the first step). */
export function toXyz(primaries: Definition['primaries']): Matrix {
  const [r, g, b] = primaries.map(xyz) as [Row, Row, Row];
  const columns: Matrix = [
    [r[0], g[0], b[0]],
    [r[1], g[1], b[1]],
    [r[2], g[2], b[2]],
  ];
  return multiply(D65_TO_D50, multiply(columns, diagonal(apply(invert(columns), D65))));
}

const space = ({ primaries, curve }: Definition): RgbSpace => ({ toXyz: toXyz(primaries), curves: [curve, curve, curve] });

/** The spaces by their name in presets. */
export const SPACES: Readonly<Record<SpaceName, RgbSpace & Pick<Definition, 'title' | 'parameters'>>> = {
  srgb: { ...DEFINITIONS.srgb, ...space(DEFINITIONS.srgb) },
  'display-p3': { ...DEFINITIONS['display-p3'], ...space(DEFINITIONS['display-p3']) },
  'adobe-rgb': { ...DEFINITIONS['adobe-rgb'], ...space(DEFINITIONS['adobe-rgb']) },
};

/**
 * Whether converting from one space to the other would change nothing worth a step of 8 bits: matrices within 0.001 and
 * curves within 0.001 of each other.
 */
export function sameSpace(a: RgbSpace, b: RgbSpace): boolean {
  const matrixAgrees = a.toXyz.every((row, r) => row.every((value, c) => Math.abs(value - b.toXyz[r]![c]!) < 0.001));
  const steps = Array.from({ length: 33 }, (_, index) => index / 32);
  return matrixAgrees && a.curves.every((curve, at) => steps.every((step) => Math.abs(curve(step) - b.curves[at]!(step)) < 0.001));
}
