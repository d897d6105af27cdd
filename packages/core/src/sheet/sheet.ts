import * as z from 'zod';
import { decimal, flag, line, oneOf, whole } from '../preset/fields';
import type { PixelSize } from '../size/geometry';

/** Sizes of paper in mm: ISO 216; letter is 8.5 x 11 in (ANSI/ASME Y14.1). */
export const PAPERS = {
  a3: { label: 'A3', width: 297, height: 420 },
  a4: { label: 'A4', width: 210, height: 297 },
  a5: { label: 'A5', width: 148, height: 210 },
  letter: { label: 'Letter', width: 215.9, height: 279.4 },
} as const;
export type PaperName = keyof typeof PAPERS;
export const PAPER_NAMES = Object.keys(PAPERS) as [PaperName, ...PaperName[]];

/** How prints of a set are laid out on pages. */
export const SheetLook = z
  .strictObject({
    paper: oneOf(PAPER_NAMES).default('a4'),
    landscape: flag().default(false).meta({ description: 'Whether the paper lies on its side' }),
    margin: decimal(0, 60, 'mm').default(15).meta({ description: 'On each side, mm' }),
    columns: whole(1, 12).default(3).meta({ description: 'Pictures side by side' }),
    rows: whole(1, 12).default(4).meta({ description: 'Pictures one below the other' }),
    title: line(200).default('').meta({ description: 'Above each page; empty: none' }),
    names: flag().default(true).meta({ description: 'Whether file names stand under the pictures' }),
    titles: flag().default(false).meta({ description: 'Whether their titles do' }),
    credit: flag().default(true).meta({ description: 'Whether their credit lines do' }),
    numbers: flag().default(true).meta({ description: 'Whether pages are numbered' }),
  })
  .meta({ id: 'SheetLook' });
export type SheetLook = z.infer<typeof SheetLook>;

/** A place on a page, in points of 1/72 in from its upper left corner. */
export interface PageBox {
  left: number;
  top: number;
  width: number;
  height: number;
}

export interface SheetLayout {
  /** The paper, points. */
  page: { width: number; height: number };
  perPage: number;
  /** Where each picture of a page has its room, and the lines under it theirs. */
  cells: { picture: PageBox; text: PageBox }[];
  /** Of the title above and the page number below; null: there is none. */
  head: PageBox | null;
  foot: PageBox | null;
}

const POINTS_PER_MM = 72 / 25.4;
/** Height of a line of text under a picture, and of what stands above and below a page, points. */
export const LINE = 11;
const HEAD = 26;
const FOOT = 18;
/** Between two pictures, points. */
const GAP = 12;

/** Lines of text under each picture. */
export const linesOf = ({ names, titles, credit }: SheetLook): number => [names, titles, credit].filter(Boolean).length;

/**
 * How pages are divided.
 * @throws RangeError when the margins and the text leave no room for pictures
 */
export function sheetLayout(look: SheetLook): SheetLayout {
  const { columns, rows } = look;
  const { width: short, height: long } = PAPERS[look.paper];
  const [width, height] = (look.landscape ? [long, short] : [short, long]).map((mm) => mm * POINTS_PER_MM) as [number, number];
  const margin = look.margin * POINTS_PER_MM;
  const inner = { left: margin, top: margin, width: width - 2 * margin, height: height - 2 * margin };
  const above = look.title ? HEAD : 0;
  const below = look.numbers ? FOOT : 0;
  const textHeight = linesOf(look) * LINE;
  const cell = {
    width: (inner.width - (columns - 1) * GAP) / columns,
    height: (inner.height - above - below - (rows - 1) * GAP) / rows,
  };
  const pictureHeight = cell.height - textHeight - (textHeight ? 4 : 0);
  if (cell.width < LEAST || pictureHeight < LEAST)
    throw new RangeError('There is no room for pictures. Choose fewer columns or rows, smaller margins, or a larger paper.');
  const cells = Array.from({ length: columns * rows }, (_, index) => {
    const left = inner.left + (index % columns) * (cell.width + GAP);
    const top = inner.top + above + Math.floor(index / columns) * (cell.height + GAP);
    return {
      picture: { left, top, width: cell.width, height: pictureHeight },
      text: { left, top: top + cell.height - textHeight, width: cell.width, height: textHeight },
    };
  });
  return {
    page: { width, height },
    perPage: cells.length,
    cells,
    head: above ? { ...inner, height: above } : null,
    foot: below ? { ...inner, top: inner.top + inner.height - 10, height: 10 } : null,
  };
}

/** The smallest side of a picture that shows anything, points. */
const LEAST = 24;

/** A picture as large as its room allows, in the middle of it and standing on its lower edge. */
export function placedIn({ left, top, width, height }: PageBox, picture: PixelSize): PageBox {
  const scale = Math.min(width / picture.width, height / picture.height);
  const size = { width: picture.width * scale, height: picture.height * scale };
  return { left: left + (width - size.width) / 2, top: top + height - size.height, ...size };
}

/** Pixels that are printed to the inch: more are not seen (common practice, no source). */
const PRINTED_PPI = 300;

/** The box in px that a picture fills in its room at {@link PRINTED_PPI}. */
export const printedPixels = ({ width, height }: PageBox): PixelSize => ({
  width: Math.ceil((width / 72) * PRINTED_PPI),
  height: Math.ceil((height / 72) * PRINTED_PPI),
});
