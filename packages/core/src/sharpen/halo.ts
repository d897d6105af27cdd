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
    for (let x = 1; x < luma.length - 1; x++) {
      const here = luma[x]!;
      const d = here - mean[x]!;
      this.count++;
      if (Math.abs(d) < this.least) {
        this.bins[0]!++;
        continue;
      }
      const after = Math.min(this.full, Math.max(0, here + this.amount * d));
      let low = here;
      let high = here;
      for (const row of [above, luma, below])
        for (let at = x - 1; at <= x + 1; at++) {
          const value = row[at]!;
          if (value < low) low = value;
          else if (value > high) high = value;
        }
      const over = Math.max(0, after - high, low - after) / this.full;
      this.total += over;
      this.bins[Math.min(BINS - 1, Math.ceil(over * BINS))]!++;
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
