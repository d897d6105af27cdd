/** Where the cards of a contact sheet stand, in px. */
export interface Grid {
  columns: number;
  cardWidth: number;
  /** Between the cards of a row. */
  gap: number;
  /** Of a card and the space below it. */
  rowHeight: number;
  /** Between two rows. */
  rowGap: number;
}

/** A rectangle on the sheet, in px. */
export interface Band {
  left: number;
  top: number;
  width: number;
  height: number;
}

/** Cards are a little wider than a landscape picture of the thumbnail's height, and fill the width. */
const SHAPE = 1.42;

/** @param text height of everything on a card that is not thumbnail */
export function gridOf(width: number, thumbnail: number, text: number, { gap, rowGap }: Pick<Grid, 'gap' | 'rowGap'>): Grid {
  const columns = Math.max(1, Math.floor((width + gap) / (thumbnail * SHAPE + gap)));
  return { columns, cardWidth: (width - gap * (columns - 1)) / columns, gap, rowHeight: thumbnail + text + rowGap, rowGap };
}

/** The rectangle between two corners. */
export const band = (a: { x: number; y: number }, b: { x: number; y: number }): Band => ({
  left: Math.min(a.x, b.x),
  top: Math.min(a.y, b.y),
  width: Math.abs(a.x - b.x),
  height: Math.abs(a.y - b.y),
});

/** Places of the cards that a rectangle touches. */
export function inBand({ left, top, width, height }: Band, { columns, cardWidth, gap, rowHeight, rowGap }: Grid, count: number): number[] {
  const step = cardWidth + gap;
  const firstColumn = Math.max(0, Math.floor((left + gap) / step));
  const lastColumn = Math.min(columns - 1, Math.floor((left + width) / step));
  const firstRow = Math.max(0, Math.floor((top + rowGap) / rowHeight));
  const lastRow = Math.floor((top + height) / rowHeight);
  const places: number[] = [];
  for (let row = firstRow; row <= lastRow; row++)
    for (let column = firstColumn; column <= lastColumn; column++) if (row * columns + column < count) places.push(row * columns + column);
  return places;
}

/** The place that an arrow key leads to from another; the same where there is none. */
export function step(from: number, key: string, columns: number, count: number): number {
  const ways: Record<string, number> = {
    ArrowLeft: -1,
    ArrowRight: 1,
    ArrowUp: -columns,
    ArrowDown: columns,
    Home: -from,
    End: count - 1 - from,
  };
  const to = from + (ways[key] ?? 0);
  return to < 0 || to >= count ? from : to;
}
