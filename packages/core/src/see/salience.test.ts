import { expect, it } from 'vitest';
import type { Raster } from '../raster';
import { SALIENCE_CELLS } from '../size/proposal';
import { type Cascade, findFaces } from './faces';
import { salienceOf } from './salience';

/** One stage of one tree: the lower half of a window is darker than the upper one, and its left half as bright as its right one. */
const DARK_BELOW: Cascade = [
  [
    1,
    [
      [
        [[0, 0, 20, 20, -1, 0, 0, 20, 10, 2], 0.6, 0, null],
        [[0, 0, 20, 20, -1, 0, 0, 10, 20, 2], 0.1, 1, 0],
      ],
    ],
  ],
];

function picture(width: number, height: number, at: (x: number, y: number) => number): Raster<Uint8Array> {
  return {
    width,
    height,
    channels: 1,
    pixels: Uint8Array.from({ length: width * height }, (_, i) => at(i % width, Math.floor(i / width))),
  };
}

it('finds what its cascade describes, where it is, and nothing on even ground', () => {
  const isIn = (x: number, y: number) => x >= 60 && x < 100 && y >= 30 && y < 70;
  const found = findFaces(
    picture(160, 110, (x, y) => (isIn(x, y) ? (y < 50 ? 230 : 30) : 130)),
    DARK_BELOW,
  );
  expect(found.length).toBeGreaterThan(0);
  const [{ left, top, width, height }] = found as [(typeof found)[number]];
  expect([Math.abs(left + width / 2 - 80), Math.abs(top + height / 2 - 50)].every((off) => off < 8)).toBe(true);
  expect(
    findFaces(
      picture(160, 110, () => 130),
      DARK_BELOW,
    ),
  ).toEqual([]);
});

it('sees most where there is detail or strong colour', () => {
  const detailed = salienceOf(
    picture(320, 200, (x, y) => (x > 240 && (x + y) % 2 ? 220 : 90)),
    DARK_BELOW,
  );
  const worth = (cells: string, from: number, to: number) =>
    [...cells]
      .filter((_, at) => at % SALIENCE_CELLS >= from && at % SALIENCE_CELLS < to)
      .reduce((sum, digit) => sum + parseInt(digit, 16), 0);
  expect(worth(detailed.cells, 13, 16)).toBeGreaterThan(20 * worth(detailed.cells, 0, 11));
  const pixels = Uint8Array.from({ length: 320 * 200 * 3 }, (_, i) => (Math.floor(i / 3) % 320 < 80 ? [230, 40, 30][i % 3]! : 120));
  const coloured = salienceOf({ width: 320, height: 200, channels: 3, pixels }, DARK_BELOW);
  expect(worth(coloured.cells, 0, 4)).toBeGreaterThan(3 * worth(coloured.cells, 5, 16));
});
