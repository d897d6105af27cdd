import type { Lab } from './ciede2000';
import type { Row } from './matrix';

/** The white of ICC's connection space, D50 (ICC.1:2022, 7.2.16). */
const WHITE: Row = [0.9642, 1, 0.8249];
const DELTA = 6 / 29;

/** XYZ of D50 (white Y = 1) to CIELAB (ISO/CIE 11664-4:2019, 5.1). */
export function xyzToLab(xyz: Row): Lab {
  const f = (t: number) => (t > DELTA ** 3 ? Math.cbrt(t) : t / (3 * DELTA ** 2) + 4 / 29);
  const [x, y, z] = xyz.map((value, index) => f(value / WHITE[index]!)) as [number, number, number];
  return [116 * y - 16, 500 * (x - y), 200 * (y - z)];
}

/** CIELAB to XYZ of D50 (ISO/CIE 11664-4:2019, annex A). */
export function labToXyz([L, a, b]: Lab): Row {
  const y = (L + 16) / 116;
  const g = (t: number) => (t > DELTA ? t ** 3 : 3 * DELTA ** 2 * (t - 4 / 29));
  return [WHITE[0] * g(y + a / 500), WHITE[1] * g(y), WHITE[2] * g(y - b / 200)];
}
