import { readFile } from 'node:fs/promises';
import type { SettingsOf } from '@rundle/core';
import sharp from 'sharp';
import type { FinishedImage } from '../../write/encode';
import type { Writer } from '../type';
import { decodeJpegXl, encodeJpegXl } from './programs';

export const jxlWriter: Writer<SettingsOf<'jxl'>> = {
  encoder: (image) => {
    let png: Promise<Buffer> | undefined;
    return async (quality) => encodeJpegXl(await (png ??= pngOf(image)), quality);
  },
  open: async (file, inSrgb = false) => {
    const bytes = typeof file === 'string' ? await readFile(file) : file;
    const { png, profile, ownColours } = await decodeJpegXl(bytes, { inSrgb });
    return { input: png, profile, ownColours: ownColours && !inSrgb };
  },
  // As its own decoder has written it down.
  isOf: ({ format }) => format === 'png',
  onGrid: false,
  metadata: { apart: null },
};

function pngOf({ file, profile, model }: FinishedImage): Promise<Buffer> {
  const opened = sharp(file, { ignoreIcc: true, limitInputPixels: false });
  return (profile ? opened.keepIccProfile() : opened)
    .toColourspace(model === 'grey' ? 'b-w' : 'srgb')
    .png({ compressionLevel: 0 })
    .toBuffer();
}
