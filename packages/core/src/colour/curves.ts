/*
 * Transfer curves: from encoded values 0-1 to linear light 0-1. Each source of formulas is named at its function.
 */

/** A curve from encoded 0-1 to linear 0-1, rising. */
export type Curve = (encoded: number) => number;

/** Linear light to average in: the source's own curves, one per channel. */
export interface LinearLight {
  toLinear: readonly Curve[];
}

/** sRGB, encoded to linear (IEC 61966-2-1:1999, 5.2). */
export function srgbToLinear(encoded: number): number {
  return encoded <= 0.04045 ? encoded / 12.92 : ((encoded + 0.055) / 1.055) ** 2.4;
}

/** sRGB, linear to encoded (IEC 61966-2-1:1999, 5.2). */
export function linearToSrgb(linear: number): number {
  return linear <= 0.0031308 ? linear * 12.92 : 1.055 * linear ** (1 / 2.4) - 0.055;
}

/** A pure power curve; Adobe RGB (1998) has 563/256 = 2.19921875 (Adobe RGB (1998) encoding, 4.3.1.2). */
export function gammaCurve(gamma: number): Curve {
  return (encoded) => encoded ** gamma;
}

/** A sampled curve, linear between its points (ICC.1:2022, 10.6 curveType). */
export function sampledCurve(points: ArrayLike<number>): Curve {
  const last = points.length - 1;
  return (encoded) => {
    const at = Math.min(1, Math.max(0, encoded)) * last;
    const below = Math.min(last - 1, Math.floor(at));
    const from = points[below] ?? 0;
    return from + ((points[below + 1] ?? from) - from) * (at - below);
  };
}

/**
 * A parametric curve (ICC.1:2022, 10.18 parametricCurveType, table 68).
 * @param kind function type 0 to 4
 * @param p parameters g, a, b, c, d, e, f in the order of the standard
 * @throws RangeError for a type that the standard does not know
 */
export function parametricCurve(kind: number, p: readonly number[]): Curve {
  const [g = 1, a = 1, b = 0, c = 0, d = 0, e = 0, f = 0] = p;
  switch (kind) {
    case 0:
      return (x) => x ** g;
    case 1:
      return (x) => (x >= -b / a ? (a * x + b) ** g : 0);
    case 2:
      return (x) => (x >= -b / a ? (a * x + b) ** g + c : c);
    case 3:
      return (x) => (x >= d ? (a * x + b) ** g : c * x);
    case 4:
      return (x) => (x >= d ? (a * x + b) ** g + e : c * x + f);
    default:
      throw new RangeError(`The profile has a curve of unknown type ${kind}.`);
  }
}

const lights = new WeakMap<Curve, Float32Array>();

/** A curve as a table of 65,536: from encoded values of 16 bits to light, 0-1. Made once for each curve. */
export function linearTable(curve: Curve): Float32Array {
  const known = lights.get(curve);
  if (known) return known;
  const table = Float32Array.from({ length: 65_536 }, (_, value) => curve(value / 65_535));
  lights.set(curve, table);
  return table;
}

const tables = new WeakMap<Curve, Uint16Array>();

/**
 * The inverse of a rising curve as a table of 65,536: from the square root of light to encoded values of 16 bits. Even
 * steps of light itself would be too far apart in the dark, where a power curve is steep.
 */
export function encodeTable(curve: Curve): Uint16Array {
  const known = tables.get(curve);
  if (known) return known;
  const table = new Uint16Array(65_536);
  let encoded = 0;
  for (let root = 0; root < 65_536; root++) {
    const light = (root / 65_535) ** 2;
    while (encoded < 65_535 && curve((encoded + 0.5) / 65_535) < light) encoded++;
    table[root] = encoded;
  }
  tables.set(curve, table);
  return table;
}
