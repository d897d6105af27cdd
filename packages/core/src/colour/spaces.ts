import type { ColourRung } from '../preset/schema';
import { type Curve, gammaCurve, parametricCurve, srgbToLinear } from './curves';
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
  white: 'D65' | 'D50';
  /** The curve, and the same as parameters of ICC.1:2022, 10.18: type 0 (g) or 3 (g, a, b, c, d). */
  curve: Curve;
  parameters: readonly number[];
}

type Chromaticity = readonly [x: number, y: number];

const SRGB_PARAMETERS = [2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045] as const;
const ADOBE_GAMMA = 563 / 256;
/** Of ROMM RGB: a power of 1.8, with a straight line of slope 16 in the dark. */
const ROMM_PARAMETERS = [1.8, 1, 0, 1 / 16, 1 / 32] as const;
/** Of ITU-R BT.2020, table 4, for 12 bits and more: alpha and beta. */
const [ALPHA, BETA] = [1.09929682680944, 0.018053968510807];
const REC2020_PARAMETERS = [1 / 0.45, 1 / ALPHA, (ALPHA - 1) / ALPHA, 1 / 4.5, 4.5 * BETA] as const;

/**
 * The spaces that outputs can have. sRGB: IEC 61966-2-1:1999, table 1. Display P3: primaries of SMPTE RP 431-2 with D65 and
 * the curve of sRGB. Adobe RGB (1998): Adobe RGB (1998) Color Image Encoding 2005-05, 4.3.1. ROMM RGB: ISO 22028-2:2013, table 1 and 5.4 (from memory).
 * Rec. 2020: ITU-R BT.2020-2, tables 3 and 4, with the inverse of its camera curve, as ICC profiles of it have.
 */
const DEFINITIONS: Record<SpaceName, Definition> = {
  srgb: {
    title: 'sRGB',
    primaries: [
      [0.64, 0.33],
      [0.3, 0.6],
      [0.15, 0.06],
    ],
    white: 'D65',
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
    white: 'D65',
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
    white: 'D65',
    curve: gammaCurve(ADOBE_GAMMA),
    parameters: [ADOBE_GAMMA],
  },
  romm: {
    title: 'ROMM RGB',
    primaries: [
      [0.7347, 0.2653],
      [0.1596, 0.8404],
      [0.0366, 0.0001],
    ],
    white: 'D50',
    curve: parametricCurve(3, ROMM_PARAMETERS),
    parameters: ROMM_PARAMETERS,
  },
  rec2020: {
    title: 'Rec. 2020',
    primaries: [
      [0.708, 0.292],
      [0.17, 0.797],
      [0.131, 0.046],
    ],
    white: 'D65',
    curve: parametricCurve(3, REC2020_PARAMETERS),
    parameters: REC2020_PARAMETERS,
  },
};

const xyz = ([x, y]: Chromaticity): Row => [x / y, 1, (1 - x - y) / y];
/** CIE standard illuminant D65 as IEC 61966-2-1 has it, and the D50 of ICC.1:2022, 7.2.16. */
const D65 = xyz([0.3127, 0.329]);
const D50: Row = [0.9642, 1, 0.8249];

/** The cone responses of the linear Bradford transform (ICC.1:2022, annex E.3). */
export const BRADFORD: Matrix = [
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

/** Linear RGB of primaries and a white to XYZ of D50 (SMPTE RP 177-1993 for the first step). */
export function toXyz(primaries: Definition['primaries'], white: Definition['white'] = 'D65'): Matrix {
  const [r, g, b] = primaries.map(xyz) as [Row, Row, Row];
  const columns: Matrix = [
    [r[0], g[0], b[0]],
    [r[1], g[1], b[1]],
    [r[2], g[2], b[2]],
  ];
  const scaled = multiply(columns, diagonal(apply(invert(columns), white === 'D65' ? D65 : D50)));
  return white === 'D65' ? multiply(D65_TO_D50, scaled) : scaled;
}

const space = ({ primaries, white, curve }: Definition): RgbSpace => ({ toXyz: toXyz(primaries, white), curves: [curve, curve, curve] });

/** The spaces by their name in presets. */
export const SPACES: Readonly<Record<SpaceName, RgbSpace & Pick<Definition, 'title' | 'white' | 'parameters'>>> = {
  srgb: { ...DEFINITIONS.srgb, ...space(DEFINITIONS.srgb) },
  'display-p3': { ...DEFINITIONS['display-p3'], ...space(DEFINITIONS['display-p3']) },
  'adobe-rgb': { ...DEFINITIONS['adobe-rgb'], ...space(DEFINITIONS['adobe-rgb']) },
  romm: { ...DEFINITIONS.romm, ...space(DEFINITIONS.romm) },
  rec2020: { ...DEFINITIONS.rec2020, ...space(DEFINITIONS.rec2020) },
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

/** Which of our own spaces one is, whatever it calls itself; null: none of them. */
export const nameOfSpace = (space: RgbSpace): SpaceName | null =>
  (Object.keys(SPACES) as SpaceName[]).find((name) => sameSpace(space, SPACES[name])) ?? null;
