import type { GalleryLayout } from './wish';

/*
 * How wide a picture of a gallery stands at each width of the window. The style sheet and the `sizes` of the pictures are made from the same
 * figures, so that a browser fetches what it needs, before it has laid the page out.
 */

/** Widths of the window, CSS px, from which on other margins, gaps and columns hold. */
export const CLASSES = [
  { name: 'narrow', from: 0, margin: 16, gap: 8, columns: 2, rowRatio: 1.5 },
  { name: 'middle', from: 600, margin: 24, gap: 12, columns: 3, rowRatio: 3.2 },
  { name: 'wide', from: 1100, margin: 32, gap: 16, columns: 4, rowRatio: 4.6 },
] as const;

/** The rule of a style sheet from which on a class of windows holds. */
export const windowsFrom = (at: number): string => `@media (min-width: ${CLASSES[at]!.from}px)`;

/** The page grows no wider than this, CSS px. */
export const WIDEST = 1600;
/** Nor a column of pictures with text. */
export const WIDEST_COLUMN = 860;

/** From a width of the window on, CSS px, a picture is `slope` times as wide as the window, and `offset` px more. */
export interface Stretch {
  from: number;
  slope: number;
  offset: number;
}

/** What a picture takes of its row: a share of what the row's gaps leave. */
export interface Share {
  share: number;
  gaps: number;
}

/** The widths of one picture, by the classes. */
export type Slot = [narrow: Share, middle: Share, wide: Share];

/**
 * How wide each picture stands.
 * @param ratios width by height of each
 */
export function slotsOf(layout: GalleryLayout, ratios: readonly number[]): Slot[] {
  switch (layout) {
    case 'grid':
      return ratios.map((ratio) => CLASSES.map(({ columns }) => ({ share: Math.min(1, ratio) / columns, gaps: columns - 1 })) as Slot);
    case 'column':
      // An upright picture keeps below the height that a square one would have, but on a telephone.
      return ratios.map((ratio) => CLASSES.map((_, at) => ({ share: at === 0 ? 1 : Math.min(1, ratio), gaps: 0 })) as Slot);
    case 'rows': {
      const [narrow, middle, wide] = CLASSES.map(({ rowRatio }) => rowsOf(ratios, rowRatio));
      return ratios.map((_, at) => [narrow![at]!, middle![at]!, wide![at]!]);
    }
  }
}

/** Fills rows of equal height: as many pictures as make a row about so much wider than high; the last one is not stretched. */
function rowsOf(ratios: readonly number[], wanted: number): Share[] {
  const rows: number[][] = [];
  let row: number[] = [];
  let sum = 0;
  for (const ratio of ratios) {
    row.push(ratio);
    sum += ratio;
    if (sum >= wanted * 0.85) {
      rows.push(row);
      [row, sum] = [[], 0];
    }
  }
  if (row.length) rows.push(row);
  return rows.flatMap((pictures) => {
    const whole = pictures.reduce((a, b) => a + b, 0);
    const isLast = pictures === row;
    const width = isLast ? Math.max(whole, wanted) : whole;
    // Rounded down: a row that is wider than the page by a hair would break.
    return pictures.map((ratio) => ({ share: Math.floor((ratio / width) * 10_000) / 10_000, gaps: pictures.length - 1 }));
  });
}

/** The stretches of a picture, from narrow windows to wide ones. */
export function stretchesOf(layout: GalleryLayout, slot: Slot): Stretch[] {
  const widest = layout === 'column' ? WIDEST_COLUMN : WIDEST;
  return CLASSES.flatMap(({ from, margin, gap }, at): Stretch[] => {
    const { share, gaps } = slot[at]!;
    const to = CLASSES[at + 1]?.from ?? Infinity;
    const inner = layout === 'column' ? WIDEST_COLUMN : widest - 2 * margin;
    const full = inner + 2 * margin;
    const grows = { from, slope: share, offset: -share * (2 * margin + gaps * gap) };
    const stands = { from: Math.max(from, full), slope: 0, offset: share * (inner - gaps * gap) };
    if (full <= from) return [stands];
    return full < to ? [grows, stands] : [grows];
  });
}

/** How wide a picture stands in a window, CSS px. */
export function slotWidth(stretches: readonly Stretch[], windowWidth: number): number {
  const { slope, offset } = stretches.findLast(({ from }) => windowWidth >= from)!;
  return slope * windowWidth + offset;
}
