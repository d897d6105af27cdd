import {
  type Geometry,
  grownBy,
  haloSpots,
  hatchedSpots,
  movedBy,
  outlinedSpots,
  outsideSpots,
  outsideSpotsOfLab,
  overlap,
  type PixelSize,
  pooledSpots,
  type Preset,
  type Raster,
  reachOf,
  type Rectangle,
  type SampleOverlay,
  SPACES,
  unsharpMask,
  wholeOf,
} from '@rundle/core';
import sharp from 'sharp';
import { labOfPixels } from '../colour/little-cms';
import { coloursOf, frameOf } from '../rungs';
import { crop } from '../size/sized';
import type { MasterSource, SizedMaster } from '../source';

/** What spots are drawn in: the halo's line and the hatching, red, green and blue. */
const COLOURS: Record<SampleOverlay, [number, number, number]> = { halos: [255, 176, 0], gamut: [255, 0, 200] };

/** A picture to lie over a sample: clear but for what is to be seen. */
export interface Overlay extends PixelSize {
  png: Buffer;
  /** Share of the pixels that are spots, 0-1. */
  share: number;
}

/**
 * Where in a part of an output there are halos, or colours that its space cannot hold.
 * @param shown the part, in px of the output with its border
 * @param as what the part is shown as large as
 */
export async function overlayOf(
  kind: SampleOverlay,
  preset: Preset,
  geometry: Geometry,
  source: MasterSource,
  shown: Rectangle,
  edge: number,
  as: PixelSize,
): Promise<Overlay> {
  const sized = await source.sized(geometry.scaled, preset);
  const frame = frameOf(geometry, sized);
  const part = overlap(movedBy(shown, -edge, -edge), wholeOf(frame));
  const spots = new Uint8Array(shown.width * shown.height);
  if (part) {
    const own = kind === 'halos' ? await halos(sized, frame, part, preset) : await outside(sized, frame, part, preset);
    const [left, top] = [part.left + edge - shown.left, part.top + edge - shown.top];
    for (let y = 0; y < part.height; y++) spots.set(own.subarray(y * part.width, (y + 1) * part.width), (top + y) * shown.width + left);
  }
  const share = spots.reduce((sum, spot) => sum + spot, 0) / spots.length;
  const seen = as.width < shown.width ? pooledSpots(spots, shown, as) : spots;
  const drawn = kind === 'halos' ? outlinedSpots(seen, as) : hatchedSpots(seen, as);
  const [r, g, b] = COLOURS[kind];
  const pixels = new Uint8Array(drawn.length * 4);
  for (let at = 0; at < drawn.length; at++) if (drawn[at]) pixels.set([r, g, b, 255], at * 4);
  const png = await sharp(pixels, { raw: { width: as.width, height: as.height, channels: 4 } })
    .png({ compressionLevel: 1 })
    .toBuffer();
  return { png, ...as, share };
}

async function halos(sized: SizedMaster, frame: Rectangle, part: Rectangle, preset: Preset): Promise<Uint8Array> {
  const { sharpen } = preset;
  if (!sharpen || sharpen.amount === 0) return new Uint8Array(part.width * part.height);
  const worked = grownBy(part, reachOf(sharpen.radius) + 1, frame);
  const { converted } = await coloursOf(sized, movedBy(worked, frame.left, frame.top), preset, true);
  const before: Raster<Uint16Array> = { ...converted.raster, pixels: converted.raster.pixels.slice() };
  const after: Raster<Uint16Array> = { ...before, pixels: before.pixels.slice() };
  unsharpMask(after, sharpen);
  return cut(haloSpots(before, after), worked, movedBy(part, -worked.left, -worked.top));
}

async function outside({ picture, source }: SizedMaster, frame: Rectangle, part: Rectangle, { colour }: Preset): Promise<Uint8Array> {
  const none = () => new Uint8Array(part.width * part.height);
  if (colour.space === 'keep') return none();
  const target = SPACES[colour.space];
  const own = crop(picture, movedBy(part, frame.left, frame.top));
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
