import {
  isOneFile,
  makingOf,
  type MasterDetail,
  movedBy,
  type PanelGrid,
  panelGrid,
  panelsOf,
  type Rectangle,
  withEdge,
} from '@rundle/core';
import type { PrintPieces } from './print-lines';
import type { ShownSample } from './sample-source';

/** Lines over a print, and where they lie on the screen. */
export interface ShownPieces extends PrintPieces {
  /** The part of the output that is shown, and CSS px to a px of it. */
  shown: Rectangle;
  scale: number;
  /** What of the picture lies in no panel, in words. */
  left: string;
}

/** @param pixel CSS px to a px of the sample @returns null where the sample has neither edges nor panels, or is of an earlier rung */
export function printPieces(
  { facts, look }: ShownSample,
  master: Extract<MasterDetail, { state: 'ready' }>,
  pixel: number,
): ShownPieces | null {
  if (look.upTo !== 'print' && look.upTo !== 'file') return null;
  const { panels, size: rung } = look.preset;
  const { size, edge } = makingOf(master.facts, look.preset, null, master.overrides);
  const { width, height } = withEdge(size, -edge);
  const divided = panels && !isOneFile(look.preset) ? panels : null;
  if (!edge && !divided) return null;
  const all = divided ? panelsOf(divided, { width, height }, rung.ppi) : [];
  return {
    inside: edge ? { left: edge, top: edge, width, height } : null,
    panels: all.map((panel) => ({ ...panel, rectangle: movedBy(panel.rectangle, edge, edge) })),
    width,
    height,
    shown: facts.shown,
    scale: (facts.width * pixel) / facts.shown.width,
    left: divided ? leftOver(panelGrid(divided, { width, height }, rung.ppi)) : '',
  };
}

function leftOver({ columns, rows, left }: PanelGrid): string {
  if (columns * rows === 0) return 'No panel of that size fits: choose a larger size, or smaller panels.';
  const said = [left.x ? `${left.x} px of the width` : '', left.y ? `${left.y} px of the height` : ''].filter(Boolean);
  return said.length ? `${columns} × ${rows} panels; ${said.join(' and ')} left over, half of it on either side.` : '';
}
