import * as z from 'zod';

/** How far sharpening went beyond what was there: bright and dark rims along edges. Shares of full scale, 0-1. */
export const Halo = z.object({
  mean: z.number().meta({ description: 'Mean overshoot of luma beyond its range in the 3 x 3 px around, share of full scale' }),
  p99: z.number().meta({ description: '99th percentile of the same' }),
});
export type Halo = z.infer<typeof Halo>;

/** Every so many rows one is looked at: enough for a percentile, and a sixth of the sharpening's own time at most. */
const EVERY = 16;
const BINS = 4096;

/** Gathers how far sharpened luma leaves the range that its 3 x 3 neighbourhood had before. */
export class HaloMeter {
  private readonly bins = new Uint32Array(BINS);
  private total = 0;
  private count = 0;

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
        over = Math.max(0, after - Math.max(high0, high1, high2), Math.min(low0, low1, low2) - after) / this.full;
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
    if (this.count === 0) return { mean: 0, p99: 0 };
    let seen = 0;
    let bin = 0;
    while (bin < BINS - 1 && (seen += this.bins[bin]!) < 0.99 * this.count) bin++;
    return { mean: this.total / this.count, p99: bin / BINS };
  }
}
