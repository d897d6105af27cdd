import fc from 'fast-check';
import { expect, it } from 'vitest';
import type { Raster } from '../raster';
import { cutOut } from '../size/resample';
import { type Rectangle, wholeOf } from '../size/rectangle';
import { type CanvasEdges, drawWithEdges, neededFor } from './canvas-edges';

/** A picture of noise, so that no two places of it are alike. */
function noise(width: number, height: number): Raster<Uint8Array> {
  let seed = 7;
  const pixels = Uint8Array.from({ length: width * height * 3 }, () => (seed = (seed * 48_271) % 2_147_483_647) & 255);
  return { width, height, channels: 3, pixels };
}

function drawn(picture: Raster<Uint8Array>, edges: CanvasEdges, window: Rectangle): Raster<Uint8Array> {
  const fill = typeof edges.fill === 'string' ? edges.fill : 'colour';
  const part = neededFor(window, picture, edges.edge, fill);
  const into = new Uint8Array(window.width * window.height * 3);
  // A panel has a place of its own in the picture, which must not move anything.
  const panel: Rectangle = { left: 4, top: 2, width: picture.width, height: picture.height };
  drawWithEdges(cutOut(picture, part), part, panel, edges, window, into);
  return { width: window.width, height: window.height, channels: 3, pixels: into };
}

const white = [255, 255, 255];
const edgesOf = (more: Partial<CanvasEdges>): CanvasEdges => ({
  edge: 6,
  fill: 'mirror',
  opacity: 1,
  backdrop: white,
  marks: null,
  ...more,
});
const withEdges = ({ width, height }: Raster, edge: number): Rectangle => wholeOf({ width: width + 2 * edge, height: height + 2 * edge });
const at = ({ pixels, width }: Raster<Uint8Array>, x: number, y: number) => [
  ...pixels.subarray((y * width + x) * 3, (y * width + x) * 3 + 3),
];

it('a window has, to the last bit, what all of it has there, whatever fills the edges', () => {
  const marks = { dark: [0, 0, 0], bright: white };
  const fill = fc.constantFrom<CanvasEdges['fill'][]>('mirror', 'soft-mirror', 'stretch', [9, 90, 200]);
  const window = fc.record({
    left: fc.nat(60),
    top: fc.nat(50),
    width: fc.integer({ min: 1, max: 80 }),
    height: fc.integer({ min: 1, max: 70 }),
  });
  fc.assert(
    fc.property(
      fill,
      fc.integer({ min: 1, max: 40 }),
      fc.constantFrom(1, 0.4),
      fc.boolean(),
      window,
      (how, edge, opacity, marked, wanted) => {
        const picture = noise(23, 17);
        const edges = edgesOf({ edge, fill: how, opacity, marks: marked ? marks : null });
        const whole = withEdges(picture, edge);
        const part = {
          left: Math.min(wanted.left, whole.width - 1),
          top: Math.min(wanted.top, whole.height - 1),
          width: Math.min(wanted.width, whole.width - Math.min(wanted.left, whole.width - 1)),
          height: Math.min(wanted.height, whole.height - Math.min(wanted.top, whole.height - 1)),
        };
        expect(drawn(picture, edges, part).pixels).toEqual(cutOut(drawn(picture, edges, whole), part).pixels);
      },
    ),
    { numRuns: 300 },
  );
});

it('what mirrors softly begins as a mirror and grows softer; a colour lies over the backdrop by its opacity; the picture stays', () => {
  const picture = noise(40, 30);
  const soft = drawn(picture, edgesOf({ edge: 20, fill: 'soft-mirror' }), withEdges(picture, 20));
  expect(cutOut(soft, { left: 20, top: 20, width: 40, height: 30 }).pixels).toEqual(picture.pixels);
  // The two rows next to the picture are averaged over less than a pixel: they are its own.
  for (const x of [25, 37]) expect(at(soft, x, 19)).toEqual(at(soft, x, 20));
  const rough = (y: number) => {
    let sum = 0;
    for (let x = 21; x < 59; x++) sum += Math.abs(at(soft, x, y)[0]! - at(soft, x + 1, y)[0]!);
    return sum / 38;
  };
  expect([rough(19), rough(15), rough(10), rough(2)].toSorted((a, b) => b - a)).toEqual([rough(19), rough(15), rough(10), rough(2)]);
  expect(rough(2)).toBeLessThan(rough(19) / 8);
  const plain = drawn(picture, edgesOf({ fill: [0, 100, 200], opacity: 0.25 }), withEdges(picture, 6));
  expect(at(plain, 0, 0)).toEqual([191, 216, 241]);
});
