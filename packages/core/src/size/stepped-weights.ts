import { type Kernel, shapeOf } from './kernel';
import { Recent } from './recent';

/*
 * One edge scaled the way libvips scales pictures of 8 bits (8.18, libvips/resample/reducev.cpp and templates.h): places between two pixels in 64
 * steps, weights of 12 bits cut off, the sum rounded to 8 bits. So the decoder's own scaling and this give the same to the last bit, whichever is at hand.
 */

/** The weight of 1. */
const STEPPED_ONE = 4096;
/** Places between two pixels. */
const PHASES = 64;

/** What one edge is scaled by: for output sample i, `taps` source samples from `starts[i]` on. Those beyond an edge are as the outermost one. */
export interface SteppedWeights {
  taps: number;
  starts: Int32Array;
  /** `taps` weights per output sample, of which {@link STEPPED_ONE} is 1. */
  weights: Int16Array;
}

/** Pictures of a set have few sizes between them. */
const recent = new Recent<SteppedWeights>(16);

/**
 * @param from length of the source in px
 * @param to length of the output in px, less than that, and more than a quarter of it: from there on libvips would average blocks first
 */
export const steppedWeights = (kernel: Exclude<Kernel, 'nearest'>, from: number, to: number): SteppedWeights =>
  recent.get(`${kernel} ${from} ${to}`, () => makeWeights(kernel, from, to));

function makeWeights(kernel: Exclude<Kernel, 'nearest'>, from: number, to: number): SteppedWeights {
  const ratio = 1 / (1 / (from / to)); // as it is handed on
  const { radius, at } = shapeOf(kernel);
  const count = 2 * nearestEven(radius * ratio) + 1;
  const masks = Array.from({ length: PHASES + 1 }, (_, phase) => {
    const middle = phase / PHASES + count / 2 - 1;
    const values = Array.from({ length: count }, (_value, k) => at((k - middle) / ratio));
    const sum = values.reduce((total, value) => total + value, 0);
    return values.map((value) => Math.trunc((value / sum) * STEPPED_ONE));
  });
  const lead = Math.ceil(count / 2) - 1;
  const offset = (1 + to * ratio - from) / 2 - 1;
  const places = Float64Array.from({ length: to }, (_, i) => (i + 0.5) * ratio - 0.5 - offset);
  const maskAt = (place: number) => masks[((Math.trunc(place * PHASES * 2) & (PHASES * 2 - 1)) + 1) >> 1]!;
  // At both ends of a mask there may be nothing, wherever it lies.
  const used = new Set(Array.from(places, maskAt));
  const isUsed = (k: number) => [...used].some((mask) => mask[k] !== 0);
  const all = Array.from({ length: count }, (_, k) => k).filter(isUsed);
  const first = all[0]!;
  const taps = all.at(-1)! - first + 1;
  const weights = new Int16Array(to * taps);
  places.forEach((place, i) => weights.set(maskAt(place).slice(first, first + taps), i * taps));
  return { taps, starts: Int32Array.from(places, (place) => Math.floor(place) - lead + first), weights };
}

/** The same with starts that lie in the picture only: the outermost pixel has the weights of what lies beyond it. @param from length of the source in px */
export function withinEdge({ taps, starts, weights }: SteppedWeights, from: number): SteppedWeights {
  const most = Math.min(from, taps);
  const inside = starts.map((start) => Math.min(from - most, Math.max(0, start)));
  const merged = new Int16Array(inside.length * most);
  starts.forEach((start, i) => {
    for (let k = 0; k < taps; k++) merged[i * most + Math.min(from - 1, Math.max(0, start + k)) - inside[i]!]! += weights[i * taps + k]!;
  });
  return { taps: most, starts: inside, weights: merged };
}

/**
 * Weights with room for so many of each output sample; the rest is 0.
 * @param from whether the first weight is that of the first sample, or of the even sample before it, where there is one
 */
export function withRoom({ taps, starts, weights }: SteppedWeights, room: number, from: 'at once' | 'at even rows'): Int16Array {
  const wide = new Int16Array(starts.length * room);
  for (let i = 0; i < starts.length; i++)
    wide.set(weights.subarray(i * taps, (i + 1) * taps), i * room + (from === 'at once' ? 0 : starts[i]! & 1));
  return wide;
}

/** Halves to the even neighbour, as C's rint() does. */
function nearestEven(value: number): number {
  const below = Math.floor(value);
  return value - below === 0.5 ? below + (below & 1) : Math.round(value);
}
