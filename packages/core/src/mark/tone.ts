import { hexToColour } from './border';
import type { Raster } from '../raster';
import { overlap, type Rectangle, wholeOf } from '../size/rectangle';
import type { Watermark } from './watermark';

/** What a watermark lies on. */
export type Ground = 'bright' | 'dark';

const FULL = 65_535;

/** Luma of encoded values 0-1, with the weights of ITU-R BT.709. */
const luma = (r: number, g: number, b: number): number => 0.2126 * r + 0.7152 * g + 0.0722 * b;

export function isBright(colour: string): boolean {
  const [r, g, b] = hexToColour(colour);
  return luma(r, g, b) > FULL / 2;
}

/** Whether the mean of what lies under a watermark is brighter than the middle of the scale. */
export function groundUnder({ width, height, channels, pixels }: Raster<Uint16Array>, placement: Rectangle): Ground {
  const seen = overlap(placement, wholeOf({ width, height }));
  if (!seen) return 'dark';
  let sum = 0;
  for (let y = seen.top; y < seen.top + seen.height; y++)
    for (let x = seen.left; x < seen.left + seen.width; x++) {
      const at = (y * width + x) * channels;
      const value = (c: number) => pixels[at + c]! / FULL;
      if (channels === 1) sum += value(0);
      else if (channels === 3) sum += luma(value(0), value(1), value(2));
      else sum += (1 - value(3)) * luma(1 - value(0), 1 - value(1), 1 - value(2));
    }
  return sum > (seen.width * seen.height) / 2 ? 'bright' : 'dark';
}

/** A colour that is seen on a ground: its own where that stands out, else near black or white. */
export function markColourOn(ground: Ground, colour: string): string {
  if (isBright(colour) !== (ground === 'bright')) return colour;
  return ground === 'bright' ? '#141414' : '#ffffff';
}

/** Whether a watermark is another on bright ground than on dark. */
export const adapts = (mark: Watermark): boolean => (mark.kind === 'text' ? mark.adapt : mark.dark !== null);

/** What tells one watermark from another, as text; what came with later releases counts only where it is used. */
export function markText(mark: Watermark, base64: (data: Uint8Array) => string): string {
  if (mark.kind !== 'text') return base64(mark.data) + (mark.dark ? ` ${base64(mark.dark)}` : '');
  const { colour, text, typeface, edge, adapt } = mark;
  const later = [typeface === 'sans' ? '' : typeface, edge === 'none' ? '' : edge, adapt ? 'adapt' : ''].filter(Boolean);
  return [`${colour} ${text}`, ...later].join('\n');
}
