import { open } from 'node:fs/promises';
import { jpegQuality, type SettingsOf } from '@rundle/core';
import sharp from 'sharp';
import { pipelineOf } from '../pipeline';
import { Scratch } from '../../scratch';
import type { FinishedImage } from '../../write/encode';
import { asItIs, type BytesAt, type Opener, openedAsItIs, type Sampling, type Writer } from '../type';
import { codedPart, describingSegments, withDescribingSegments, withProfile } from './segments';
import { isUndescribed, luminanceTable } from './tables';
import { turboJpeg } from './turbo';

const isOf: Opener['isOf'] = ({ format }) => format === 'jpeg';

async function qualityIn(bytesAt: BytesAt): Promise<number | null> {
  const table = await luminanceTable(bytesAt);
  return table && jpegQuality(table);
}

const fileBytes = new Scratch();
let isLent = false;

/** A file that is larger than this in bytes is read piece by piece by the decoder. */
const MOST_BYTES = 250_000_000;

/** Uses all bytes of a file, in memory that is used again unless another file is being read; null where they are too many. */
async function withBytes<T>(path: string, use: (bytes: Uint8Array) => T): Promise<T | null> {
  const file = await open(path, 'r');
  const isOwn = isLent;
  isLent = true;
  try {
    const { size } = await file.stat();
    if (size > MOST_BYTES) return null;
    const bytes = new Uint8Array(isOwn ? new ArrayBuffer(size) : fileBytes.take(size), 0, size);
    let read = 0;
    for (let more = 1; more > 0 && read < size; read += more) more = (await file.read(bytes, read, size - read, read)).bytesRead;
    return use(bytes.subarray(0, read));
  } finally {
    if (!isOwn) isLent = false;
    await file.close();
  }
}

export const jpegOpener: Opener = {
  ...asItIs,
  isOf,
  facts: async (bytesAt) => ({ jpegQuality: await qualityIn(bytesAt) }),
  isUndescribed,
  pixels: async (path, size, room) => {
    const turbo = turboJpeg();
    return turbo && withBytes(path, (bytes) => turbo.decode(bytes, size, room));
  },
};

function encodeStraight(
  { picture, model, profile }: FinishedImage,
  quality: number,
  sampling: Sampling,
  progressive: boolean,
): Buffer | null {
  const { pixels, channels } = picture;
  if (model !== 'rgb' || channels !== 3 || !(pixels instanceof Uint8Array)) return null;
  const jpeg = turboJpeg()?.encode(picture, pixels, quality, sampling, progressive);
  return jpeg ? withProfile(jpeg, profile) : null;
}

export const jpegWriter: Writer<SettingsOf<'jpeg'>> = {
  encoder:
    (image, { progressive }) =>
    (quality, chromaSubsampling) => {
      const straight = encodeStraight(image, quality, chromaSubsampling, progressive);
      return straight ? Promise.resolve(straight) : pipelineOf(image).jpeg({ quality, progressive, chromaSubsampling }).toBuffer();
    },
  open: openedAsItIs,
  isOf,
  differs: ({ isProgressive }, { progressive }) =>
    isProgressive === progressive ? null : 'it is progressive where it should not be, or the other way round',
  // Every coefficient is read, but only every eighth pixel is worked out.
  readableAt: (width) => Math.max(1, width >> 3),
  pixels: (file, size) => turboJpeg()?.decode(file, size, (bytes) => new Uint8Array(bytes)) ?? null,
  readsToEnd: (file, size) => turboJpeg()?.readsToEnd(file, size) ?? false,
  onGrid: true,
  // Progressive or not, the coefficients are the same; baseline is encoded and decoded in half the time.
  quickly: (settings) => ({ ...settings, progressive: false }),
  weighed: async ({ width, height, pixels }, quality, chromaSubsampling) => {
    const straight = turboJpeg()?.encode({ width, height }, pixels, quality, chromaSubsampling, false);
    if (straight) return straight.length;
    const opened = sharp(pixels, { raw: { width, height, channels: 3 } });
    return (await opened.jpeg({ quality, chromaSubsampling }).toBuffer()).length;
  },
  codedPart,
  qualityIn,
  samplingOf: ({ chromaSubsampling }) => (chromaSubsampling === '4:4:4' || chromaSubsampling === '4:2:0' ? chromaSubsampling : null),
  metadata: {
    apart: { take: describingSegments, put: withDescribingSegments },
    // JFIF 1.02: unit 1 are inches.
    resolution: (ppi) => ({ 'JFIF:XResolution#': Math.round(ppi), 'JFIF:YResolution#': Math.round(ppi), 'JFIF:ResolutionUnit#': 1 }),
  },
};
