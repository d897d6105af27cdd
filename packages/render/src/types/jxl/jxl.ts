import { readFile } from 'node:fs/promises';
import { ProblemError, type SettingsOf } from '@rundle/core';
import sharp from 'sharp';
import { plainlyNamed } from '../../colour/plainly-named';
import type { FinishedImage } from '../../write/encode';
import { madeOnce } from '../made-once';
import { onlyProfile } from '../png/chunks';
import type { Opener, Writer } from '../type';
import { decodeJpegXl, encodeJpegXl } from './programs';

/** What its decoder writes: a PNG, upright, in its own colours where it knows them. */
const isOf: Opener['isOf'] = ({ format }) => format === 'png';

export const jxlOpener: Opener = { isOf, inRows: false, input: (path) => madeOnce(path, () => pictureOf(path).catch(damaged)) };

async function pictureOf(path: string): Promise<Buffer> {
  const bytes = await readFile(path);
  const own = await decodeJpegXl(bytes);
  // Where it cannot work them out, it gives linear sRGB of few bits, which does not hold all of them.
  const { png, ofPixels } = own.ownColours ? own : await decodeJpegXl(bytes, 'wide');
  return onlyProfile(png, plainlyNamed(ofPixels));
}

/** To whoever brings a file in, the program that reads it is of no interest. */
function damaged(error: unknown): never {
  if (error instanceof ProblemError && error.problem.code === 'render-failed') throw new Error('it cannot be decoded to its end');
  throw error;
}

export const jxlWriter: Writer<SettingsOf<'jxl'>> = {
  encoder: (image) => {
    let png: Promise<Buffer> | undefined;
    return async (quality) => encodeJpegXl(await (png ??= pngOf(image)), quality);
  },
  open: async (file, inSrgb = false) => {
    const bytes = typeof file === 'string' ? await readFile(file) : file;
    const { png, profile, ownColours } = await decodeJpegXl(bytes, inSrgb ? 'srgb' : null);
    return { input: png, profile, ownColours: ownColours && !inSrgb };
  },
  isOf,
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
