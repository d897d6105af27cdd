import * as z from 'zod';
import { inView, type View } from './crop';
import type { PixelSize } from './geometry';

/** Cells of a salience, along each edge of the picture. */
export const SALIENCE_CELLS = 16;

const share = () => z.number().min(0).max(1);

/** What draws the eye in a picture, measured once on a small one: where a picture is cut to a ratio, that is kept in sight. */
export const Salience = z.object({
  cells: z
    .string()
    .regex(new RegExp(`^[0-9a-f]{${SALIENCE_CELLS ** 2}}$`))
    .meta({ description: 'How much is to be seen in each cell of a grid, row by row, a hexadecimal digit each' }),
  faces: z
    .array(z.object({ x: share(), y: share(), w: share(), h: share() }))
    .max(100)
    .meta({ description: 'Faces, as shares of the upright picture' }),
});
export type Salience = z.infer<typeof Salience>;

/** Of a picture that could not be looked at: the middle is proposed. */
export const NOTHING_SALIENT: Salience = { cells: '0'.repeat(SALIENCE_CELLS ** 2), faces: [] };

/** How a head reaches beyond the box that detectors draw around its face, in shares of that box (fitted by eye, no source). */
const HEAD = { above: 0.55, below: 0.3, beside: 0.4 };

/** What counts how much: all cells together count 1. */
const WORTH = { head: 1.5, cutHead: -2, middle: 0.15 };

/** Places that are tried along the edge that is cut. */
const TRIED = 96;

/**
 * Where a view is best cut to a size, so that heads stay whole and most of what there is to be seen stays. Only ever a proposal.
 * @param size of the cut, px; one of its edges is that of the view
 * @returns the middle of the cut, in px of the view
 */
export function proposedMiddle(view: View, picture: PixelSize, size: PixelSize, salience: Salience): { x: number; y: number } {
  const key = JSON.stringify([view, size]);
  const known = proposed.get(salience) ?? new Map<string, { x: number; y: number }>();
  proposed.set(salience, known);
  const middle = known.get(key) ?? propose(view, picture, size, salience);
  if (known.size >= MOST_PROPOSED) known.clear();
  known.set(key, middle);
  return middle;
}

/** What has been proposed, as long as the salience is the same object: a plan after a change proposes what it touches. */
const MOST_PROPOSED = 40;
const proposed = new WeakMap<Salience, Map<string, { x: number; y: number }>>();

function propose(view: View, picture: PixelSize, size: PixelSize, { cells, faces }: Salience): { x: number; y: number } {
  const axis = view.width - size.width > view.height - size.height ? 'x' : 'y';
  const [length, room] = axis === 'x' ? [size.width, view.width] : [size.height, view.height];
  const spans = cellSpans(view, picture, cells, axis);
  const heads = headSpans(view, picture, faces, axis);
  const total = spans.reduce((sum, { worth }) => sum + worth, 0) || 1;
  let best = { start: (room - length) / 2, score: -Infinity };
  for (let step = 0; step <= TRIED; step++) {
    // From the middle outwards, so that the middle wins where all are as good.
    const off = Math.ceil(step / 2) * (step % 2 ? -1 : 1);
    const start = ((room - length) * (TRIED / 2 + off)) / TRIED;
    const inside = (from: number, to: number) =>
      Math.max(0, Math.min(to, start + length) - Math.max(from, start)) / Math.max(1e-9, to - from);
    const seen = spans.reduce((sum, { from, to, worth }) => sum + worth * inside(from, to), 0) / total;
    const whole = heads.reduce((sum, { from, to, worth }) => sum + worth * headWorth(inside(from, to)), 0);
    const aside = Math.abs(off) / (TRIED / 2);
    const score = seen + whole - WORTH.middle * aside ** 2;
    if (score > best.score + 1e-9) best = { start, score };
  }
  const middle = { x: view.width / 2, y: view.height / 2 };
  return { ...middle, [axis]: best.start + length / 2 };
}

const headWorth = (inside: number): number => (inside > 0.999 ? WORTH.head : inside > 0.05 ? WORTH.cutHead : 0);

/** A stretch along the edge that is cut, in px of the view, and what it is worth. */
interface Span {
  from: number;
  to: number;
  worth: number;
}

/** Cells that cover the same stretch count together. */
function cellSpans(view: View, picture: PixelSize, cells: string, axis: 'x' | 'y'): Span[] {
  const spans = new Map<number, Span>();
  const reach = (axis === 'x' ? picture.width : picture.height) / SALIENCE_CELLS / 2;
  for (const [at, digit] of [...cells].entries()) {
    const worth = parseInt(digit, 16);
    const column = (at % SALIENCE_CELLS) + 0.5;
    const row = Math.floor(at / SALIENCE_CELLS) + 0.5;
    const middle = inView(view, { x: (column / SALIENCE_CELLS) * picture.width, y: (row / SALIENCE_CELLS) * picture.height });
    const isSeen = middle.x >= 0 && middle.x <= view.width && middle.y >= 0 && middle.y <= view.height;
    if (!isSeen || worth === 0) continue;
    const from = middle[axis] - reach;
    spans.set(from, { from, to: middle[axis] + reach, worth: worth + (spans.get(from)?.worth ?? 0) });
  }
  return [...spans.values()];
}

function headSpans(view: View, picture: PixelSize, faces: Salience['faces'], axis: 'x' | 'y'): Span[] {
  const largest = Math.max(...faces.map(({ w }) => w), 1e-9);
  return faces.flatMap(({ x, y, w, h }) => {
    const [width, height] = [w * picture.width, h * picture.height];
    const middle = inView(view, { x: x * picture.width + width / 2, y: y * picture.height + height / 2 });
    const span =
      axis === 'x'
        ? { from: middle.x - width * (0.5 + HEAD.beside), to: middle.x + width * (0.5 + HEAD.beside) }
        : { from: middle.y - height * (0.5 + HEAD.above), to: middle.y + height * (0.5 + HEAD.below) };
    const room = axis === 'x' ? view.width : view.height;
    // Of a head that is cut by the picture already, what there is of it.
    const held = { from: Math.max(0, span.from), to: Math.min(room, span.to) };
    return held.to > held.from ? [{ ...held, worth: w / largest }] : [];
  });
}
