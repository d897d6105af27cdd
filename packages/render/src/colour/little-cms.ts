// eslint-disable-next-line @typescript-eslint/triple-slash-reference -- an ambient declaration cannot be imported
/// <reference path="./lcms-wasm.d.ts" />
import type { Preset } from '@rundle/core';
import {
  cmsFLAGS_BLACKPOINTCOMPENSATION,
  cmsFLAGS_HIGHRESPRECALC,
  instantiate,
  type Lcms,
  TYPE_CMYK_16,
  TYPE_CMYK_8,
  TYPE_GRAY_16,
  TYPE_GRAY_8,
  TYPE_RGB_16,
  TYPE_RGB_8,
} from 'lcms-wasm';
import type { Raster } from '../read/decode';

/** Numbers of the intents in ICC.1:2022, table 23. */
const INTENTS: Record<Preset['colour']['intent'], number> = { perceptual: 0, relative: 1, saturation: 2, absolute: 3 };

const FORMATS = {
  1: { 8: TYPE_GRAY_8, 16: TYPE_GRAY_16 },
  3: { 8: TYPE_RGB_8, 16: TYPE_RGB_16 },
  4: { 8: TYPE_CMYK_8, 16: TYPE_CMYK_16 },
} as const;

/** Pixels converted at a time: keeps the module's memory small. */
const BATCH = 1 << 19;

let loading: Promise<Lcms> | undefined;

/**
 * Converts pixels from any ICC profile to sRGB with Little CMS.
 * @param raster grey, RGB or CMYK, with as many channels as the profile has
 * @param profile bytes of the source profile
 * @returns RGB, 16 bits per channel
 * @throws Error when the profile is damaged or does not belong to the pixels
 */
export async function convertWithLittleCms(
  raster: Raster,
  profile: Uint8Array,
  { intent, blackPoint }: Pick<Preset['colour'], 'intent' | 'blackPoint'>,
): Promise<Uint16Array> {
  loading ??= instantiate();
  const lcms = await loading;
  // The bytes go through the heap: the library's own call would put a large profile on its small stack.
  const memory = lcms._malloc(profile.length);
  lcms.HEAPU8.set(profile, memory);
  const from = lcms.ccall('cmsOpenProfileFromMem', 'number', ['number', 'number'], [memory, profile.length]);
  const to = lcms.cmsCreate_sRGBProfile();
  const format = FORMATS[raster.channels][raster.pixels instanceof Uint16Array ? 16 : 8];
  const flags = cmsFLAGS_HIGHRESPRECALC | (blackPoint ? cmsFLAGS_BLACKPOINTCOMPENSATION : 0);
  const transform = from ? lcms.cmsCreateTransform(from, format, to, TYPE_RGB_16, INTENTS[intent], flags) : 0;
  try {
    if (!transform) throw new Error('The embedded colour profile cannot be used.');
    return transformInBatches(lcms, transform, raster);
  } finally {
    if (transform) lcms.cmsDeleteTransform(transform);
    if (from) lcms.cmsCloseProfile(from);
    lcms.cmsCloseProfile(to);
    lcms._free(memory);
  }
}

function transformInBatches(lcms: Lcms, transform: number, { pixels, channels }: Raster): Uint16Array {
  const count = pixels.length / channels;
  const out = new Uint16Array(count * 3);
  for (let start = 0; start < count; start += BATCH) {
    const end = Math.min(count, start + BATCH);
    out.set(lcms.cmsDoTransform(transform, pixels.subarray(start * channels, end * channels), end - start), start * 3);
  }
  return out;
}
