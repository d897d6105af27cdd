import { apply, invert, type Matrix, multiply, type Row } from '../colour/matrix';
import { BRADFORD } from '../colour/spaces';

/** Of D65: 1,000,000 / 6504 K. */
const D65_MIRED = 1e6 / 6504;

/**
 * XYZ (Y = 1) of a phase of daylight (CIE 15:2004, 3.1).
 * @param kelvin 4,000 to 25,000
 */
export function daylight(kelvin: number): Row {
  const [a, b, c, d] = kelvin <= 7000 ? [-4.607e9, 2.9678e6, 0.09911e3, 0.244063] : [-2.0064e9, 1.9018e6, 0.24748e3, 0.23704];
  const x = a / kelvin ** 3 + b / kelvin ** 2 + c / kelvin + d;
  const y = -3 * x * x + 2.87 * x - 0.275;
  return [x / y, 1, (1 - x - y) / y];
}

/**
 * Warmth as a change of the light that is taken for white: from D65 so many mired along daylight, by linear Bradford (ICC.1:2022, annex E.3).
 * Mired, since equal steps of them look equal.
 * @param mired above 0 is warmer, -90 to 90
 * @returns what XYZ of the picture are multiplied with; white keeps its Y
 */
export function warmthMatrix(mired: number): Matrix {
  const from = apply(BRADFORD, daylight(1e6 / D65_MIRED));
  const to = apply(BRADFORD, daylight(1e6 / (D65_MIRED + mired)));
  const scale: Matrix = [
    [to[0] / from[0], 0, 0],
    [0, to[1] / from[1], 0],
    [0, 0, to[2] / from[2]],
  ];
  return multiply(invert(BRADFORD), multiply(scale, BRADFORD));
}
