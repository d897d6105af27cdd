import type { Raster } from '../raster';

/*
 * Faces, by a cascade of weak classifiers (P. Viola and M. Jones, "Rapid object detection using a boosted cascade of simple features", CVPR 2001;
 * trees of two features each: R. Lienhart and J. Maydt, ICIP 2002). Only ever for a proposal: it finds most, and now and then what is none.
 */

/** A feature: rectangles of x, y, width, height and weight each, in px of a window; a threshold; what it adds below and above it (null: ask the second). */
type Feature = readonly [rectangles: readonly number[], threshold: number, below: number | null, above: number | null];

/** Stages, each a threshold and its trees of two features. */
export type Cascade = readonly (readonly [threshold: number, trees: readonly (readonly [Feature, Feature])[]])[];

/** Side of the window that a cascade was trained with, px. */
const WINDOW = 20;
/** Each window is so many times as large as the one before. */
const STEP = 1.17;
/** Windows that have to agree on a face, also as a share of those that agree on the plainest one of the picture. */
const AGREEING = { least: 4, share: 0.15 };
/** Share of their sides by which two windows of one face may differ. */
const APART = 0.3;
/** Least deviation of luma in a face, levels of 8 bits. */
const LEAST_CONTRAST = 9;

export interface Box {
  left: number;
  top: number;
  width: number;
  height: number;
}

/**
 * The faces in a grey picture that look at the camera, more or less.
 * @param grey 8 bits; 320 to 512 px long. Faces smaller than 20 px are not found
 * @returns boxes in px, from forehead to chin
 */
export function findFaces({ width, height, pixels }: Raster<Uint8Array>, cascade: Cascade): Box[] {
  const sums = integrals(pixels, width, height);
  const found: Box[] = [];
  for (let scale = 1; WINDOW * scale < Math.min(width, height); scale *= STEP) {
    const stages = scaledStages(cascade, scale, width + 1);
    const side = Math.round(WINDOW * scale);
    const step = Math.max(2, Math.round(scale * 0.8));
    for (let top = 0; top + side < height; top += step)
      for (let left = 0; left + side < width; left += step)
        if (isFace(stages, sums, (width + 1) * top + left, side, width + 1)) found.push({ left, top, width: side, height: side });
  }
  return agreed(found);
}

interface Integrals {
  sum: Float64Array;
  squares: Float64Array;
}

function integrals(pixels: Uint8Array, width: number, height: number): Integrals {
  const row = width + 1;
  const sum = new Float64Array(row * (height + 1));
  const squares = new Float64Array(row * (height + 1));
  for (let y = 0; y < height; y++) {
    let [s, q] = [0, 0];
    for (let x = 0; x < width; x++) {
      const value = pixels[y * width + x]!;
      s += value;
      q += value * value;
      const at = (y + 1) * row + x + 1;
      sum[at] = sum[at - row]! + s;
      squares[at] = squares[at - row]! + q;
    }
  }
  return { sum, squares };
}

/** Numbers of a rectangle of a scaled feature: its corner, its width and its height as steps in the integrals, and its weight. */
const PER_RECTANGLE = 4;
const MOST_RECTANGLES = 3;
const PER_FEATURE = MOST_RECTANGLES * PER_RECTANGLE + 3;

interface ScaledStage {
  threshold: number;
  /** Two features to a tree. */
  features: Float64Array;
}

function scaledStages(cascade: Cascade, scale: number, row: number): ScaledStage[] {
  const side = Math.round(WINDOW * scale);
  return cascade.map(([threshold, trees]) => {
    const features = new Float64Array(trees.length * 2 * PER_FEATURE);
    trees.flat().forEach((feature, at) => features.set(scaledFeature(feature, scale, row, side * side), at * PER_FEATURE));
    return { threshold, features };
  });
}

function scaledFeature([rectangles, threshold, below, above]: Feature, scale: number, row: number, area: number): number[] {
  const numbers: number[] = [];
  let rest = 0;
  let firstArea = 1;
  for (let at = 0; at < rectangles.length; at += 5) {
    const [x, y, width, height, weight] = rectangles
      .slice(at, at + 5)
      .map((value, index) => (index < 4 ? Math.round(value * scale) : value));
    numbers.push(y! * row + x!, width!, height! * row, weight!);
    if (at === 0) firstArea = width! * height!;
    else rest += weight! * width! * height!;
  }
  // Rounded sides change the areas: the first weight is what makes an even window come out as nothing.
  numbers[3] = -rest / firstArea;
  while (numbers.length < MOST_RECTANGLES * PER_RECTANGLE) numbers.push(0, 0, 0, 0);
  return [...numbers, threshold * area, below ?? NaN, above ?? NaN];
}

function isFace(stages: readonly ScaledStage[], { sum, squares }: Integrals, at: number, side: number, row: number): boolean {
  const [right, down] = [side, side * row];
  const area = side * side;
  const mean = (sum[at]! - sum[at + right]! - sum[at + down]! + sum[at + down + right]!) / area;
  const variance = (squares[at]! - squares[at + right]! - squares[at + down]! + squares[at + down + right]!) / area - mean * mean;
  if (variance < LEAST_CONTRAST ** 2) return false;
  const deviation = Math.sqrt(variance);
  for (const { threshold, features } of stages) {
    let total = 0;
    for (let tree = 0; tree < features.length; tree += 2 * PER_FEATURE) {
      const value = valueOf(features, tree, sum, at, deviation);
      total += Number.isNaN(value) ? valueOf(features, tree + PER_FEATURE, sum, at, deviation) : value;
    }
    if (total < threshold) return false;
  }
  return true;
}

function valueOf(features: Float64Array, feature: number, sum: Float64Array, at: number, deviation: number): number {
  let value = 0;
  const last = feature + MOST_RECTANGLES * PER_RECTANGLE;
  for (let k = feature; k < last; k += PER_RECTANGLE) {
    const weight = features[k + 3]!;
    if (weight === 0) break;
    const corner = at + features[k]!;
    const [width, height] = [features[k + 1]!, features[k + 2]!];
    value += weight * (sum[corner]! - sum[corner + width]! - sum[corner + height]! + sum[corner + height + width]!);
  }
  return value < features[last]! * deviation ? features[last + 1]! : features[last + 2]!;
}

/** Windows of one face become its mean; what few agree on is none, and what lies in another face with more belongs to that. */
function agreed(found: readonly Box[]): Box[] {
  const groups: Box[][] = [];
  for (const box of found) {
    const near = groups.find((group) => isNear(meanOf(group), box));
    if (near) near.push(box);
    else groups.push([box]);
  }
  groups.sort((one, other) => other.length - one.length);
  const enough = Math.max(AGREEING.least, AGREEING.share * (groups[0]?.length ?? 0));
  const strong = groups.filter(({ length }) => length >= enough);
  const faces: Box[] = [];
  for (const box of strong.map(meanOf)) if (!faces.some((face) => overlaps(face, box))) faces.push(box);
  return faces;
}

function meanOf(boxes: readonly Box[]): Box {
  const mean = (key: keyof Box) => boxes.reduce((sum, box) => sum + box[key], 0) / boxes.length;
  return { left: mean('left'), top: mean('top'), width: mean('width'), height: mean('height') };
}

function isNear(one: Box, other: Box): boolean {
  const most = APART * Math.min(one.width, other.width);
  const middle = ({ left, top, width, height }: Box) => [left + width / 2, top + height / 2] as const;
  const [a, b] = [middle(one), middle(other)];
  return Math.hypot(a[0] - b[0], a[1] - b[1]) <= most && Math.abs(one.width - other.width) <= 1.5 * most;
}

function overlaps(one: Box, other: Box): boolean {
  const along = (a: number, b: number, c: number, d: number) => Math.min(a + b, c + d) - Math.max(a, c);
  const [x, y] = [along(one.left, one.width, other.left, other.width), along(one.top, one.height, other.top, other.height)];
  return x > 0 && y > 0 && x * y > 0.3 * Math.min(one.width * one.height, other.width * other.height);
}
