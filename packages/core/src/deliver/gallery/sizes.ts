import type { Stretch } from './slots';

/** A file of several that show the same picture. */
interface Candidate {
  width: number;
}

/** The smallest file that has a pixel for each of the screen's; the largest where none has. */
export function smallestSufficient<F extends Candidate>(files: readonly F[], slot: number, density: number): F {
  const rising = files.toSorted((a, b) => a.width - b.width);
  return rising.find(({ width }) => width >= slot * density) ?? rising.at(-1)!;
}

/**
 * Screens of more than one pixel for each of CSS, the densest first: those above `from` are served as if they had `density`. Telephones have 3 and
 * a little less, desks 2 and a little less.
 */
const DENSE = [
  { from: 2.01, density: 3 },
  { from: 1.01, density: 2 },
] as const;

/**
 * The `sizes` of a picture (HTML, 4.8.4): how wide it stands.
 *
 * At one pixel per CSS pixel that is told as it is. Of files for denser screens a browser may take one that is a little too small, the nearer of
 * two: so what is told for these is the width of the file that is sufficient, by the density, of which the browser then takes just that.
 */
export function sizesOf(stretches: readonly Stretch[], files: readonly Candidate[]): string {
  const dense = DENSE.flatMap(({ from, density }) => {
    const steps = denseSteps(stretches, files, density);
    const last = steps.pop()!;
    return [
      ...steps.map(({ to, width }) => `(min-resolution: ${from}dppx) and (max-width: ${px(to)}) ${px(width / density)}`),
      `(min-resolution: ${from}dppx) ${px(last.width / density)}`,
    ];
  });
  const plain = stretches.map(({ slope, offset }, at) => {
    const to = stretches[at + 1]?.from;
    return `${to === undefined ? '' : `(max-width: ${px(to - 0.02)}) `}${lengthOf(slope, offset)}`;
  });
  return [...dense, ...plain].join(', ');
}

/** Up to which widths of the window which file is sufficient for a dense screen, from narrow to wide. */
function denseSteps(stretches: readonly Stretch[], files: readonly Candidate[], density: number): { to: number; width: number }[] {
  const widths = [...new Set(files.map(({ width }) => width))].sort((a, b) => a - b);
  const steps: { to: number; width: number }[] = [];
  const add = (to: number, width: number) => {
    const before = steps.at(-1);
    if (before?.width === width) before.to = to;
    else steps.push({ to, width });
  };
  for (const [at, { from, slope, offset }] of stretches.entries()) {
    const end = (stretches[at + 1]?.from ?? Infinity) - 0.02;
    let start = from;
    for (const width of widths) {
      const isLast = width === widths.at(-1);
      const reach = isLast
        ? end
        : slope > 0
          ? Math.floor(((width / density - offset) / slope) * 100) / 100
          : width / density >= offset
            ? end
            : -Infinity;
      if (reach < start) continue;
      add(Math.min(reach, end), width);
      start = reach;
      if (reach >= end) break;
    }
  }
  return steps;
}

function lengthOf(slope: number, offset: number): string {
  if (slope === 0) return px(offset);
  const rounded = Math.round(offset * 100) / 100;
  return `calc(${trim(slope * 100)}vw ${rounded < 0 ? '-' : '+'} ${px(Math.abs(rounded))})`;
}

const trim = (value: number): string => String(Math.round(value * 1000) / 1000);
const px = (value: number): string => `${Math.round(value * 100) / 100}px`;
