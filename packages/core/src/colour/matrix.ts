/** Three rows of three numbers. */
export type Matrix = readonly [Row, Row, Row];
export type Row = readonly [number, number, number];

export function multiply(a: Matrix, b: Matrix): Matrix {
  const row = (r: Row): Row => [0, 1, 2].map((c) => r[0] * b[0][c]! + r[1] * b[1][c]! + r[2] * b[2][c]!) as unknown as Row;
  return [row(a[0]), row(a[1]), row(a[2])];
}

/** The product of a matrix and a column. */
export const apply = (m: Matrix, [x, y, z]: Row): Row => m.map((row) => row[0] * x + row[1] * y + row[2] * z) as unknown as Row;

/** The inverse of a 3 x 3 matrix by its adjugate. */
export function invert([[a, b, c], [d, e, f], [g, h, i]]: Matrix): Matrix {
  const det = a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g);
  return [
    [(e * i - f * h) / det, (c * h - b * i) / det, (b * f - c * e) / det],
    [(f * g - d * i) / det, (a * i - c * g) / det, (c * d - a * f) / det],
    [(d * h - e * g) / det, (b * g - a * h) / det, (a * e - b * d) / det],
  ];
}
