import type { UnsharpMask } from '../sharpen/unsharp-mask';

/** A starting point for sharpening, by what the picture will be seen on. */
export interface Medium {
  title: string;
  mask: UnsharpMask;
}

/**
 * Screens as needs demand: radius about 0.8 px, amount 0.5 to 1. Paper takes more, since ink spreads: the more the stock soaks it up, the wider and
 * stronger (common practice, no source). Each is plain numbers that can be changed.
 */
export const MEDIUMS: readonly Medium[] = [
  { title: 'Sharpened gently', mask: { amount: 0.4, radius: 0.7, threshold: 0.01 } },
  { title: 'Sharpened for the screen', mask: { amount: 0.7, radius: 0.8, threshold: 0.01 } },
  { title: 'Sharpened strongly for the screen', mask: { amount: 1.1, radius: 0.8, threshold: 0.01 } },
  { title: 'Sharpened for photographic prints', mask: { amount: 0.9, radius: 1.1, threshold: 0.01 } },
  { title: 'Sharpened for ink on coated stock', mask: { amount: 1.2, radius: 1.4, threshold: 0.01 } },
  { title: 'Sharpened for ink on uncoated stock', mask: { amount: 1.6, radius: 1.8, threshold: 0.01 } },
];

/** What a mask is called, if it is one of them. */
export const mediumOf = ({ amount, radius, threshold }: UnsharpMask): string | undefined =>
  MEDIUMS.find(({ mask }) => mask.amount === amount && mask.radius === radius && mask.threshold === threshold)?.title;
