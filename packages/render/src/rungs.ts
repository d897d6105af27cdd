import {
  adapts,
  bordered,
  cutToEightBits,
  detailAnchor,
  FILE_TYPES,
  type Finding,
  framed,
  type Geometry,
  grownBy,
  hexToColour,
  movedBy,
  overlap,
  PIXEL_RUNGS,
  type PixelRung,
  type Preset,
  type Raster,
  reachOf,
  type Rectangle,
  type SpaceName,
  toEightBits,
  unsharpMask,
  type Watermark,
  wholeOf,
  withAlpha,
  withoutBackdrop,
} from '@rundle/core';
import { type ConvertedImage, convertColour, inOwnColours } from './colour/convert';
import { drawMark } from './mark/draw';
import { Scratch } from './scratch';
import { crop } from './size/sized';
import type { MasterSource, SizedMaster } from './source';
import type { FinishedImage } from './write/encode';
import { modelOf, pixelFile } from './write/pixel-file';

/** How much of the work is done; everything, unless it is said. */
export interface PixelWork {
  /** The part of the output that is wanted, its border included; null: all of it. */
  window?: Rectangle | null;
  /** The last rung that is applied. What comes out of an earlier one than `file` has 8 bits. */
  upTo?: PixelRung;
  onDecoded?: () => void;
}

export interface RenderedImage extends FinishedImage {
  /** Where the watermark lies in the output, its border included, px; null: there is none. */
  mark: Rectangle | null;
  space: SpaceName | null;
  findings: Finding[];
}

/**
 * The rungs of a preset, one after the other: size, colour, sharpness, mark and border, bits. A window of the output has the pixels, to the last bit,
 * that all of the output has there.
 */
export async function renderPixels(
  { preset, watermark }: { preset: Preset; watermark: Watermark | null },
  geometry: Geometry,
  source: MasterSource,
  { window = null, upTo = 'file', onDecoded }: PixelWork = {},
): Promise<RenderedImage> {
  const reached = (rung: PixelRung) => PIXEL_RUNGS.indexOf(rung) <= PIXEL_RUNGS.indexOf(upTo);
  const sized = await source.sized(geometry.scaled, preset);
  onDecoded?.();
  const frame = frameOf(geometry, sized);
  const border = (reached('mark') && preset.border) || null;
  const edge = border?.px ?? 0;
  const output = bordered(frame, { border });
  const wanted = window ?? wholeOf(output);
  const sharpening = reached('sharpen') && preset.sharpen && preset.sharpen.amount > 0 ? preset.sharpen : null;
  const seen = overlap(movedBy(wanted, -edge, -edge), wholeOf(frame));
  // A window that lies in the border takes a pixel of the picture along, whose profile and channels count.
  const target = seen ?? { left: 0, top: 0, width: 1, height: 1 };
  const marked = reached('mark') && preset.mark && watermark ? { mark: preset.mark, watermark } : null;
  // A watermark that follows what lies under it has to see all of that.
  const inner = marked && adapts(marked.watermark) ? wholeOf(frame) : target;
  const worked = sharpening ? grownBy(inner, reachOf(sharpening.radius), frame) : inner;

  const { converted, alpha } = await coloursOf(sized, movedBy(worked, frame.left, frame.top), preset, reached('colour'));
  // Pixels that other sizes may be scaled from must stay as they are.
  const shared = converted.raster.pixels === sized.picture.pixels && !source.mayMutate;
  const mutable = shared ? copied(converted.raster) : converted.raster;
  const halo = sharpening ? unsharpMask(mutable, sharpening) : null;
  const cut = movedBy(inner, -worked.left, -worked.top);
  const drawnOn = isWhole(cut, mutable) ? mutable : crop(mutable, cut);
  const placement = marked ? await drawMark(drawnOn, marked.mark, marked.watermark, converted.fromSrgb, frame, inner) : null;
  const picture = inner === target ? drawnOn : crop(drawnOn, target);
  const clear = movedBy(target, -worked.left, -worked.top);
  const opened = alpha ? withAlpha(picture, isWhole(clear, alpha) ? alpha.pixels : crop(alpha, clear).pixels) : picture;
  const finished =
    border && !(seen && isWhole(seen, wanted))
      ? framed(
          seen ? opened : { ...opened, width: 0, height: 0 },
          wanted,
          seen ? seen.left + edge - wanted.left : 0,
          seen ? seen.top + edge - wanted.top : 0,
          await borderColour(border.colour, converted),
        )
      : opened;

  const isFile = upTo === 'file';
  const profile = preset.colour.embed || !isFile || !FILE_TYPES[preset.file.type].untagged ? converted.profile : null;
  const model = modelOf(picture);
  const { file, pixels } = pixelFile(finished, model, isFile ? preset.file.bits : 8, profile);
  const dither = isFile && preset.colour.dither;
  if (!(pixels instanceof Uint8Array)) pixels.set(finished.pixels);
  else if (isWhole(wanted, output)) toEightBits(finished.pixels, dither, pixels);
  else cutToEightBits(finished, wanted, output.width, dither, pixels);
  return {
    picture: { ...finished, pixels },
    model,
    file,
    profile,
    halo,
    gamut: converted.gamut,
    mark: placement && movedBy(placement, edge, edge),
    space: converted.name,
    findings: [...sized.source.findings, ...converted.findings],
  };
}

/** The part of the scaled master that becomes the output. */
export function frameOf({ crop: cut, toDetail }: Geometry, { picture }: SizedMaster): Rectangle {
  if (!cut) return wholeOf(picture);
  return toDetail ? detailAnchor(picture, cut) : cut;
}

/** A part of the scaled master, out of its backdrop and in the colours of the output, or still in its own. */
export async function coloursOf(
  { picture, alpha, source }: SizedMaster,
  part: Rectangle,
  { colour }: Preset,
  convert: boolean,
): Promise<{ converted: ConvertedImage; alpha: Raster<Uint16Array> | null }> {
  const cropped = (raster: Raster<Uint16Array>) => (isWhole(part, raster) ? raster : crop(raster, part));
  const clear = alpha && cropped(alpha);
  const over = cropped(picture);
  const opaque = clear ? withoutBackdrop(over, clear.pixels, colour.backdrop) : over;
  const converted = convert ? await convertColour(opaque, source.colour, colour) : await inOwnColours(opaque, source.colour, colour);
  return { converted, alpha: clear };
}

const isWhole = ({ width, height }: Rectangle, picture: { width: number; height: number }): boolean =>
  width === picture.width && height === picture.height;

const borderColour = (hex: string, { fromSrgb }: ConvertedImage): Promise<Uint16Array> => fromSrgb(Uint16Array.from(hexToColour(hex)));

const copies = new Scratch();

/** A copy to work on; valid until the next. */
function copied(raster: Raster<Uint16Array>): Raster<Uint16Array> {
  const { length } = raster.pixels;
  const pixels = new Uint16Array(copies.take(2 * length), 0, length);
  pixels.set(raster.pixels);
  return { ...raster, pixels };
}
