import {
  bandingSpots,
  blockSpots,
  clippedSpots,
  cutOut,
  densestPlace,
  differencePicture,
  grownBy,
  HALO_GROUND,
  haloSpots,
  hatchedSpots,
  type Luma,
  lumaOf,
  type Making,
  movedBy,
  outlinedSpots,
  outsideSpots,
  outsideSpotsOfLab,
  overlap,
  ownBandingSpots,
  type PixelSize,
  pooledSpots,
  type Preset,
  type Raster,
  reachOf,
  type Rectangle,
  type Rgb8,
  type SampleOverlay,
  SPACES,
  toneReach,
  unsharpMask,
  wholeOf,
} from '@rundle/core';
import sharp from 'sharp';
import { labOfPixels } from '../colour/little-cms';
import { coloursOf, frameOf } from '../rungs';
import type { MasterSource, SizedMaster } from '../source';
import { toneBefore } from '../tone';

/** Those that are spots on clear ground. */
export type SpotOverlay = Exclude<SampleOverlay, 'difference'>;
/** Those that are there before the picture is encoded, and those that the encoder adds. */
type MadeOverlay = Extract<SampleOverlay, 'halos' | 'gamut'>;
export type EncodedOverlay = Exclude<SampleOverlay, MadeOverlay>;

/** What spots are drawn in, red, green and blue. */
const COLOURS: Record<SpotOverlay, [number, number, number]> = {
  halos: [255, 176, 0],
  gamut: [255, 0, 200],
  highlights: [255, 40, 40],
  shadows: [40, 130, 255],
  banding: [255, 0, 200],
  blocks: [255, 176, 0],
};
/** What is thin is outlined; what covers an area is hatched. */
const OUTLINED: readonly SpotOverlay[] = ['halos'];
/** What is drawn as it is. */
const PLAIN: readonly SpotOverlay[] = ['blocks'];

/** A picture to lie over a sample: clear but for what is to be seen. */
export interface Overlay extends PixelSize {
  png: Buffer;
  /** Share of the pixels that are spots, 0-1. */
  share: number;
  /** Share of those that the master has itself; null: not told apart. */
  own: number | null;
  /** Where most of them lie together, px of the part; null: there are none. */
  densest: { x: number; y: number } | null;
}

/**
 * Where in a part of an output there are halos, or colours that its space cannot hold.
 * @param shown the part, in px of the output with its border
 * @param picture where the picture without its border begins in the output, px
 * @param as what the part is shown as large as
 */
export async function overlayOf(
  kind: MadeOverlay,
  { preset, geometry }: Making,
  source: MasterSource,
  shown: Rectangle,
  picture: Pick<Rectangle, 'left' | 'top'>,
  as: PixelSize,
): Promise<Overlay> {
  const sized = await source.sized(geometry.scaled, preset, geometry.view);
  const frame = frameOf(geometry, sized);
  const part = overlap(movedBy(shown, -picture.left, -picture.top), wholeOf(frame));
  const spots = new Uint8Array(shown.width * shown.height);
  if (part) {
    const own = kind === 'halos' ? await halos(sized, frame, part, preset) : await outside(sized, frame, part, preset);
    const [left, top] = [part.left + picture.left - shown.left, part.top + picture.top - shown.top];
    for (let y = 0; y < part.height; y++) spots.set(own.subarray(y * part.width, (y + 1) * part.width), (top + y) * shown.width + left);
  }
  return drawn(kind, spots, shown, as);
}

/**
 * Where a finished part is at the end of its scale, or what the encoder has added to it; or the difference that it has made.
 * @param before and @param after RGB of 8 bits
 * @param at where the part lies in the output, px
 * @param as what the part is shown as large as
 */
export async function encodedOverlay(
  kind: EncodedOverlay,
  before: Rgb8,
  after: Rgb8,
  at: { left: number; top: number },
  as: PixelSize,
): Promise<Overlay> {
  const { width, height } = before;
  if (kind === 'difference') {
    const raw = { width, height, channels: 3 as const };
    const png = await sharp(differencePicture(before, after), { raw })
      .resize(as.width, as.height, { fit: 'fill' })
      .png({ compressionLevel: 1 })
      .toBuffer();
    const changed = before.pixels.reduce((sum, value, index) => sum + (value === after.pixels[index] ? 0 : 1), 0);
    const by = new Uint8Array(width * height).map((_, at) => Math.abs(before.pixels[3 * at + 1]! - after.pixels[3 * at + 1]!));
    return { png, ...as, share: changed / before.pixels.length, own: null, densest: densestPlace(by, before) };
  }
  const [was, is] = [before, after].map(lumaOf) as [Luma, Luma];
  const spots =
    kind === 'banding'
      ? bandingSpots(was, is)
      : kind === 'blocks'
        ? blockSpots(was, is, at).spots
        : clippedSpots({ ...after, channels: 3 }, kind);
  const overlay = await drawn(kind, spots, before, as);
  return kind === 'banding' ? { ...overlay, own: shareOf(ownBandingSpots(was)) } : overlay;
}

async function drawn(kind: SpotOverlay, spots: Uint8Array, size: PixelSize, as: PixelSize): Promise<Overlay> {
  const share = shareOf(spots);
  const seen = as.width < size.width ? pooledSpots(spots, size, as) : spots;
  const lines = PLAIN.includes(kind) ? seen : OUTLINED.includes(kind) ? outlinedSpots(seen, as) : hatchedSpots(seen, as);
  const pixels = new Uint8Array(lines.length * 4);
  for (let at = 0; at < lines.length; at++) if (lines[at]) pixels.set([...COLOURS[kind], 255], at * 4);
  const png = await sharp(pixels, { raw: { width: as.width, height: as.height, channels: 4 } })
    .png({ compressionLevel: 1 })
    .toBuffer();
  return { png, ...as, share, own: null, densest: densestPlace(spots, size) };
}

const shareOf = (spots: Uint8Array): number => spots.reduce((sum, spot) => sum + spot, 0) / spots.length;

/** Share of the pixels of a part at which the master itself is at the end of its scale; null: it has inks, which have no such end. */
export async function clippedInMaster(
  end: 'highlights' | 'shadows',
  { preset, geometry }: Making,
  source: MasterSource,
  shown: Rectangle,
  picture: Pick<Rectangle, 'left' | 'top'>,
): Promise<number | null> {
  const sized = await source.sized(geometry.scaled, { ...preset, tone: null }, geometry.view);
  const frame = frameOf(geometry, sized);
  const part = overlap(movedBy(shown, -picture.left, -picture.top), wholeOf(frame));
  if (!part || sized.source.colour.kind === 'inks') return null;
  const { pixels, channels } = cutOut(sized.picture, movedBy(part, frame.left, frame.top));
  return shareOf(clippedSpots({ ...part, pixels, channels }, end));
}

async function halos(sized: SizedMaster, frame: Rectangle, part: Rectangle, preset: Preset): Promise<Uint8Array> {
  const { sharpen } = preset;
  if (!sharpen || sharpen.amount === 0) return new Uint8Array(part.width * part.height);
  const worked = grownBy(part, reachOf(sharpen.radius) + HALO_GROUND + 1 + toneReach(preset.tone), frame);
  const { converted } = await coloursOf(sized, movedBy(worked, frame.left, frame.top), preset, true);
  const before: Raster<Uint16Array> = { ...converted.raster, pixels: converted.raster.pixels.slice() };
  const after: Raster<Uint16Array> = { ...before, pixels: before.pixels.slice() };
  unsharpMask(after, sharpen);
  return cut(haloSpots(before, after), worked, movedBy(part, -worked.left, -worked.top));
}

async function outside(sized: SizedMaster, frame: Rectangle, part: Rectangle, { colour, tone }: Preset): Promise<Uint8Array> {
  const { picture, source } = sized;
  const none = () => new Uint8Array(part.width * part.height);
  if (colour.space === 'keep') return none();
  const target = SPACES[colour.space];
  const worked = grownBy(part, toneReach(tone), frame);
  const plain = cutOut(picture, movedBy(worked, frame.left, frame.top));
  // Where the tone comes after the conversion, it adds no colours that could not be held.
  const toned = (await toneBefore(plain, sized, tone)) ?? plain;
  const own =
    worked.width === part.width && worked.height === part.height ? toned : cutOut(toned, movedBy(part, -worked.left, -worked.top));
  switch (source.colour.kind) {
    case 'matrix':
      return source.colour.name === colour.space ? none() : outsideSpots(own.pixels, source.colour.space, target);
    case 'table':
      return outsideSpotsOfLab(await labOfPixels(own, source.colour.profile, colour), target);
    default:
      return none();
  }
}

function cut(spots: Uint8Array, from: PixelSize, to: Rectangle): Uint8Array {
  const out = new Uint8Array(to.width * to.height);
  for (let y = 0; y < to.height; y++) {
    const at = (to.top + y) * from.width + to.left;
    out.set(spots.subarray(at, at + to.width), y * to.width);
  }
  return out;
}
