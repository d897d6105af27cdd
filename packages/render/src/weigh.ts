import {
  chromaSmears,
  cutOut,
  fineEdges,
  longEdgeSize,
  type MasterFacts,
  type PixelSize,
  Preset,
  type Raster,
  type Rectangle,
  resample,
  SMALL_EDGES,
  toEightBits,
  unsharpMask,
  WEIGHED_AVIF,
  WEIGHED_COARSE,
  WEIGHED_FINE,
  WEIGHED_FULL,
  WEIGHED_QUALITIES,
  WEIGHED_SHARPENING,
  WEIGHED_WEBP,
  type Weighing,
  wholeOf,
  widened,
} from '@rundle/core';
import sharp, { type Sharp } from 'sharp';
import { coloursOf } from './rungs';
import { MasterSource } from './source';
import { AVIF_EFFORT } from './types/avif/avif';
import { turboJpeg } from './types/jpeg/turbo';
import { WEBP_EFFORT } from './types/webp/webp';

/** What an empty file of each kind weighs, in bytes: it is not the picture's. */
const EMPTY = { jpeg: 520, webp: 60, avif: 280, tiff: 340 } as const;

/**
 * Fitted on photographs: the small picture is scaled in a quicker way than outputs are, and comes out a little softer; WebP and AVIF
 * foretell blocks from their neighbours, which a part has fewer of than the whole.
 */
const SOFTER = 1.02;
type Corrections = Partial<Record<'webp' | 'avif' | 'tiff', number>>;
const WITH_PARTS = { webp: 0.97, avif: 1.03, tiff: 1 };
/** The others take too long while somebody waits for thumbnails. */
const WITH_SMALL: Corrections = { webp: 1 };

/** Edge in px of the parts that are weighed: whole blocks of every encoder. */
const PART = 128;
/** Side of the largest block of a JPEG, px. */
const BLOCK = 16;
/** Parts across and down a picture. */
const GRID = { across: 6, down: 5 } as const;
/** Of the small picture every second band of so many rows is weighed, which is as good as all of it in half the time. */
const BAND = 32;

/**
 * Weighs a master's small picture, which has been made anyway, at its own size and at half of it.
 * @param small RGB or grey in sRGB, 16 bits
 */
export async function weighSmall(small: Raster<Uint16Array>): Promise<Weighing[]> {
  const long = Math.max(small.width, small.height);
  const half = { width: Math.max(1, Math.round(small.width / 2)), height: Math.max(1, Math.round(small.height / 2)) };
  if (long <= SMALL_EDGES[0]) return [await weigh([small], long, WITH_SMALL, SOFTER)];
  return [
    await weigh(bandsOf(resample(small, half, 'lanczos3')), Math.max(half.width, half.height), WITH_SMALL, SOFTER),
    await weigh(bandsOf(small), long, {}, SOFTER),
  ];
}

/**
 * Weighs parts of a master, made as its outputs are, at the sizes for which its small picture does not say enough.
 * @param withAvif as AVIF, too, which takes as long as all the others together
 * @throws ProblemError when it cannot be decoded to its end
 */
export async function weighFine(path: string, facts: MasterFacts, withAvif = true): Promise<Weighing[]> {
  const { avif, ...others } = WITH_PARTS;
  const also: Corrections = withAvif ? { ...others, avif } : others;
  const source = new MasterSource(path, facts, false, (words) => new Uint16Array(words));
  const weighings: Weighing[] = [];
  for (const edge of fineEdges(facts)) weighings.push(await weighAt(source, facts, edge, also));
  return weighings;
}

async function weighAt(source: MasterSource, facts: MasterFacts, edge: number, also: Corrections): Promise<Weighing> {
  const preset = Preset.parse({ ...UNSHARPENED, size: { px: edge } });
  const scaled = longEdgeSize(edge, facts);
  const sized = await source.sized(scaled, preset, null);
  const windows = partsOf(scaled);
  // As one picture, since a profile takes longer to be made ready than a part to be converted.
  const together = joined(windows.map((window) => cutOut(sized.picture, window)));
  const { converted } = await coloursOf({ ...sized, picture: together, alpha: null }, wholeOf(together), preset, true);
  // What is not made smaller has the master's own steps; what is has values in between, whose dither weighs at the highest qualities.
  const isWhole = scaled.width === facts.width && scaled.height === facts.height;
  const picture = isWhole ? widened(inEightBits(converted.raster, false)) : converted.raster;
  const parts = windows.map(({ width, height }, index) => cutOut(picture, { left: 0, top: index * height, width, height }));
  return weigh(parts, edge, also);
}

const UNSHARPENED = { kind: 'rundle.preset', version: 1, title: 'Weighing', sharpen: null, colour: { dither: false } } as const;

/** Parts that lie evenly over a picture, every second row of them moved by half a step; on the grid of its blocks, if it is a JPEG at its full size. */
function partsOf({ width, height }: PixelSize): Rectangle[] {
  const part = { width: Math.min(PART, width), height: Math.min(PART, height) };
  const parts: Rectangle[] = [];
  for (let row = 0; row < GRID.down; row++)
    for (let column = 0; column < GRID.across; column++) {
      const left = ((column + (row % 2 ? 0.75 : 0.25)) / GRID.across) * width - part.width / 2;
      const top = ((row + 0.5) / GRID.down) * height - part.height / 2;
      parts.push({
        left: onGrid(left, width - part.width),
        top: onGrid(top, height - part.height),
        ...part,
      });
    }
  return parts;
}

/** The nearest place that is a multiple of the largest block of a JPEG. */
const onGrid = (place: number, most: number): number => BLOCK * Math.floor(Math.max(0, Math.min(most, place)) / BLOCK);

function bandsOf(small: Raster<Uint16Array>): Raster<Uint16Array>[] {
  const { width, height } = small;
  const bands: Raster<Uint16Array>[] = [];
  for (let top = 0; top < height; top += 2 * BAND) bands.push(cutOut(small, { left: 0, top, width, height: Math.min(BAND, height - top) }));
  return bands;
}

/**
 * @param parts not sharpened yet, all equally wide
 * @param softer what JPEGs of these parts are to be multiplied with
 * @param also the other types, each with what it is to be multiplied with
 */
async function weigh(parts: readonly Raster<Uint16Array>[], edge: number, also: Corrections, softer = 1): Promise<Weighing> {
  const whole = stacked(parts.map(sharpened));
  const jpeg = async (of: Raster<Uint8Array>, quality: number, chromaSubsampling: '4:2:0' | '4:4:4') => {
    const straight = of.channels === 3 ? turboJpeg()?.encode(of, of.pixels, quality, chromaSubsampling, true) : null;
    if (straight) return bitsPerPixel(straight.length, of, EMPTY.jpeg, softer);
    return bitsOf(of, EMPTY.jpeg, softer, (image) => image.jpeg({ quality, progressive: true, chromaSubsampling }));
  };
  const halved: number[] = [];
  for (const quality of WEIGHED_QUALITIES) halved.push(await jpeg(whole, quality, '4:2:0'));
  const coarse = await jpeg(whole, WEIGHED_COARSE, '4:2:0');
  const full: number[] = [];
  for (const quality of WEIGHED_FULL) full.push(await jpeg(whole, quality, '4:4:4'));
  const others = Object.keys(also).length > 0;
  const other = async (type: keyof Corrections, encode: (image: Sharp) => Sharp) => {
    const correction = also[type];
    return correction === undefined ? null : bitsOf(whole, EMPTY[type], correction, encode);
  };
  return {
    edge,
    smears: whole.channels === 3 && chromaSmears(whole),
    jpeg: halved,
    coarse,
    full,
    unsharpened: others ? await jpeg(stacked(parts), 80, '4:2:0') : null,
    webp: await other('webp', webpOf(WEIGHED_WEBP)),
    avif: await other('avif', avifOf(WEIGHED_AVIF)),
    fine:
      also.tiff === undefined
        ? null
        : { webp: (await other('webp', webpOf(WEIGHED_FINE.webp)))!, avif: await other('avif', avifOf(WEIGHED_FINE.avif)) },
    tiff: await other('tiff', (image) => image.tiff({ compression: 'deflate', predictor: 'horizontal' })),
  };
}

const webpOf = (quality: number) => (image: Sharp) => image.webp({ quality, effort: WEBP_EFFORT });
const avifOf = (quality: number) => (image: Sharp) => image.avif({ quality, effort: AVIF_EFFORT, chromaSubsampling: '4:2:0' });

function sharpened(part: Raster<Uint16Array>): Raster<Uint16Array> {
  const copy = { ...part, pixels: part.pixels.slice() };
  unsharpMask(copy, WEIGHED_SHARPENING);
  return copy;
}

/** Parts above one another as one picture. @param parts all equally wide */
function joined(parts: readonly Raster<Uint16Array>[]): Raster<Uint16Array> {
  const { width, channels } = parts[0]!;
  const pixels = new Uint16Array(parts.reduce((sum, part) => sum + part.pixels.length, 0));
  let at = 0;
  for (const part of parts) {
    pixels.set(part.pixels, at);
    at += part.pixels.length;
  }
  return { width, height: pixels.length / (width * channels), channels, pixels };
}

const inEightBits = (picture: Raster<Uint16Array>, dither: boolean): Raster<Uint8Array> => ({
  ...picture,
  pixels: toEightBits(picture.pixels, dither),
});

const stacked = (parts: readonly Raster<Uint16Array>[]): Raster<Uint8Array> => inEightBits(joined(parts), true);

async function bitsOf(of: Raster<Uint8Array>, empty: number, correction: number, encode: (image: Sharp) => Sharp): Promise<number> {
  const { width, height, channels, pixels } = of;
  const image = sharp(pixels, { raw: { width, height, channels: channels as 1 | 3 } });
  return bitsPerPixel((await encode(image).toBuffer()).length, of, empty, correction);
}

/** Never 0, since it is reckoned with as a logarithm. @param bytes of the file */
function bitsPerPixel(bytes: number, { width, height }: PixelSize, empty: number, correction: number): number {
  const bits = (correction * 8 * Math.max(1, bytes - empty)) / (width * height);
  return Number(bits.toPrecision(4));
}
