import { type Kernel, type PixelSize, type Raster, resample, resampleStepped } from '@rundle/core';
import sharp from 'sharp';
import { expect, it } from 'vitest';

/** Hard on rounding: noise, and an edge that overshoots on both sides. */
function restless({ width, height }: PixelSize): Raster<Uint8Array> {
  const pixels = new Uint8Array(width * height * 3);
  let state = 7;
  for (let at = 0; at < pixels.length; at++) {
    state = (Math.imul(state, 1_103_515_245) + 12_345) & 0x7fffffff;
    const x = Math.floor(at / 3) % width;
    pixels[at] = x % 40 < 20 ? (state >> 16) & 255 : x % 80 < 40 ? 255 : 0;
  }
  return { width, height, channels: 3, pixels };
}

/** What libvips makes of it, one edge at a time. */
async function byLibvips({ width, height, pixels }: Raster<Uint8Array>, to: PixelSize, kernel: Kernel): Promise<Raster<Uint8Array>> {
  const { data } = await sharp(pixels, { raw: { width, height, channels: 3 } })
    .resize(to.width, to.height, { fit: 'fill', kernel, fastShrinkOnLoad: false })
    .raw()
    .toBuffer({ resolveWithObject: true });
  return { ...to, channels: 3, pixels: new Uint8Array(data) };
}

const KERNELS = ['lanczos3', 'lanczos2', 'cubic', 'mitchell', 'linear'] as const;
/** Sizes of cameras, one edge of each kept short; to their half, and to less and more than that. */
const EDGES = [4000, 4243, 3632, 5504, 3024, 5657, 6336].flatMap((from) =>
  [Math.ceil(from / 2), Math.round(from / 1.31), Math.round(from / 2.49), Math.round(from / 1.07)].map((to) => ({ from, to })),
);

it.each(KERNELS)('%s in steps of 8 bits is what libvips makes, to the last bit', async (kernel) => {
  for (const { from, to } of EDGES) {
    const high = restless({ width: 61, height: from });
    const lower = await byLibvips(high, { width: 61, height: to }, kernel);
    const size = { width: 31, height: to };
    expect([from, to, isSame(resampleStepped(high, size, kernel, 'height', room), resample(lower, size, kernel))]).toEqual([
      from,
      to,
      true,
    ]);
    const wide = restless({ width: from, height: 61 });
    const narrower = await byLibvips(wide, { width: to, height: 61 }, kernel);
    const lying = { width: to, height: 31 };
    expect([from, to, isSame(resampleStepped(wide, lying, kernel, 'width', room), resample(narrower, lying, kernel))]).toEqual([
      from,
      to,
      true,
    ]);
  }
});

/** Whether two pictures are the same; to compare them value by value takes minutes. */
const isSame = (one: Raster, other: Raster): boolean => Buffer.compare(bytesOf(one), bytesOf(other)) === 0;
const bytesOf = ({ pixels }: Raster): Uint8Array => new Uint8Array(pixels.buffer, pixels.byteOffset, pixels.byteLength);

const room = (words: number): Uint16Array => new Uint16Array(words);
