import { chromaSampling, type Preset } from '@rundle/core';
import sharp from 'sharp';

/** Finished pixels: sRGB, sharpened, 8 bits. */
export interface FinishedImage {
  width: number;
  height: number;
  pixels: Uint8Array;
}

export interface EncodedFile {
  data: Buffer;
  bytes: number;
  width: number;
  height: number;
}

/**
 * Encodes finished pixels as JPEG with the preset's border, profile and settings, without any other metadata.
 * @param quality 1-100
 */
export async function encodeJpeg(image: FinishedImage, preset: Preset, quality: number): Promise<EncodedFile> {
  const { width, height, pixels } = image;
  const raw = sharp(pixels, { raw: { width, height, channels: 3 }, limitInputPixels: false });
  const framed = preset.border ? raw.extend({ ...around(preset.border.px), background: preset.border.colour }) : raw;
  const tagged = preset.colour.embed ? framed.withIccProfile('srgb') : framed;
  const { progressive } = preset.file;
  const chromaSubsampling = chromaSampling({ chroma: preset.file.chroma, quality });
  const { data, info } = await tagged.jpeg({ quality, progressive, chromaSubsampling }).toBuffer({ resolveWithObject: true });
  return { data, bytes: data.length, width: info.width, height: info.height };
}

const around = (px: number) => ({ top: px, bottom: px, left: px, right: px });
