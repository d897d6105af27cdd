import * as z from 'zod';
import { DecidedOnItsWay } from '../decisions/decisions';
import { kilobytes } from '../preset/descriptors';
import { Preset } from '../preset/schema';
import type { PixelSize } from '../size/geometry';
import type { Once } from '../plan/once';
import { differenceInWords, differenceOf, DIFFERENCES } from './judgement';

/** What a feed makes of pictures that are sent to it. */
export const Feed = z
  .strictObject({
    id: z.string().regex(/^[a-z-]{1,40}$/),
    title: z.string().min(1).max(80),
    longEdge: z.int().min(200).max(8000).meta({ description: 'What is larger is made smaller to this, px' }),
    quality: z.int().min(1).max(100).meta({ description: 'Of the JPEG that it compresses to' }),
    chroma: z.enum(['4:2:0', '4:4:4']),
    leaves: z
      .int()
      .min(1)
      .max(1_000_000_000)
      .nullable()
      .meta({ description: 'A JPEG within the size that weighs so many bytes at most is not compressed again; null: every one is' }),
    converts: z.boolean().meta({ description: 'Whether colours are converted to sRGB before the profile is thrown away' }),
  })
  .meta({ id: 'Feed' });
export type Feed = z.infer<typeof Feed>;

/** Made-up feeds, as a start. */
export const EXAMPLE_FEEDS: readonly Feed[] = [
  { id: 'harbour-wall', title: 'Harbour Wall', longEdge: 2048, quality: 82, chroma: '4:2:0', leaves: 1_500_000, converts: true },
  { id: 'lantern-post', title: 'Lantern Post', longEdge: 1440, quality: 72, chroma: '4:2:0', leaves: null, converts: true },
  { id: 'regatta-board', title: 'Regatta Board', longEdge: 1080, quality: 60, chroma: '4:2:0', leaves: null, converts: false },
];

/** What a feed does, as a sentence. */
export function feedInWords({ longEdge, quality, leaves, converts }: Feed): string {
  const size = `Shows ${longEdge} px on the long edge at most`;
  const encoding =
    leaves === null
      ? `compresses every picture again at quality ${quality}`
      : `leaves a JPEG that fits and weighs ${kilobytes(leaves)} at most as it is, and compresses others again at quality ${quality}`;
  const colours = converts ? 'metadata and profile are thrown away' : 'metadata and profile are thrown away, colours are not converted';
  return `${size}; ${encoding}; ${colours}.`;
}

/** What a feed has done with a picture. */
export const FEED_DEEDS = ['left', 'compressed', 'shrunk'] as const;
export type FeedDeed = (typeof FEED_DEEDS)[number];

const Sent = z.object({ width: z.int(), height: z.int(), bytes: z.int() });

/** A file of a preset that has been sent to a feed, and what came back. */
export const FeedTrip = z
  .object({
    id: z.uuid().meta({ description: 'By which its pictures are fetched' }),
    sent: Sent,
    shown: Sent.meta({ description: 'As the feed gives it out' }),
    deed: z.enum(FEED_DEEDS).meta({ description: 'Left as it is; compressed again; made smaller and compressed again' }),
    fineContrast: z.number().meta({
      description:
        'Mean absolute Laplacian of luma of what the feed shows, as a share of the same in what the preset makes at that size, not encoded',
    }),
    difference: z.number().meta({ description: 'What is seen of the difference to that picture; see docs/proof.md' }),
    lost: z.array(z.enum(['metadata', 'profile'])).meta({ description: 'What the file that was sent had, and what is shown has not' }),
  })
  .meta({ id: 'FeedTrip' });
export type FeedTrip = z.infer<typeof FeedTrip>;

export const FeedTripWish = z.strictObject({ preset: Preset, decided: DecidedOnItsWay, feed: Feed.shape.id }).meta({ id: 'FeedTripWish' });

/** The stand-in feed as it is reached; without an address it does not run, and `why` says so. */
export const FeedsView = z
  .object({ address: z.string().nullable(), why: z.string().nullable(), feeds: z.array(Feed) })
  .meta({ id: 'FeedsView' });
export type FeedsView = z.infer<typeof FeedsView>;

/** The pictures of a trip: the preset's own file at the size that is shown, what is shown, and their difference. */
export const FEED_SIDES = ['before', 'after', 'difference'] as const;
export type FeedSide = (typeof FEED_SIDES)[number];

/**
 * A preset as it makes its picture at the size at which a feed shows it, to the pixel.
 * @param sent size of its own file, @param shown size of what the feed made of that, px
 */
export function presetAsShown(preset: Preset, sent: PixelSize, shown: PixelSize): Preset {
  const { size, border } = preset;
  const edge = border && Math.max(1, Math.round((border.px * shown.width) / sent.width));
  const inner = (length: number) => Math.max(1, length - 2 * (edge ?? 0));
  return {
    ...preset,
    // What is cut to fill is cut so again; all else is the whole picture, whose short side may be rounded otherwise by the feed.
    size: {
      ...size,
      fit: size.fit === 'cover' ? 'cover' : 'stretch',
      width: inner(shown.width),
      height: inner(shown.height),
      unit: 'px',
      turn: false,
    },
    border: border && { ...border, px: edge! },
  };
}

/**
 * Values that may get a preset's pictures through a feed better. Of one that leaves light JPEGs alone: its own size and one a little smaller, each at the
 * highest quality that it leaves alone, which is another for each picture. Of one that compresses everything again: its own size, and less loss before.
 */
export function betterForFeed(preset: Preset, { longEdge, leaves }: Feed, sent: PixelSize): Once[] {
  const { fit } = preset.size;
  const isLarger = Math.max(sent.width, sent.height) > longEdge;
  const px = fit === 'long-edge' && isLarger ? { px: longEdge } : null;
  const { type, match, quality, ceiling } = preset.file;
  if (isLarger && !px) return [];
  if (leaves !== null) {
    const light: Once = { ...(type === 'jpeg' ? {} : { type: 'jpeg' }), quality: FINE, ceiling: leaves };
    const isSo = type === 'jpeg' && match === null && quality >= FINE && ceiling?.bytes === leaves;
    const smaller =
      fit === 'long-edge' ? [{ px: Math.round(SMALLER * Math.min(longEdge, Math.max(sent.width, sent.height))), ...light }] : [];
    return [...(isSo && !px ? [] : [{ ...px, ...light }]), ...smaller];
  }
  const finer = type === 'jpeg' && (match !== null || quality < FINE) ? { quality: FINE } : null;
  return [px, finer ? { ...px, ...finer } : null].filter((values) => values !== null);
}

/** A quality at which a JPEG loses next to nothing before it is compressed again. */
const FINE = 95;
/** How much smaller a picture is tried, where its full size may take too much of its quality. */
const SMALLER = 0.8;

/** What the feed does with a picture, and what is seen of it, as the rest of a sentence: "leaves it alone, and no difference is seen". */
export function outcomeInWords({ deed, fineContrast, difference }: Pick<FeedTrip, 'deed' | 'fineContrast' | 'difference'>): string {
  const seen = differenceInWords(difference);
  if (deed === 'left') return `leaves it alone, and ${seen}`;
  const percent = Math.round(100 * (1 - fineContrast));
  const contrast =
    percent === 0
      ? 'its fine contrast stays'
      : percent > 0
        ? `it loses ${percent} % of its fine contrast`
        : `it gets ${-percent} % of false contrast`;
  return `${deed === 'shrunk' ? 'makes it smaller' : 'compresses it again'}; ${contrast}, and ${seen}`;
}

/**
 * The trip on which least is lost: by the word for what is seen of the difference, then the one that is shown largest, then by the difference itself.
 * Fine contrast alone would not do: compression adds some of its own, which can make up for what was lost.
 */
export function leastLost<T extends Pick<FeedTrip, 'difference' | 'shown'>>(trips: readonly T[]): T | null {
  const word = ({ difference }: T) => DIFFERENCES.indexOf(differenceOf(difference));
  const pixels = ({ shown }: T) => shown.width * shown.height;
  return [...trips].sort((a, b) => word(a) - word(b) || pixels(b) - pixels(a) || a.difference - b.difference)[0] ?? null;
}
