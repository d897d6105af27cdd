import fc from 'fast-check';
import { expect, it } from 'vitest';
import { inPicture, viewOfCrop } from './crop';
import { draggedView, type Grip, levelling, turnedView, viewOfRatio } from './crop-frame';

const side = fc.integer({ min: 200, max: 9000 });
const share = (min: number, max: number) => fc.double({ min, max, noNaN: true });
const grip = fc.record({ x: fc.constantFrom(-1, 0, 1), y: fc.constantFrom(-1, 0, 1) }) as fc.Arbitrary<Grip>;
const picture = fc.record({ width: side, height: side });
const crop = fc.record({
  x: share(0, 0.6),
  y: share(0, 0.6),
  w: share(0.2, 1),
  h: share(0.2, 1),
  angle: fc.oneof(fc.constant(0), share(-45, 45)),
});
const ratio = fc.option(fc.record({ w: fc.integer({ min: 1, max: 16 }), h: fc.integer({ min: 1, max: 16 }) }));
const shift = fc.record({ x: share(-5000, 5000), y: share(-5000, 5000) });

it('a frame that is dragged, turned or given a ratio never leaves the picture, and keeps its ratio to a pixel', () => {
  fc.assert(
    fc.property(picture, crop, grip, shift, ratio, share(-45, 45), (of, asked, hold, by, kept, angle) => {
      const view = kept ? viewOfRatio(of, viewOfCrop(of, asked), kept) : viewOfCrop(of, asked);
      for (const after of [view, draggedView(of, view, hold, by, kept), turnedView(of, view, angle)]) {
        const corners = [0, after.width].flatMap((x) => [0, after.height].map((y) => inPicture(after, { x, y })));
        if (Math.min(after.width, after.height) > 3)
          for (const { x, y } of corners) expect(Math.max(-x, -y, x - of.width, y - of.height)).toBeLessThan(1e-5);
      }
      const after = draggedView(of, view, hold, by, kept);
      if (!kept || Math.min(after.width, after.height) < 20) return;
      const off = Math.min(
        Math.abs(after.width - (after.height * kept.w) / kept.h),
        Math.abs(after.height - (after.width * kept.h) / kept.w),
      );
      expect(off).toBeLessThanOrEqual(1.01);
    }),
    { numRuns: 400 },
  );
});

it('a corner follows the hand while the one across stays, and the inside moves as it is', () => {
  const of = { width: 3000, height: 2000 };
  const view = viewOfCrop(of, { x: 0.1, y: 0.1, w: 0.5, h: 0.5, angle: 0 });
  expect(draggedView(of, view, { x: 1, y: 1 }, { x: 120, y: -80 }, null)).toEqual({
    left: 300,
    top: 200,
    width: 1620,
    height: 920,
    angle: 0,
  });
  expect(draggedView(of, view, { x: -1, y: 0 }, { x: 100, y: 999 }, null)).toEqual({
    left: 400,
    top: 200,
    width: 1400,
    height: 1000,
    angle: 0,
  });
  expect(draggedView(of, view, { x: 0, y: 0 }, { x: 40, y: 5000 }, null)).toEqual({
    left: 340,
    top: 1000,
    width: 1500,
    height: 1000,
    angle: 0,
  });
  expect(draggedView(of, view, { x: 1, y: 1 }, { x: 300, y: 0 }, { w: 3, h: 2 })).toMatchObject({
    left: 300,
    top: 200,
    width: 1800,
    height: 1200,
  });
});

it('a frame that was turned there and back is as it was', () => {
  const of = { width: 3000, height: 2000 };
  const whole = viewOfCrop(of, { x: 0, y: 0, w: 1, h: 1, angle: 0 });
  expect(turnedView(of, whole, 10).width).toBeLessThan(2700);
  expect(turnedView(of, { ...whole, angle: 10 }, 0)).toEqual(whole);
});

it('a line is made level, or upright where it is nearer to that', () => {
  expect(levelling({ x: 100, y: 100 * Math.tan(Math.PI / 90) })).toBeCloseTo(-2, 9);
  expect(levelling({ x: -100, y: 100 * Math.tan(Math.PI / 90) })).toBeCloseTo(2, 9);
  expect(levelling({ x: 3, y: 100 })).toBeCloseTo(1.718, 3);
  expect(levelling({ x: 5, y: 0 })).toBe(0);
});
