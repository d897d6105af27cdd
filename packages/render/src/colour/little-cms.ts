import { type ColourRung, iccProfileOf, type Lab, type Raster, type SpaceName } from '@rundle/core';
import type { Lcms } from '@rundle/little-cms';

/** Numbers of the intents in ICC.1:2022, table 23. */
const INTENTS: Record<ColourRung['intent'], number> = { perceptual: 0, relative: 1, saturation: 2, absolute: 3 };

/** The library with its constants; loaded when the first picture needs it, which most pictures do not. */
interface Library extends Lcms {
  formats: { 1: number; 3: number; 4: number; lab: number };
  flags: { blackPoint: number; fine: number; exact: number };
}

/** Pixels converted at a time: keeps the module's memory small. */
const BATCH = 1 << 19;

type How = Pick<ColourRung, 'intent' | 'blackPoint'>;

let loading: Promise<Library> | undefined;

/**
 * Converts pixels from any ICC profile to one of the target spaces with Little CMS, 16 bits in and out.
 * @param raster grey, RGB or CMYK, with as many channels as the profile has
 * @param profile bytes of the source profile
 * @returns RGB
 * @throws Error when the profile is damaged or does not belong to the pixels
 */
export async function convertWithLittleCms(
  { pixels, channels }: Raster<Uint16Array>,
  profile: Uint8Array,
  target: SpaceName,
  how: How,
): Promise<Uint16Array> {
  const lcms = await library();
  return withProfile(lcms, profile, (from) =>
    withProfile(lcms, iccProfileOf(target), (to) =>
      withTransform(lcms, [from, lcms.formats[channels as 1 | 3 | 4], to, lcms.formats[3]], how, lcms.flags.fine, (transform) => {
        const count = pixels.length / channels;
        const out = new Uint16Array(count * 3);
        for (let start = 0; start < count; start += BATCH) {
          const end = Math.min(count, start + BATCH);
          out.set(lcms.cmsDoTransform(transform, pixels.subarray(start * channels, end * channels), end - start), start * 3);
        }
        return out;
      }),
    ),
  );
}

/**
 * Colours of sRGB as the numbers of any other profile that has a way back, as profiles of printers have.
 * @param colours RGB of 16 bits
 * @param channels how many numbers a colour of the profile has
 * @throws Error when the profile cannot be used that way
 */
export async function convertFromSrgb(colours: Uint16Array, profile: Uint8Array, channels: 1 | 3 | 4, how: How): Promise<Uint16Array> {
  const lcms = await library();
  return withProfile(lcms, iccProfileOf('srgb'), (from) =>
    withProfile(lcms, profile, (to) =>
      withTransform(lcms, [from, lcms.formats[3], to, lcms.formats[channels]], how, lcms.flags.fine, (transform) =>
        Uint16Array.from(lcms.cmsDoTransform(transform, colours, colours.length / 3)),
      ),
    ),
  );
}

/**
 * The colours of a few pixels as CIELAB of D50, unclipped by any target.
 * @param pixels 16 bits, as many channels as the profile has
 */
export async function labOfPixels({ pixels, channels }: Raster<Uint16Array>, profile: Uint8Array, how: How): Promise<Lab[]> {
  const lcms = await library();
  return withProfile(lcms, profile, (from) => {
    const to = lcms.cmsCreateLab4Profile(null);
    try {
      return withTransform(lcms, [from, lcms.formats[channels as 1 | 3 | 4], to, lcms.formats.lab], how, lcms.flags.exact, (transform) => {
        const count = pixels.length / channels;
        const words = lcms.cmsDoTransform(transform, pixels, count);
        // The 16-bit encoding of ICC.1:2022, 6.3.4.2: L* over 100, a* and b* from -128 in steps of 1/257.
        return Array.from({ length: count }, (_, at): Lab => {
          const [L = 0, a = 0, b = 0] = words.subarray(3 * at, 3 * at + 3);
          return [L / 655.35, a / 257 - 128, b / 257 - 128];
        });
      });
    } finally {
      lcms.cmsCloseProfile(to);
    }
  });
}

function library(): Promise<Library> {
  loading ??= load();
  return loading;
}

async function load(): Promise<Library> {
  const { instantiate, ...names } = await import('@rundle/little-cms');
  return Object.assign(await instantiate(), {
    formats: { 1: names.TYPE_GRAY_16, 3: names.TYPE_RGB_16, 4: names.TYPE_CMYK_16, lab: names.TYPE_Lab_16 },
    flags: {
      blackPoint: names.cmsFLAGS_BLACKPOINTCOMPENSATION,
      fine: names.cmsFLAGS_HIGHRESPRECALC,
      exact: names.cmsFLAGS_NOOPTIMIZE,
    },
  });
}

/** Opens a profile for as long as `use` runs. The bytes go through the heap: the library's own call would use its small stack. */
function withProfile<T>(lcms: Lcms, profile: Uint8Array, use: (handle: number) => T): T {
  const memory = lcms._malloc(profile.length);
  lcms.HEAPU8.set(profile, memory);
  const handle = lcms.ccall('cmsOpenProfileFromMem', 'number', ['number', 'number'], [memory, profile.length]);
  try {
    if (!handle) throw new Error('The embedded colour profile cannot be used.');
    return use(handle);
  } finally {
    if (handle) lcms.cmsCloseProfile(handle);
    lcms._free(memory);
  }
}

type Ends = [from: number, fromFormat: number, to: number, toFormat: number];

function withTransform<T>(lcms: Library, ends: Ends, { intent, blackPoint }: How, flags: number, use: (transform: number) => T): T {
  const all = flags | (blackPoint ? lcms.flags.blackPoint : 0);
  const transform = lcms.cmsCreateTransform(...ends, INTENTS[intent], all);
  if (!transform) throw new Error('The embedded colour profile cannot be used.');
  try {
    return use(transform);
  } finally {
    lcms.cmsDeleteTransform(transform);
  }
}
