import {
  CLIPPING_WORTH_TELLING,
  type ColourRung,
  convertMatrix,
  type Curve,
  encodeTable,
  type Finding,
  finding,
  gamutLoss,
  type GamutLoss,
  iccProfileOf,
  linearOfLab,
  type Raster,
  type RgbSpace,
  ProblemError,
  sameSpace,
  sampleAt,
  sampleLinear,
  SPACES,
  type SpaceName,
} from '@rundle/core';
import { convertFromSrgb, convertWithLittleCms, labOfPixels } from './little-cms';
import type { SourceColour } from './source';

/** A picture in the colours of its output. */
export interface ConvertedImage {
  raster: Raster<Uint16Array>;
  /** Which of our own spaces its numbers are of; null: another, kept from the master. */
  name: SpaceName | null;
  /** Turns colours of presets and logos, which are sRGB of 16 bits, into the picture's own numbers. */
  fromSrgb: (colours: Uint16Array) => Promise<Uint16Array>;
  /** What to embed. */
  profile: Uint8Array;
  /** What the target could not hold; null where nothing was converted. */
  gamut: GamutLoss | null;
  findings: Finding[];
}

/**
 * Converts a picture to the space that the preset asks for: not at all when it is there already, by matrix and curves for
 * matrix profiles, by Little CMS for all others.
 * @param raster 16 bits, in the master's colours
 * @throws Error when the embedded profile cannot be used
 */
export async function convertColour(raster: Raster<Uint16Array>, source: SourceColour, rung: ColourRung): Promise<ConvertedImage> {
  if (rung.space === 'keep') return kept(raster, source, rung);
  const target = rung.space;
  const { pixels, gamut } = await toSpace(raster, source, target, rung);
  const converted: Raster<Uint16Array> = { width: raster.width, height: raster.height, channels: 3, pixels };
  const clipped = gamut && gamut.share >= CLIPPING_WORTH_TELLING ? [clippedFinding(gamut, SPACES[target].title)] : [];
  return {
    raster: converted,
    name: target,
    fromSrgb: (colours) => Promise.resolve(inSpace(colours, SPACES[target])),
    profile: iccProfileOf(target),
    gamut,
    findings: clipped,
  };
}

/** A picture in the master's own colours, or in the output's where the master does not say what its numbers mean. */
export function inOwnColours(raster: Raster<Uint16Array>, source: SourceColour, rung: ColourRung): Promise<ConvertedImage> {
  const says = source.kind === 'matrix' || (source.kind !== 'inks' && source.profile !== null);
  return convertColour(raster, source, says ? { ...rung, space: 'keep' } : rung);
}

/** The master's own numbers and profile. @throws ProblemError where there is no profile that could be kept */
function kept(raster: Raster<Uint16Array>, source: SourceColour, rung: ColourRung): ConvertedImage {
  const same = { raster, gamut: null, findings: [] };
  if (source.kind === 'matrix')
    return {
      ...same,
      name: source.name,
      profile: source.profile ?? iccProfileOf(source.name ?? 'srgb'),
      fromSrgb: (colours) => Promise.resolve(inSpace(colours, source.space)),
    };
  const profile = source.kind === 'inks' ? null : source.profile;
  if (!profile)
    throw new ProblemError({
      code: 'no-profile-to-keep',
      field: 'colour.space',
      message: 'The master has no profile, so that there are no colours to keep. Choose a space in the preset.',
    });
  const channels = raster.channels as 1 | 3 | 4;
  return { ...same, name: null, profile, fromSrgb: (colours) => convertFromSrgb(colours, profile, channels, rung) };
}

/** The same colours in another space of primaries and curves. */
const inSpace = (colours: Uint16Array, space: RgbSpace): Uint16Array =>
  sameSpace(SPACES.srgb, space) ? colours : convertMatrix(colours, SPACES.srgb, space).pixels;

interface InSpace {
  pixels: Uint16Array;
  gamut: GamutLoss | null;
}

async function toSpace(raster: Raster<Uint16Array>, source: SourceColour, target: SpaceName, rung: ColourRung): Promise<InSpace> {
  const { pixels } = raster;
  switch (source.kind) {
    case 'inks':
      return { pixels: complement(pixels), gamut: null };
    case 'grey':
      return { pixels: fromGrey(pixels, source.curve, SPACES[target].curves[0]), gamut: null };
    case 'table':
      return throughTables(raster, source.profile, target, rung);
    case 'matrix': {
      if (source.name === target) return { pixels, gamut: null };
      // Absolute intent moves the white point, which the short way does not do.
      if (rung.intent === 'absolute' && source.profile) return throughTables(raster, source.profile, target, rung);
      const { pixels: converted, outside } = convertMatrix(pixels, source.space, SPACES[target]);
      return { pixels: converted, gamut: gamutLoss(sampleLinear(pixels, source.space, SPACES[target]), SPACES[target], outside) };
    }
  }
}

async function throughTables(raster: Raster<Uint16Array>, profile: Uint8Array, target: SpaceName, rung: ColourRung): Promise<InSpace> {
  const pixels = await convertWithLittleCms(raster, profile, target, rung);
  const { channels } = raster;
  const picked = sampleAt(raster.pixels.length / channels);
  const sample = new Uint16Array(picked.length * channels);
  picked.forEach((pixel, at) => sample.set(raster.pixels.subarray(pixel * channels, (pixel + 1) * channels), at * channels));
  const colours = await labOfPixels({ ...raster, pixels: sample }, profile, rung);
  return { pixels, gamut: gamutLoss(linearOfLab(colours, SPACES[target]), SPACES[target]) };
}

/** Grey is the same light in all three channels, encoded by the target's curve. */
function fromGrey(pixels: Uint16Array, curve: Curve, target: Curve): Uint16Array {
  const encode = encodeTable(target);
  const table = Uint16Array.from({ length: 65_536 }, (_, value) => encode[Math.round(Math.sqrt(curve(value / 65_535)) * 65_535)]!);
  const same = curve === target;
  const out = new Uint16Array(pixels.length * 3);
  for (let at = 0; at < pixels.length; at++) out.fill(same ? pixels[at]! : table[pixels[at]!]!, at * 3, at * 3 + 3);
  return out;
}

/** Print colour of unknown inks: the plain complement, the best that can be said without a profile. */
function complement(pixels: Uint16Array): Uint16Array {
  const out = new Uint16Array((pixels.length / 4) * 3);
  for (let from = 0, to = 0; from < pixels.length; from += 4)
    for (let ink = 0; ink < 3; ink++) out[to++] = ((65_535 - pixels[from + ink]!) * (65_535 - pixels[from + 3]!)) / 65_535 + 0.5;
  return out;
}

function clippedFinding({ share, mean, p99 }: GamutLoss, title: string): Finding {
  const percent = Math.round(share * 1000) / 10;
  const far = `by ${mean.toFixed(1)} on average, 99 of 100 by ${p99.toFixed(1)} at most (CIEDE2000)`;
  return finding('clipped', `${percent} % of the pixels hold colours that ${title} cannot; they moved ${far}.`);
}
