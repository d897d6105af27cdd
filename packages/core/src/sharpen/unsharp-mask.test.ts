import { describe, expect, it } from 'vitest';
import { type Halo, HaloMeter } from './halo';
import { type UnsharpMask, unsharpMask } from './unsharp-mask';

/** The definition, evaluated pixel by pixel with a two-dimensional Gaussian that reaches six sigma. */
function direct(pixels: Uint8Array, width: number, height: number, amount: number, sigma: number, threshold: number): number[] {
  const at = (x: number, y: number, c: number) =>
    pixels[(Math.min(height - 1, Math.max(0, y)) * width + Math.min(width - 1, Math.max(0, x))) * 3 + c]! / 255;
  const luma = (x: number, y: number) => 0.2126 * at(x, y, 0) + 0.7152 * at(x, y, 1) + 0.0722 * at(x, y, 2);
  const reach = Math.ceil(6 * sigma);
  const out: number[] = [];
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      let sum = 0;
      let weights = 0;
      for (let j = -reach; j <= reach; j++)
        for (let i = -reach; i <= reach; i++) {
          const weight = Math.exp(-(i * i + j * j) / (2 * sigma * sigma));
          sum += weight * luma(x + i, y + j);
          weights += weight;
        }
      const d = luma(x, y) - sum / weights;
      for (let c = 0; c < 3; c++) out.push(255 * Math.min(1, Math.max(0, at(x, y, c) + (Math.abs(d) >= threshold ? amount * d : 0))));
    }
  return out;
}

const width = 41;
const height = 23;
const busy = Uint8Array.from({ length: width * height * 3 }, (_, index) => 128 + 90 * Math.sin(index * 0.37) + 30 * Math.sin(index * 2.1));

const sharpened = (from: Uint8Array, mask: UnsharpMask): { pixels: Uint16Array; halo: Halo } => {
  const pixels = Uint16Array.from(from, (value) => value * 257);
  return { halo: unsharpMask({ width, height, channels: 3, pixels }, mask), pixels };
};

describe('unsharp mask', () => {
  it.each([
    [0.7, 0.8, 0],
    [0.7, 0.8, 0.01],
    [0.5, 1.3, 0],
    [2, 3, 0],
    [1, 0.4, 0.02],
  ])('amount %f, radius %f, threshold %f lies within half a code value of its definition', (amount, radius, threshold) => {
    const { pixels } = sharpened(busy, { amount, radius, threshold });
    const expected = direct(busy, width, height, amount, radius, threshold);
    expect(Math.max(...expected.map((value, index) => Math.abs(value - pixels[index]! / 257)))).toBeLessThan(0.5);
  });

  it('leaves alone what lies below the threshold', () => {
    const soft = Uint8Array.from({ length: width * height * 3 }, (_, index) => 120 + (index % 2));
    const { pixels, halo } = sharpened(soft, { amount: 3, radius: 0.8, threshold: 0.05 });
    expect(pixels).toEqual(Uint16Array.from(soft, (value) => value * 257));
    expect(halo).toEqual({ mean: 0, p99: 0, seen: 0 });
  });

  it('measures overshoot as its definition says: beyond what the 3 x 3 px around held', () => {
    const [above, here, below] = [0.3, 0.7, 1.1].map((step) =>
      Float32Array.from({ length: 200 }, (_, x) => 30_000 + 25_000 * Math.sin(x * step) * Math.cos(x * 0.21)),
    );
    const mean = here!.map((_, x) => (here![Math.max(0, x - 1)]! + here![x]! + here![Math.min(199, x + 1)]!) / 3);
    const meter = new HaloMeter(1.2, 900, 65_535);
    meter.look(above!, here!, below!, mean);
    const overs = Array.from({ length: 198 }, (_, at) => {
      const x = at + 1;
      const around = [above!, here!, below!].flatMap((row) => [row[x - 1]!, row[x]!, row[x + 1]!]);
      const d = here![x]! - mean[x]!;
      if (Math.abs(d) < 900) return 0;
      const after = Math.min(65_535, Math.max(0, here![x]! + 1.2 * d));
      return Math.max(0, after - Math.max(...around), Math.min(...around) - after) / 65_535;
    });
    expect(meter.result().mean).toBeCloseTo(overs.reduce((sum, over) => sum + over) / 198, 6);
    expect(meter.result().p99).toBeCloseTo(overs.sort((a, b) => a - b)[196]!, 2);
  });

  it('tells how far it overshoots an edge: the more, the stronger it is', () => {
    const edge = Uint8Array.from({ length: width * height * 3 }, (_, index) => (Math.floor(index / 3) % width < width / 2 ? 80 : 160));
    const [weak, strong] = [0.5, 1.5].map((amount) => sharpened(edge, { amount, radius: 0.8, threshold: 0 }));
    // A step of height h overshoots by amount x h x (1 - the Gaussian's share on the near side), on two columns of 41.
    const over = strong!.pixels.reduce((most, value) => Math.max(most, value), 0) / 65_535 - 160 / 255;
    expect(strong!.halo.p99).toBeCloseTo(over, 2);
    expect(strong!.halo.mean).toBeGreaterThan(2.5 * weak!.halo.mean);
  });
});
