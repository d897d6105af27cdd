import { lengthInPixels } from '../size/length';
import type { PixelSize } from '../size/geometry';
import type { Rectangle } from '../size/rectangle';
import type { PanelsRung } from './schema';

/** One panel of a picture. */
export interface Panel {
  /** From 1, from the left and from the top. */
  column: number;
  row: number;
  /** Where it lies in the finished picture, px. */
  rectangle: Rectangle;
}

/** How a picture is divided. */
export interface PanelGrid {
  columns: number;
  rows: number;
  /** What of the picture lies in no panel, px, half of it on either side. */
  left: { x: number; y: number };
}

/** Along one side of a picture: how many panels, and where each begins and ends, px. */
interface Division {
  count: number;
  left: number;
  at: (index: number) => { from: number; to: number };
}

/** @param ppi of the preset; null: it has none, and all lengths are in px */
export function panelGrid(panels: PanelsRung, size: PixelSize, ppi: number | null): PanelGrid {
  const [x, y] = divisions(panels, size, ppi);
  return { columns: x.count, rows: y.count, left: { x: x.left, y: y.left } };
}

/**
 * One panel of a picture.
 * @param column and @param row from 1
 * @returns null where the picture has no such panel
 * @example panelAt({ columns: 3, rows: 1, ... }, { width: 7200, height: 3000 }, 300, 2, 1) // { left: 2400, top: 0, width: 2400, height: 3000 }
 */
export function panelAt(panels: PanelsRung, size: PixelSize, ppi: number | null, column: number, row: number): Rectangle | null {
  const [x, y] = divisions(panels, size, ppi);
  if (column > x.count || row > y.count) return null;
  const [across, down] = [x.at(column - 1), y.at(row - 1)];
  return { left: across.from, top: down.from, width: across.to - across.from, height: down.to - down.from };
}

/** All panels of a picture, in the order in which they are counted. */
export function panelsOf(panels: PanelsRung, size: PixelSize, ppi: number | null): Panel[] {
  const { columns, rows } = panelGrid(panels, size, ppi);
  return inOrder(panels, columns, rows).map(({ column, row }) => ({
    column,
    row,
    rectangle: panelAt(panels, size, ppi, column, row)!,
  }));
}

/** The places of a grid, row by row or column by column. */
export function inOrder({ order }: Pick<PanelsRung, 'order'>, columns: number, rows: number): { column: number; row: number }[] {
  return Array.from({ length: columns * rows }, (_, index) =>
    order === 'rows'
      ? { column: (index % columns) + 1, row: Math.floor(index / columns) + 1 }
      : { column: Math.floor(index / rows) + 1, row: (index % rows) + 1 },
  );
}

function divisions({ columns, rows, width, height, unit, overlap }: PanelsRung, size: PixelSize, ppi: number | null): [Division, Division] {
  const px = (length: number) => lengthInPixels(length, unit, ppi);
  const shared = overlap < 0 ? -px(-overlap) : overlap > 0 ? px(overlap) : 0;
  return columns !== null && rows !== null
    ? [evenly(size.width, columns, shared), evenly(size.height, rows, shared)]
    : [inPanels(size.width, px(width ?? 0), shared), inPanels(size.height, px(height ?? 0), shared)];
}

/** Panels of one length that together have a whole side; where it does not divide, some are a pixel longer. */
function evenly(side: number, count: number, shared: number): Division {
  // From the beginning of one to the beginning of the next.
  const step = (side - shared) / count;
  const at = (index: number) => ({ from: Math.round(index * step), to: Math.round((index + 1) * step + shared) });
  // Too much overlap, or gaps wider than the picture, leave nothing to divide.
  const fits = step >= 1 && step + shared >= 1;
  return { count: fits ? count : 0, left: 0, at };
}

/** As many panels of a given length as fit, in the middle of a side. */
function inPanels(side: number, panel: number, shared: number): Division {
  const step = panel - shared;
  const count = Math.max(0, Math.floor((side - shared) / step));
  const left = count ? side - (count * step + shared) : side;
  const from = Math.floor(left / 2);
  return { count, left, at: (index) => ({ from: from + index * step, to: from + index * step + panel }) };
}
