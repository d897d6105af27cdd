import { expect, it } from 'vitest';
import { SizeRung } from '../preset/schema';
import type { Raster } from '../raster';
import { detailAnchor } from './detail-anchor';
import { outputGeometry, shrunkGeometry } from './geometry';

const size = SizeRung.parse({ fit: 'cover', width: 100, height: 100, anchor: 'detail', enlarge: true });

/** Grey, but for a patch of stripes. */
function striped(width: number, height: number, inside: (x: number, y: number) => boolean): Raster<Uint16Array> {
  const pixels = new Uint16Array(width * height * 3).fill(30_000);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) if (inside(x, y) && (x + y) % 2) pixels.fill(60_000, (y * width + x) * 3, (y * width + x) * 3 + 3);
  return { width, height, channels: 3, pixels };
}

it('a crop goes where the detail is, on either edge', () => {
  const wide = outputGeometry(size, { width: 300, height: 100 });
  expect(wide.toDetail).toBe(true);
  const right = detailAnchor(
    striped(300, 100, (x) => x >= 205 && x < 295),
    wide.crop!,
  );
  expect(right.left).toBeGreaterThanOrEqual(195);
  const tall = outputGeometry(size, { width: 100, height: 300 });
  expect(
    detailAnchor(
      striped(100, 300, (_x, y) => y < 90),
      tall.crop!,
    ),
  ).toMatchObject({ left: 0, width: 100, height: 100 });
  expect(
    detailAnchor(
      striped(100, 300, (_x, y) => y < 90),
      tall.crop!,
    ).top,
  ).toBeLessThanOrEqual(5);
});

it('a crop of an even picture stays in the middle', () => {
  const { crop } = outputGeometry(size, { width: 300, height: 100 });
  expect(
    detailAnchor(
      striped(300, 100, () => false),
      crop!,
    ).left,
  ).toBe(100);
});

it('a shrunk geometry keeps its crop inside and its shape', () => {
  const whole = outputGeometry({ ...size, anchor: 'bottom' }, { width: 400, height: 900 });
  const { scaled, crop, output } = shrunkGeometry(whole, 0.37);
  expect(output).toEqual({ width: 37, height: 37 });
  expect(crop).toMatchObject(output);
  expect(crop!.top + crop!.height).toBeLessThanOrEqual(scaled.height);
  expect(crop!.top).toBeGreaterThan(40);
});
