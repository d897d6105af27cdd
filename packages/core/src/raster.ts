/** Decoded pixels, interleaved, rows from top to bottom: grey, RGB, or CMYK; grey and RGB perhaps with transparency behind. */
export interface Raster<P extends Uint8Array | Uint16Array = Uint8Array | Uint16Array> {
  width: number;
  height: number;
  channels: 1 | 2 | 3 | 4;
  /** 8 or 16 bits per channel; full scale is 255 or 65,535. */
  pixels: P;
}

/** The largest value of a channel. */
export const fullScale = (pixels: Uint8Array | Uint16Array): 255 | 65_535 => (pixels instanceof Uint8Array ? 255 : 65_535);
