import type { Raster } from '../raster';

/** How far values lie apart, of 255: within what a JPEG makes of one colour, and where it is surely another one. */
const PLAIN = 10;
const OTHER = 40;
/** Within a block of a JPEG (ITU-T T.81) what stands beside an edge rings: so far out, in px, and for so many of a line at most. */
const BLOCK = 8;
const RINGING = 0.1;
/** Share of a line that is another colour where the picture begins, on each side. */
const PICTURE = 0.2;
/** The widest frame that is looked for, as a share of the short edge. */
const WIDEST = 0.25;

/**
 * A frame of one colour, as wide on all sides, that a picture has; null: none. A picture that only stands before one colour has none, since that
 * does not end on all four sides at once.
 */
export function plainFrame({ width, height, channels, pixels }: Raster): { px: number; colour: string } | null {
  const scale = pixels instanceof Uint16Array ? 257 : 1;
  const at = (x: number, y: number): number[] => {
    const from = (y * width + x) * channels;
    const value = (channel: number) => Math.round(pixels[from + channel]! / scale);
    return channels < 3 ? [value(0), value(0), value(0)] : [value(0), value(1), value(2)];
  };
  const colour = at(0, 0);
  const isApart = (x: number, y: number, by: number) => at(x, y).some((value, channel) => Math.abs(value - colour[channel]!) > by);
  /** Shares of colours that lie further apart than that on the four sides of the ring at a depth. */
  const sides = (depth: number, by: number): number[] => {
    const [right, bottom] = [width - 1 - depth, height - 1 - depth];
    const share = (count: number, place: (step: number) => [number, number]) => {
      let others = 0;
      for (let step = 0; step < count; step++) if (isApart(...place(step), by)) others++;
      return others / count;
    };
    return [
      share(width - 2 * depth, (step) => [depth + step, depth]),
      share(width - 2 * depth, (step) => [depth + step, bottom]),
      share(height - 2 * depth, (step) => [depth, depth + step]),
      share(height - 2 * depth, (step) => [right, depth + step]),
    ];
  };
  const most = Math.floor(Math.min(width, height) * WIDEST);
  let begins = 0;
  while (begins <= most && !sides(begins, OTHER).every((share) => share >= PICTURE)) begins++;
  if (begins === 0 || begins > most) return null;
  for (let depth = 0; depth < begins; depth++) {
    const isPlain = sides(depth, PLAIN).every((share) => share === 0);
    const rings = depth >= begins - BLOCK && sides(depth, OTHER).every((share) => share <= RINGING);
    if (!isPlain && !rings) return null;
  }
  return { px: begins, colour: `#${colour.map((value) => value.toString(16).padStart(2, '0')).join('')}` };
}
