import * as z from 'zod';

/** How far sharpening went beyond what was there: bright and dark lines beside edges. Shares of full scale, 0-1. */
export const Halo = z.object({
  mean: z.number().meta({ description: 'Mean overshoot of luma beyond its range in the 3 x 3 px around, share of full scale' }),
  p99: z.number().meta({ description: '99th percentile of the same' }),
  seen: z.number().default(0).meta({ description: 'Share of the pixels at which an overshoot stands out against its surroundings' }),
});
export type Halo = z.infer<typeof Halo>;

/** Share of the pixels of a picture from which its halos are worth telling: ordinary sharpening of a photograph stays a tenth below. */
export const HALOS_WORTH_TELLING = 0.0002;

/*
 * What is seen of an overshoot is how far it leaves what was there, against how restless the ground is on which it lies: beside a hard edge, on a quiet
 * side, it stands out as a line; in foliage or hair the same overshoot is detail that became crisper. Fitted on photographs, see docs/proof.md.
 */

/** How far from the overshoot its edge may lie, and how much of the other side is its ground, px. */
const EDGE_WITHIN = 3;
export const HALO_GROUND = 7;
/** Least overshoot that is seen on ground without any unrest, share of full scale. */
export const SEEN_HALO = 0.05;
/** How much more it has to be on restless ground, as a multiple of the mean step from pixel to pixel: about five times its noise (A. Rose 1948). */
const HIDES = 4.5;
/**
 * Whether an overshoot stands out along a line of pixels: an edge on one side, quiet ground on the other.
 * @param values luma before sharpening; {@link HALO_GROUND} pixels of the line have to lie on either side
 * @param at the pixel, @param step to the next pixel of the line
 * @param over how far its sharpened luma is beyond the range of the 3 x 3 px around, above 0, @param sign 1 for brighter, -1 for darker
 * @param full full scale of all of these
 */
export function standsOut(values: Float32Array, at: number, step: number, over: number, sign: 1 | -1, full: number): boolean {
  const here = values[at]!;
  for (const side of [step, -step]) {
    let edge = 0;
    for (let far = 1; far <= EDGE_WITHIN; far++) edge = Math.max(edge, sign * (here - values[at - far * side]!));
    if (edge < over) continue;
    let unrest = 0;
    for (let far = 1; far <= HALO_GROUND; far++) unrest += Math.abs(values[at + far * side]! - values[at + (far - 1) * side]!);
    if (over >= SEEN_HALO * full + (HIDES * unrest) / HALO_GROUND) return true;
  }
  return false;
}

/** Every so many rows one is looked at: enough for a percentile, and a sixth of the sharpening's own time at most. */
const EVERY = 16;
const BINS = 4096;

/** Gathers how far sharpened luma leaves the range that its 3 x 3 neighbourhood had before. */
export class HaloMeter {
  private readonly bins = new Uint32Array(BINS);
  private total = 0;
  private count = 0;
  private seen = 0;

  /** @param amount of the unsharp mask, @param least smallest difference that is sharpened, @param full full scale */
  constructor(
    private readonly amount: number,
    private readonly least: number,
    private readonly full: number,
  ) {}

  wants(y: number): boolean {
    return y % EVERY === EVERY >> 1;
  }

  /** Looks at a row: its luma, that of the rows above and below, and its local mean; all before sharpening. */
  look(above: Float32Array, luma: Float32Array, below: Float32Array, mean: Float32Array): void {
    // Least and most of the columns to the left, here and to the right; each is worked out once.
    let low0 = Math.min(above[0]!, luma[0]!, below[0]!);
    let high0 = Math.max(above[0]!, luma[0]!, below[0]!);
    let low1 = Math.min(above[1]!, luma[1]!, below[1]!);
    let high1 = Math.max(above[1]!, luma[1]!, below[1]!);
    for (let x = 1; x < luma.length - 1; x++) {
      const low2 = Math.min(above[x + 1]!, luma[x + 1]!, below[x + 1]!);
      const high2 = Math.max(above[x + 1]!, luma[x + 1]!, below[x + 1]!);
      const here = luma[x]!;
      const d = here - mean[x]!;
      let over = 0;
      if (Math.abs(d) >= this.least) {
        const after = Math.min(this.full, Math.max(0, here + this.amount * d));
        over = Math.max(0, after - Math.max(high0, high1, high2), Math.min(low0, low1, low2) - after);
        const hasRoom = x >= HALO_GROUND && x < luma.length - HALO_GROUND;
        if (over >= SEEN_HALO * this.full && hasRoom && standsOut(luma, x, 1, over, d > 0 ? 1 : -1, this.full)) this.seen++;
        over /= this.full;
      }
      this.count++;
      this.total += over;
      this.bins[Math.min(BINS - 1, Math.ceil(over * BINS))]!++;
      low0 = low1;
      high0 = high1;
      low1 = low2;
      high1 = high2;
    }
  }

  result(): Halo {
    if (this.count === 0) return { mean: 0, p99: 0, seen: 0 };
    let passed = 0;
    let bin = 0;
    while (bin < BINS - 1 && (passed += this.bins[bin]!) < 0.99 * this.count) bin++;
    return { mean: this.total / this.count, p99: bin / BINS, seen: this.seen / this.count };
  }
}
