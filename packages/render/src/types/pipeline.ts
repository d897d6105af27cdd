import sharp, { type Sharp } from 'sharp';
import type { FinishedImage } from '../write/encode';

/** A finished picture on its way into an encoder of libvips, with its profile and in its own colours. */
export function pipelineOf({ file, profile, model }: FinishedImage): Sharp {
  const opened = sharp(file, { ignoreIcc: true, limitInputPixels: false });
  const profiled = profile ? opened.keepIccProfile() : opened;
  if (model === 'cmyk') return profiled.pipelineColourspace('cmyk').toColourspace('cmyk');
  return model === 'grey' ? profiled.toColourspace('b-w') : profiled;
}

/** The same in the bits of the file. */
export function deepPipelineOf(image: FinishedImage, bits: 8 | 16): Sharp {
  const opened = pipelineOf(image);
  return bits === 16 && image.model !== 'cmyk' ? opened.toColourspace(image.model === 'grey' ? 'grey16' : 'rgb16') : opened;
}
