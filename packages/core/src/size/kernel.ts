import type { SizeRung } from '../preset/schema';
import { Recent } from './recent';

export type Kernel = SizeRung['kernel'];

/** A resampling kernel: its weight at a distance from its centre, and the distance beyond which it is 0. In source px. */
interface Shape {
  radius: number;
  at: (distance: number) => number;
}

const sinc = (x: number): number => (x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x));

/** Lanczos' windowed sinc: sinc(x) sinc(x / a) for |x| < a (Duchon 1979; Turkowski 1990, "Filters for common resampling tasks"). */
const lanczos = (a: number): Shape => ({ radius: a, at: (x) => (Math.abs(x) < a ? sinc(x) * sinc(x / a) : 0) });

/** The two-parameter cubics of Mitchell and Netravali (1988), "Reconstruction filters in computer graphics", equation 8. */
const cubic = (b: number, c: number): Shape => ({
  radius: 2,
  at: (distance) => {
    const x = Math.abs(distance);
    if (x < 1) return ((12 - 9 * b - 6 * c) * x ** 3 + (-18 + 12 * b + 6 * c) * x ** 2 + (6 - 2 * b)) / 6;
    if (x < 2) return ((-b - 6 * c) * x ** 3 + (6 * b + 30 * c) * x ** 2 + (-12 * b - 48 * c) * x + (8 * b + 24 * c)) / 6;
    return 0;
  },
});

const SHAPES: Record<Kernel, Shape> = {
  lanczos3: lanczos(3),
  lanczos2: lanczos(2),
  cubic: cubic(0, 0.5), // Catmull-Rom
  mitchell: cubic(1 / 3, 1 / 3),
  linear: { radius: 1, at: (x) => Math.max(0, 1 - Math.abs(x)) },
  nearest: { radius: 0.5, at: () => 1 },
};

/** A kernel by its name. */
export const shapeOf = (kernel: Kernel): Shape => SHAPES[kernel];

/** Places between two source px at which a kernel is looked up. */
const PHASES = 1024;

/** A kernel as weights ready for use, wherever between two source px a place lies. */
export interface PhasedKernel {
  /** Distance in source px beyond which it is 0. */
  reach: number;
  /** Source px along an edge that count for a place. */
  taps: number;
  phases: number;
  /** `taps` weights for each phase, 0 to `phases`, summing to 1: of the px from the first one within reach on. */
  table: Float32Array;
}

/**
 * Looks a kernel up at all places between two px. Going down it is widened by the ratio.
 * @param ratio source px to an output px
 */
export function phasedKernel(kernel: Kernel, ratio: number): PhasedKernel {
  const { radius, at } = SHAPES[kernel];
  const widened = kernel === 'nearest' ? 1 : Math.max(1, ratio);
  const reach = radius * widened;
  const taps = Math.ceil(2 * reach);
  const table = new Float32Array((PHASES + 1) * taps);
  for (let phase = 0; phase <= PHASES; phase++) {
    const weights = Array.from({ length: taps }, (_, k) => at((phase / PHASES - reach + k) / widened));
    const sum = weights.reduce((total, weight) => total + weight, 0);
    table.set(
      weights.map((weight) => weight / sum),
      phase * taps,
    );
  }
  return { reach, taps, phases: PHASES, table };
}

/** A part of an edge, in px; both may be fractions. */
export interface EdgePart {
  start: number;
  length: number;
}

/** What one edge of a picture is resampled by: for output sample i, `taps` source samples from `starts[i]` on. */
export interface EdgeWeights {
  taps: number;
  starts: Int32Array;
  /** `taps` weights per output sample, summing to 1. */
  weights: Float32Array;
}

/**
 * The weights that resample `from` samples to `to`. Going down, the kernel is widened by the ratio, so that every source
 * sample counts; its part beyond the edge is left out and the rest made to sum to 1. Mirrored edges get mirrored weights.
 * @param from length of the source in px, at least 1
 * @param to length of the output in px, at least 1
 * @param part the part of the source that becomes the output, in px; what lies beside it counts where the kernel reaches it. All, unless it is said
 */
export function edgeWeights(kernel: Kernel, from: number, to: number, part: EdgePart = { start: 0, length: from }): EdgeWeights {
  return recent.get(`${kernel} ${from} ${to} ${part.start} ${part.length}`, () => makeWeights(kernel, from, to, part));
}

const recent = new Recent<EdgeWeights>(16);

function makeWeights(kernel: Kernel, from: number, to: number, { start: begin, length }: EdgePart): EdgeWeights {
  const ratio = length / to;
  if (length === to && Number.isInteger(begin))
    return { taps: 1, starts: Int32Array.from({ length: to }, (_, i) => begin + i), weights: new Float32Array(to).fill(1) };
  if (kernel === 'nearest') {
    const starts = Int32Array.from({ length: to }, (_, i) => Math.min(from - 1, Math.floor(begin + (i + 0.5) * ratio)));
    return { taps: 1, starts, weights: new Float32Array(to).fill(1) };
  }
  const { radius, at } = SHAPES[kernel];
  const widened = Math.max(1, ratio);
  const reach = radius * widened;
  const taps = Math.min(from, Math.ceil(2 * reach));
  const starts = new Int32Array(to);
  const weights = new Float32Array(to * taps);
  const row = new Float64Array(taps);
  for (let i = 0; i < to; i++) {
    const centre = begin + (i + 0.5) * ratio - 0.5;
    const start = Math.min(from - taps, Math.max(0, Math.floor(centre - reach) + 1));
    let sum = 0;
    for (let k = 0; k < taps; k++) sum += row[k] = at((start + k - centre) / widened);
    starts[i] = start;
    for (let k = 0; k < taps; k++) weights[i * taps + k] = row[k]! / sum;
  }
  return { taps, starts, weights };
}
