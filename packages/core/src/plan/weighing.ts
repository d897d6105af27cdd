import * as z from 'zod';

/** Qualities at which parts of a picture are weighed as JPEGs with halved chroma. */
export const WEIGHED_QUALITIES = [40, 60, 80, 92, 100] as const;
/** The lowest quality that is weighed, for what is coarser than all of them. */
export const WEIGHED_COARSE = 20;
/** And of those with full chroma. */
export const WEIGHED_FULL = [80, 100] as const;
/** The sharpening at which all but `unsharpened` is weighed: that of a new preset. */
export const WEIGHED_SHARPENING = { amount: 0.7, radius: 0.8, threshold: 0.01 } as const;
/** The quality of the WebP and of the AVIF that are weighed. */
export const WEIGHED_WEBP = 75;
export const WEIGHED_AVIF = 60;
/** And once more, finer: grain weighs there, of which the others leave little. */
export const WEIGHED_FINE = { webp: 92, avif: 80 } as const;

const bits = z.number().positive().meta({ description: 'Bits per pixel, without what a file needs anyway' });

/**
 * What parts of a picture weigh at one size, encoded as outputs are: from a few of these the weight of any output can be expected. Null
 * where it was not weighed at that size.
 */
export const Weighing = z.object({
  edge: z.int().meta({ description: 'Long edge of the whole picture at that size, px' }),
  smears: z
    .boolean()
    .meta({ description: 'Whether halved chroma would smear it, so that it gets full chroma where the preset leaves that open' }),
  jpeg: z
    .array(bits)
    .length(WEIGHED_QUALITIES.length)
    .meta({ description: `Chroma halved, quality ${WEIGHED_QUALITIES.join(', ')}` }),
  coarse: bits
    .nullable()
    .default(null)
    .meta({ description: `Chroma halved, quality ${WEIGHED_COARSE}; null: weighed by an earlier release` }),
  full: z
    .array(bits)
    .length(WEIGHED_FULL.length)
    .meta({ description: `Chroma whole, quality ${WEIGHED_FULL.join(', ')}` }),
  unsharpened: bits.nullable().meta({ description: 'As the JPEG of quality 80, without sharpening' }),
  webp: bits.nullable().meta({ description: `Quality ${WEIGHED_WEBP}` }),
  avif: bits.nullable().meta({
    description: `Quality ${WEIGHED_AVIF}; weighed once a preset that makes AVIF is planned, since it takes as long as all the others`,
  }),
  fine: z
    .object({ webp: bits, avif: bits.nullable() })
    .nullable()
    .default(null)
    .meta({ description: `WebP of quality ${WEIGHED_FINE.webp}, AVIF of quality ${WEIGHED_FINE.avif}` }),
  tiff: bits.nullable().meta({ description: '8 bits, ZIP' }),
});
export type Weighing = z.infer<typeof Weighing>;

/** Long edges in px at which every picture is weighed whole when it is read: its small picture, and half of that. */
export const SMALL_EDGES = [256, 512] as const;

/**
 * Shares of the long edge at which a picture is weighed once more, in parts and at leisure. Its full size stands for itself: there a JPEG is
 * divided by the same blocks once more, and weighs otherwise than a little smaller.
 */
const FINE_SHARES = [0.25, 0.5, 0.95, 1] as const;
/** Below this long edge, in px, the small picture says enough. */
const FINE_FROM = 800;
/** Above this one, in px, it is too much work for what it tells. */
const FINE_TO = 4200;

/**
 * The long edges, in px, at which a picture is to be weighed once more beside {@link SMALL_EDGES}, smallest first; none for small ones.
 * @example fineEdges({ width: 6000, height: 4000 }) // [1500, 3000]: the others are too large
 */
export function fineEdges({ width, height }: { width: number; height: number }): number[] {
  const long = Math.max(width, height);
  return FINE_SHARES.map((share) => Math.round(long * share)).filter((edge) => edge >= FINE_FROM && edge <= FINE_TO);
}

/** All weighings of a picture, smallest first; of two at nearly one size the later one counts, which is the more exact. */
export const allWeighings = (small: readonly Weighing[], fine: readonly Weighing[]): Weighing[] =>
  [...small.filter(({ edge }) => !fine.some((other) => Math.abs(Math.log(other.edge / edge)) < 0.1)), ...fine].sort(
    (a, b) => a.edge - b.edge,
  );

/** Whether all is weighed of a picture that presets need who make AVIF; small pictures never are at their larger sizes, since they have none. */
export const isAvifWeighed = (facts: { width: number; height: number; weighings: readonly Weighing[] }): boolean =>
  fineEdges(facts).length === 0 || facts.weighings.some(({ avif }) => avif !== null);
