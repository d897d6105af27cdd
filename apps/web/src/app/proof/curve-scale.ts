/** What an axis shows, in logarithms of ten where it is one of those. */
export interface Range {
  from: number;
  to: number;
  isLog: boolean;
}

/** Room beside the outermost points, as a share of what lies between them. */
const PAD = 0.06;

/** The range that shows all values with some room around; null without any. */
export function rangeOf(values: readonly number[], isLog: boolean): Range | null {
  if (values.length === 0) return null;
  const own = isLog ? values.map((value) => Math.log10(value)) : values;
  const [low, high] = [Math.min(...own), Math.max(...own)];
  const room = (high - low) * PAD || 0.5;
  return { from: low - room, to: high + room, isLog };
}

/** Where a value lies in a range: 0 at its begin, 1 at its end. */
export const shareOf = ({ from, to, isLog }: Range, value: number): number => ((isLog ? Math.log10(value) : value) - from) / (to - from);

export const clamped = (share: number): number => Math.min(1, Math.max(0, share));

/** The same for what is drawn: what lies beyond stands at the edge. */
export const placeOf = (range: Range, value: number): number => clamped(shareOf(range, value));

/** The value at a share of a range. */
export function valueAt({ from, to, isLog }: Range, share: number): number {
  const value = from + share * (to - from);
  return isLog ? 10 ** value : value;
}
