import { type Raster, type Watermark, wholeOf } from '@rundle/core';
import sharp from 'sharp';
import { drawMark } from '../mark/draw';

/** Size of one of the three pictures, px. */
const WIDTH = 330;
const HEIGHT = 220;

/** What each of the three looks like, as encoded grey 0-1 at a place of 0-1. */
const GROUNDS: readonly ((x: number, y: number) => number)[] = [
  (x, y) => 0.94 - 0.12 * y - 0.03 * Math.sin(5 * x),
  (x, y) => 0.1 + 0.1 * y + 0.02 * Math.sin(7 * x + 2 * y),
  (x, y) =>
    0.5 + 0.16 * Math.sin(61 * x + 9 * Math.sin(17 * y)) + 0.16 * Math.sin(83 * y + 7 * Math.sin(23 * x)) + 0.1 * Math.sin(190 * (x + y)),
];
const TINTS = [
  [1, 0.99, 0.96],
  [0.86, 0.95, 1.1],
  [0.92, 1, 0.82],
] as const;

/**
 * A watermark on a bright, a dark and a busy picture, side by side, drawn as on an output.
 * @throws ProblemError when it cannot be drawn
 */
export async function markPreview(watermark: Watermark): Promise<{ png: Buffer; width: number; height: number }> {
  const mark = { watermark: '-', place: 'centre', margin: 0.05, size: 0.9, opacity: 1 } as const;
  const pictures = await Promise.all(
    GROUNDS.map(async (ground, at) => {
      const picture = drawn(ground, TINTS[at]!);
      await drawMark(picture, mark, watermark, (colours) => Promise.resolve(colours), picture, wholeOf(picture));
      return Buffer.from(Uint8Array.from(picture.pixels, (value) => value >> 8));
    }),
  );
  const gap = 6;
  const width = 3 * WIDTH + 2 * gap;
  const png = await sharp({ create: { width, height: HEIGHT, channels: 4, background: { r: 0, g: 0, b: 0, alpha: 0 } } })
    .composite(
      pictures.map((input, at) => ({
        input,
        raw: { width: WIDTH, height: HEIGHT, channels: 3 as const },
        left: at * (WIDTH + gap),
        top: 0,
      })),
    )
    .png()
    .toBuffer();
  return { png, width, height: HEIGHT };
}

function drawn(ground: (x: number, y: number) => number, tint: readonly [number, number, number]): Raster<Uint16Array> {
  const pixels = new Uint16Array(WIDTH * HEIGHT * 3);
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++) {
      const value = ground(x / WIDTH, y / HEIGHT);
      for (let c = 0; c < 3; c++) pixels[(y * WIDTH + x) * 3 + c] = 65_535 * Math.min(1, Math.max(0, value * tint[c]!));
    }
  return { width: WIDTH, height: HEIGHT, channels: 3, pixels };
}
