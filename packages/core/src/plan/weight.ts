import type { MasterFacts } from '../facts/facts';
import { type EncodedFileByType, FILE_TYPES, fileByType } from '../types/table';
import type { QualityCurve, WeightScale } from '../types/type';
import { chromaSampling } from '../file/chroma';
import { withoutBorder } from '../making/making';
import { type FileRung, METADATA_GROUPS, type MetadataGroup, type Preset } from '../preset/schema';
import type { PixelSize } from '../size/geometry';
import { WEIGHED_COARSE, WEIGHED_FINE, WEIGHED_FULL, WEIGHED_QUALITIES, WEIGHED_SHARPENING, type Weighing } from './weighing';

/*
 * What an output will weigh can only be expected, and screens say "about". Parts of each picture have been weighed at a few sizes and
 * qualities; what lies between them is found between them, on straight lines of logarithms. bench/src/weights.ts holds it against real outputs.
 */

/** Quality the small picture is encoded with. */
export const PROXY_QUALITY = 80;
/** Long edge of the small picture in px. */
export const PROXY_EDGE = 512;

/** Bytes of EXIF, IPTC and XMP where something is kept or filled in, as the demo pictures have them; without, the resolution alone is written. */
const METADATA = 3000;

/** Medians of ordinary photographs: what is expected of pictures that have not been weighed. */
const ORDINARY: readonly Weighing[] = (
  [
    [256, [0.59, 0.81, 1.21, 2, 5.23], [1.61, 8.5], 0.73, 0.73, 11.2],
    [512, [0.42, 0.55, 0.86, 1.4, 4.41], [1.13, 7.42], 0.45, 0.47, 9.7],
    [1500, [0.28, 0.41, 0.64, 1.12, 3.62], [0.84, 6.16], 0.3, 0.33, 8.9],
  ] as const
).map(([edge, jpeg, full, webp, avif, tiff]) => ({
  edge,
  smears: false,
  jpeg: [...jpeg],
  coarse: null,
  fine: null,
  full: [...full],
  unsharpened: jpeg[2] * 0.8,
  webp,
  avif,
  tiff,
}));

/** How much sharpening that is stronger or finer than the one that was weighed counts at most. */
const STRONGEST = 3;

/** Beyond the largest size that was weighed, bits per pixel fall with the long edge to a power between these. */
const STEEPEST = -1.2;
const FLATTEST = 0.1;

/** What decides the weight of an output, beside its picture and its size. */
export type WeightPreset = Pick<Preset, 'file' | 'sharpen' | 'border' | 'metadata'>;
/** What has to be known of a master. */
export type WeightFacts = Pick<MasterFacts, 'bytes' | 'format' | 'jpegQuality' | 'width' | 'height' | 'proxy' | 'weighings'> &
  Pick<MasterFacts, 'carries' | 'rights' | 'title' | 'caption' | 'keywords' | 'captured' | 'camera' | 'lens' | 'gps' | 'rating'>;

/**
 * The expected weight of an output in bytes.
 * @param facts what was weighed of the master; without it, what is ordinary
 * @param output size of the output in px, its border included
 * @param magnified how many times as large as the output all of the picture would be, where it is a part of it
 * @param fills whether there are rights details that would be filled in where the master has none
 */
export const expectedBytes = (facts: WeightFacts, output: PixelSize, preset: WeightPreset, magnified = 1, fills = false): number =>
  Math.min(mostBytes(preset.file), bytesWithoutCeiling(facts, output, preset, magnified, fills));

/** The same, whatever its ceiling is. */
export function bytesWithoutCeiling(facts: WeightFacts, output: PixelSize, preset: WeightPreset, magnified = 1, fills = false): number {
  const { metadata, file } = preset;
  const settings = fileByType(file);
  if (settings.type === 'original') return facts.bytes;
  const { width, height } = withoutBorder(output, preset);
  const bits = Math.exp(logBits(facts, Math.max(width, height) * magnified, settings, preset.sharpen));
  const pixels = Math.min(output.width * output.height * 3 * (file.bits / 8), (width * height * bits) / 8);
  const described = METADATA_GROUPS.some((group) => metadata[group] === 'keep' && hasGroup(facts, group));
  const keeps = described || (fills && metadata.fill && metadata.rights === 'keep');
  return Math.round(pixels + FILE_TYPES[settings.type].besidePixels + (keeps ? METADATA : 0));
}

/** What a file may weigh at most. */
export const mostBytes = ({ type, ceiling }: FileRung): number => (type === 'original' ? Infinity : (ceiling?.bytes ?? Infinity));

/** The file that was made last of a picture by a preset, whatever the preset says by now. */
export interface WeightBefore {
  /** Whether it would be made the same way today. */
  isSame: boolean;
  bytes: number;
  /** What it was expected to weigh by its picture alone. */
  guessedBytes: number;
}

/** A guess that was further off than this was about another kind of file. */
const MOST_OFF = 2;

/**
 * The expected weight of an output of which a file was made before: as much, where it would be made the same way; else a guess that is off by as much as
 * the one before was.
 * @param guess by its picture alone, without its ceiling
 */
export function bytesAfter({ isSame, bytes, guessedBytes }: WeightBefore, guess: number, file: FileRung): number {
  if (isSame) return bytes;
  const off = guessedBytes > 0 ? Math.min(MOST_OFF, Math.max(1 / MOST_OFF, bytes / guessedBytes)) : 1;
  return Math.min(mostBytes(file), Math.round(off * guess));
}

/** Whether a master has anything that belongs to a group of metadata; of what belongs to none, that is not known. */
function hasGroup(facts: WeightFacts, group: MetadataGroup): boolean {
  if (group !== 'other' && facts.carries.includes(group)) return true;
  switch (group) {
    case 'rights':
      return Object.values(facts.rights).some((value) => value !== null);
    case 'description':
      return facts.title !== null || facts.caption !== null || facts.keywords.length > 0;
    case 'capture':
      return facts.captured !== null || facts.camera !== null || facts.lens !== null;
    case 'place':
      return facts.gps;
    case 'rating':
      return facts.rating !== null;
    case 'other':
      return true;
  }
}

/** A place on a line: where it is, and its value; both logarithms. */
type Point = readonly [at: number, value: number];

/** Share of the full size from which a weighing stands for those just below it. */
const NEAR = 0.9;

/** Logarithm of the bits per pixel at a long edge. */
function logBits(facts: WeightFacts, edge: number, settings: EncodedFileByType, sharpen: Preset['sharpen']): number {
  const long = Math.max(facts.width, facts.height);
  const asItIs = facts.weighings.find((weighing) => weighing.edge === long);
  // Where one a little smaller stands beside it, that says more about all others.
  const hasNear = facts.weighings.some((weighing) => weighing !== asItIs && weighing.edge > NEAR * long);
  const weighings = hasNear ? facts.weighings.filter((weighing) => weighing !== asItIs) : facts.weighings;
  const { proxy } = facts;
  if (asItIs && edge === long) return logBitsOf(asItIs, weighings, settings) + sharper(asItIs, weighings, sharpen);
  const [of, shift] = weighings.length ? [weighings, 0] : [ORDINARY, proxy ? busier(proxy) : 0];
  const place = (index: number) => Math.log(of[index]!.edge);
  const bits = (index: number) => logBitsOf(of[index]!, of, settings) + sharper(of[index]!, of, sharpen);
  const at = Math.log(edge);
  const largest = of.length - 1;
  if (at <= place(largest)) return along(of.length, place, bits, at) + shift;
  const last: Point = [place(largest), bits(largest)];
  const before: Point = largest > 0 ? [place(largest - 1), bits(largest - 1)] : last;
  const end = weighings.length ? masterItself(facts, of.at(-1)!, last[1], settings) : null;
  if (end && end[0] > last[0]) return between([last, end], at);
  const slope = before === last ? 0 : Math.min(FLATTEST, Math.max(STEEPEST, (last[1] - before[1]) / (last[0] - before[0])));
  return last[1] + slope * (at - last[0]) + shift;
}

/** How much more than ordinary a picture is said to weigh by the small one that earlier releases made of it. */
const busier = ({ width, height, bytes }: NonNullable<MasterFacts['proxy']>): number =>
  Math.log((8 * bytes) / (width * height)) - Math.log(ORDINARY[1]!.unsharpened!);

/**
 * What a JPEG lost when it was made comes back at no finer quality: so much less, as a logarithm, for each step of coarseness, and at most for so many.
 * Fitted on photographs whose full size was weighed beside one a little smaller.
 */
const GONE = 0.22;
const MOST_GONE = 1.6;

/**
 * A JPEG has been weighed by who made it, at its full size and its own quality.
 * @param widest its largest weighing; from there on, another quality and type are expected to make the same difference
 */
function masterItself(
  { format, jpegQuality, bytes, width, height }: WeightFacts,
  widest: Weighing,
  there: number,
  settings: EncodedFileByType,
): Point | null {
  if (format !== 'jpeg' || jpegQuality === null) return null;
  const own =
    Math.log((8 * bytes) / (width * height)) -
    jpegBits(
      widest,
      jpegQuality,
      chromaSampling('auto', jpegQuality, () => false),
    );
  const finer = settings.type === 'jpeg' && settings.aim.by === 'quality' ? coarseness(jpegQuality) - coarseness(settings.aim.quality) : 0;
  return [Math.log(Math.max(width, height)), there + own - GONE * Math.min(MOST_GONE, Math.max(0, finer))];
}

/** The same at one size that was weighed, sharpened as it was then. */
const logBitsOf = (weighing: Weighing, all: readonly Weighing[], settings: EncodedFileByType): number =>
  FILE_TYPES[settings.type].expectedBits(settings as never, new ScaleAt(weighing, all));

/** What types expect their weight by, at one size that was weighed. */
class ScaleAt implements WeightScale {
  constructor(
    private readonly weighing: Weighing,
    private readonly all: readonly Weighing[],
  ) {}

  jpeg(quality: number, chroma: FileRung['chroma']): number {
    const { weighing } = this;
    return jpegBits(
      weighing,
      quality,
      chromaSampling(chroma, quality, () => weighing.smears),
    );
  }

  ratio(weighed: 'webp' | 'avif' | 'tiff'): number {
    return ratioTo(this.all, weighed, this.weighing.edge) + jpegBits(this.weighing, RATIO_TO, '4:2:0');
  }

  along(type: 'webp' | 'avif', quality: number, curve: QualityCurve): number {
    const step = alongJpeg(this.weighing, quality, curve);
    return step > 0 ? step * this.steepness(type, curve) : step;
  }

  /** How much more a type gains with quality than its curve says, by a finer one that was weighed. */
  private steepness(type: 'webp' | 'avif', curve: QualityCurve): number {
    const known = [this.weighing, ...this.all].find((weighing) => weighing[type] && weighing.fine?.[type]);
    const expected = alongJpeg(known ?? this.weighing, WEIGHED_FINE[type], curve);
    return known && expected > 0 ? Math.log(known.fine![type]! / known[type]!) / expected : 1;
  }

  sampling(quality: number, chroma: FileRung['chroma']): '4:2:0' | '4:4:4' {
    return chromaSampling(chroma, quality, () => this.weighing.smears);
  }

  matchStep(match: number): number {
    return matchStep(match);
  }
}

/** A likeness of 0.985 gives about half of what quality 80 weighs; the nearer to 1, the more it takes. */
const matchStep = (match: number): number => Math.log(0.48) + 0.5 * Math.log(0.015 / Math.max(1e-4, 1 - match));

/** The quality of the JPEG against which the other types are kept. */
const RATIO_TO = 75;

/** How another type compares with the JPEG at a size, between the sizes at which it was weighed. */
function ratioTo(all: readonly Weighing[], key: 'webp' | 'avif' | 'tiff', edge: number): number {
  const points = all.flatMap((weighing): Point[] => {
    const bits = weighing[key];
    return bits === null ? [] : [[Math.log(weighing.edge), Math.log(bits) - jpegBits(weighing, RATIO_TO, '4:2:0')]];
  });
  if (points.length === 0) return ratioTo(ORDINARY, key, edge);
  return between(points, Math.min(points.at(-1)![0], Math.max(points[0]![0], Math.log(edge))));
}

function alongJpeg(weighing: Weighing, quality: number, curve: QualityCurve): number {
  const like = Math.min(100, Math.max(1, between(curve, quality)));
  return jpegBits(weighing, like, '4:2:0') - jpegBits(weighing, RATIO_TO, '4:2:0');
}

/** Logarithm of the bits per pixel of the JPEG, between the qualities that were weighed. */
function jpegBits({ jpeg, coarse, full }: Weighing, quality: number, chroma: '4:2:0' | '4:4:4'): number {
  const at = coarseness(quality);
  // Earlier releases did not weigh the coarsest.
  const count = HALVED.length + (coarse ? 1 : 0);
  const place = (index: number) => HALVED[index]?.[0] ?? coarseness(WEIGHED_COARSE);
  const halved = along(count, place, (index) => Math.log(index < HALVED.length ? jpeg[HALVED[index]![1]]! : coarse!), at);
  if (chroma === '4:2:0') return halved;
  const more = (index: number) => Math.log(full[FULL[index]![1]]! / jpeg[FULL[index]![2]]!);
  // Below the lowest of them the difference stays.
  return halved + along(FULL.length, (index) => FULL[index]![0], more, Math.min(FULL.at(-1)![0], at));
}

/**
 * How coarsely a quality divides, as a logarithm: the usual scale of the Independent JPEG Group's encoder (5000/q below 50, 200 - 2q
 * above), by which weight goes nearly straight.
 */
const coarseness = (quality: number): number => Math.log(Math.max(2, quality < 50 ? 5000 / quality : 200 - 2 * quality));
/** The qualities that were weighed, the finest first, and their places in a {@link Weighing}. */
const HALVED = WEIGHED_QUALITIES.map((quality, index) => [coarseness(quality), index] as const).toReversed();
const FULL = WEIGHED_FULL.map((quality, index) => [coarseness(quality), index, WEIGHED_QUALITIES.indexOf(quality)] as const).toReversed();

/** What sharpening otherwise than the one that was weighed adds or takes. */
function sharper(weighing: Weighing, all: readonly Weighing[], sharpen: Preset['sharpen']): number {
  const known = weighing.unsharpened === null ? all.find(({ unsharpened }) => unsharpened !== null) : weighing;
  if (!known?.unsharpened) return 0;
  const strength = sharpen ? (sharpen.amount * sharpen.radius) / (WEIGHED_SHARPENING.amount * WEIGHED_SHARPENING.radius) : 0;
  return Math.log(known.jpeg[WEIGHED_QUALITIES.indexOf(80)]! / known.unsharpened) * (Math.min(STRONGEST, strength) - 1);
}

/** The value at a place: on the line between its two neighbours, or on from the outermost two. @param points by place, at least one */
const between = (points: readonly Point[], at: number): number =>
  along(
    points.length,
    (index) => points[index]![0],
    (index) => points[index]![1],
    at,
  );

/** The same of points of which only the two are worked out: thousands of outputs ask for it. */
function along(count: number, place: (index: number) => number, value: (index: number) => number, at: number): number {
  let next = 1;
  while (next < count - 1 && place(next) < at) next++;
  const to = Math.min(next, count - 1);
  const from = next - 1;
  const end = value(to);
  if (from === to) return end;
  const [begin, left, right] = [value(from), place(from), place(to)];
  return begin + ((end - begin) * (at - left)) / (right - left);
}
