import type { Raster } from '../raster';

/** How often each of 256 values occurs in each channel of a picture, and how much of it lies at the ends of the scale. */
export interface Histogram {
  channels: readonly (readonly number[])[];
  /** Shares of the pixels, 0-1, of which a channel is at its lowest or its highest value. */
  dark: number;
  bright: number;
}

/** @param raster 8 bits per channel */
export function histogramOf({ channels, pixels }: Raster<Uint8Array>): Histogram {
  const counts = Array.from({ length: channels }, () => new Array<number>(256).fill(0));
  let [dark, bright] = [0, 0];
  for (let at = 0; at < pixels.length; at += channels) {
    let [least, most] = [255, 0];
    for (let channel = 0; channel < channels; channel++) {
      const value = pixels[at + channel]!;
      counts[channel]![value]!++;
      least = Math.min(least, value);
      most = Math.max(most, value);
    }
    if (least === 0) dark++;
    if (most === 255) bright++;
  }
  const total = Math.max(1, pixels.length / channels);
  return { channels: counts, dark: dark / total, bright: bright / total };
}
