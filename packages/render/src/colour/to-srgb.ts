import { type IccProfile, isSrgb, matrixToSrgb, parseIccProfile, type Preset, type Finding } from '@rundle/core';
import type { Raster } from '../read/decode';
import { convertWithLittleCms } from './little-cms';

/** Share of clipped pixels from which it is worth a word. */
const CLIPPING_WORTH_TELLING = 0.005;

export interface Converted {
  raster: Raster & { channels: 3 };
  warnings: Finding[];
}

/**
 * Converts decoded pixels to sRGB: not at all when they are sRGB, by matrix and curves for matrix profiles, by Little CMS
 * for all other profiles.
 * @param raster pixels in the master's colours
 * @param profile the embedded profile, or null when there is none
 */
export async function toSrgb(raster: Raster, profile: Uint8Array | null, colour: Preset['colour']): Promise<Converted> {
  const parsed = profile && parseSafely(profile);
  const damaged = profile && !parsed ? [DAMAGED] : [];
  if (!profile || !parsed || parsed.space !== SPACE_OF[raster.channels])
    return raster.channels === 4
      ? { raster: asRgb(withoutProfile(raster)), warnings: [...damaged, NO_PRINT_PROFILE] }
      : { raster: asRgb(raster), warnings: damaged };
  const { matrix } = parsed;
  if (matrix && isSrgb(matrix)) return { raster: asRgb(raster), warnings: [] };
  // Absolute intent moves the white point, which the short way does not do.
  if (matrix && colour.intent !== 'absolute') {
    const { pixels, clipping } = matrixToSrgb(raster.pixels, matrix);
    return { raster: { ...raster, channels: 3, pixels }, warnings: clipped(clipping.share) };
  }
  return { raster: { ...raster, channels: 3, pixels: await convertWithLittleCms(raster, profile, colour) }, warnings: [] };
}

const SPACE_OF = { 1: 'GRAY', 3: 'RGB', 4: 'CMYK' } as const;

function parseSafely(profile: Uint8Array): IccProfile | null {
  try {
    return parseIccProfile(profile);
  } catch {
    return null;
  }
}

/** Grey without a profile is taken for grey in the target's own curve; RGB is passed on. */
function asRgb(raster: Raster): Raster & { channels: 3 } {
  if (raster.channels !== 1) return { ...raster, channels: 3 };
  const { pixels } = raster;
  const out = pixels instanceof Uint8Array ? new Uint8Array(pixels.length * 3) : new Uint16Array(pixels.length * 3);
  for (let at = 0; at < pixels.length; at++) out.fill(pixels[at]!, at * 3, at * 3 + 3);
  return { ...raster, channels: 3, pixels: out };
}

/** Print colour of unknown inks: the plain complement, the best that can be said without a profile. */
function withoutProfile(raster: Raster): Raster {
  const { pixels } = raster;
  const full = pixels instanceof Uint8Array ? 255 : 65_535;
  const out = pixels instanceof Uint8Array ? new Uint8Array((pixels.length / 4) * 3) : new Uint16Array((pixels.length / 4) * 3);
  for (let from = 0, to = 0; from < pixels.length; from += 4)
    for (let ink = 0; ink < 3; ink++) out[to++] = ((full - pixels[from + ink]!) * (full - pixels[from + 3]!)) / full + 0.5;
  return { ...raster, channels: 3, pixels: out };
}

const DAMAGED: Finding = {
  code: 'profile-damaged',
  severity: 'look',
  message: 'The embedded colour profile is damaged; the picture was taken for one without a profile.',
};

const NO_PRINT_PROFILE: Finding = {
  code: 'cmyk-without-profile',
  severity: 'look',
  message: 'Print colour without a profile: the colours are a plain guess. Export it with its profile for true colours.',
};

function clipped(share: number): Finding[] {
  if (share < CLIPPING_WORTH_TELLING) return [];
  const percent = Math.round(share * 1000) / 10;
  return [{ code: 'clipped', severity: 'look', message: `${percent} % of the pixels hold colours that sRGB cannot; they were clipped.` }];
}
