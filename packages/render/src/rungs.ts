import {
  adapts,
  bordered,
  type CanvasEdges,
  cutOut,
  cutToEightBits,
  EDGE_FILLS,
  type EdgeFill,
  detailAnchor,
  drawWithEdges,
  FILE_TYPES,
  type Finding,
  framed,
  type Geometry,
  grownBy,
  hexToColour,
  type Making,
  movedBy,
  neededFor,
  overlap,
  PIXEL_RUNGS,
  type PixelRung,
  type Preset,
  type Raster,
  reachOf,
  type Rectangle,
  type SpaceName,
  toEightBits,
  toneReach,
  unsharpMask,
  type Watermark,
  wholeOf,
  withAlpha,
  withEdge,
  withoutBackdrop,
} from '@rundle/core';
import { type ConvertedImage, convertColour, inOwnColours } from './colour/convert';
import { drawMark } from './mark/draw';
import { Scratch } from './scratch';
import type { MasterSource, SizedMaster } from './source';
import { toneAfter, toneBefore } from './tone';
import type { FinishedImage } from './write/encode';
import { modelOf, pixelFile } from './write/pixel-file';

/** How much of the work is done; everything, unless it is said. */
export interface PixelWork {
  /** The part of the output that is wanted, its border and edges included; null: all of it. */
  window?: Rectangle | null;
  /** The last rung that is applied. What comes out of an earlier one than `file` has 8 bits. */
  upTo?: PixelRung;
  onDecoded?: () => void;
}

export interface RenderedImage extends FinishedImage {
  /** Where the watermark lies in the output, px; null: there is none, or it lies in another panel. */
  mark: Rectangle | null;
  space: SpaceName | null;
  findings: Finding[];
}

/** What is drawn: a preset, its watermark, and which piece of the picture it makes. */
export type Drawing = Pick<Making, 'preset' | 'panel' | 'edge'> & { watermark: Watermark | null };

/**
 * The rungs of a preset, one after the other: size, tone, colour, sharpness, mark and border, panel, bits, edges. A window of the output has the pixels, to the last bit,
 * that all of the output has there.
 */
export async function renderPixels(
  { preset, watermark, ...pieces }: Drawing,
  geometry: Geometry,
  source: MasterSource,
  { window = null, upTo = 'file', onDecoded }: PixelWork = {},
): Promise<RenderedImage> {
  const reached = (rung: PixelRung) => PIXEL_RUNGS.indexOf(rung) <= PIXEL_RUNGS.indexOf(upTo);
  // Of a cropped picture a window is made by itself: its crop may change with the next. All else is scaled whole, so that the next window is there.
  const inParts = window !== null && !geometry.toDetail && geometry.view !== null;
  const sizing = reached('tone') ? preset : { ...preset, tone: null };
  const whole = inParts ? null : await source.sized(geometry.scaled, sizing, geometry.view);
  const frame = whole ? frameOf(geometry, whole) : (geometry.crop ?? wholeOf(geometry.scaled));
  const border = (reached('mark') && preset.border) || null;
  const inset = border?.px ?? 0;
  const output = bordered(frame, { border });
  const panel = (reached('print') && pieces.panel) || wholeOf(output);
  const canvas = reached('print') ? preset.canvas : null;
  const edge = canvas ? pieces.edge : 0;
  const inFile = window ?? wholeOf(withEdge(panel, edge));
  const inPanel = canvas ? neededFor(inFile, panel, edge, fillOf(canvas)) : inFile;
  const wanted = movedBy(inPanel, panel.left, panel.top);
  const sharpening = reached('sharpen') && preset.sharpen && preset.sharpen.amount > 0 ? preset.sharpen : null;
  const seen = overlap(movedBy(wanted, -inset, -inset), wholeOf(frame));
  // A window that lies in the border takes a pixel of the picture along, whose profile and channels count.
  const target = seen ?? { left: 0, top: 0, width: 1, height: 1 };
  const marked = reached('mark') && preset.mark && watermark ? { mark: preset.mark, watermark } : null;
  // A watermark that follows what lies under it has to see all of that.
  const inner = marked && adapts(marked.watermark) ? wholeOf(frame) : target;
  const reach = toneReach(sizing.tone) + (sharpening ? reachOf(sharpening.radius) : 0);
  const worked = reach ? grownBy(inner, reach, frame) : inner;

  const part = movedBy(worked, frame.left, frame.top);
  const sized = whole ?? (await source.sized(geometry.scaled, sizing, geometry.view, part));
  onDecoded?.();
  const { converted, alpha } = await coloursOf(sized, whole ? part : wholeOf(part), sizing, reached('colour'));
  // Pixels that other sizes may be scaled from must stay as they are.
  const shared = converted.raster.pixels === sized.picture.pixels && !source.mayMutate;
  const mutable = shared ? copied(converted.raster) : converted.raster;
  const halo = sharpening ? unsharpMask(mutable, sharpening) : null;
  const cut = movedBy(inner, -worked.left, -worked.top);
  const drawnOn = isWhole(cut, mutable) ? mutable : cutOut(mutable, cut);
  const placement = marked ? await drawMark(drawnOn, marked.mark, marked.watermark, converted.fromSrgb, frame, inner) : null;
  const picture = inner === target ? drawnOn : cutOut(drawnOn, target);
  const clear = movedBy(target, -worked.left, -worked.top);
  const opened = alpha ? withAlpha(picture, isWhole(clear, alpha) ? alpha.pixels : cutOut(alpha, clear).pixels) : picture;
  const finished =
    border && !(seen && isWhole(seen, wanted))
      ? framed(
          seen ? opened : { ...opened, width: 0, height: 0 },
          wanted,
          seen ? seen.left + inset - wanted.left : 0,
          seen ? seen.top + inset - wanted.top : 0,
          await colourIn(border.colour, converted),
        )
      : opened;

  const isFile = upTo === 'file';
  const profile = preset.colour.embed || !isFile || !FILE_TYPES[preset.file.type].untagged ? converted.profile : null;
  const model = modelOf(picture);
  const drawn = { width: inFile.width, height: inFile.height, channels: finished.channels };
  const { file, pixels } = pixelFile(drawn, model, isFile ? preset.file.bits : 8, profile);
  const dither = isFile && preset.colour.dither;
  // Edges show the picture as it is in the file, to the last bit.
  const flat = !canvas ? pixels : pixels instanceof Uint8Array ? new Uint8Array(finished.pixels.length) : finished.pixels;
  if (!(flat instanceof Uint8Array)) flat.set(finished.pixels);
  else if (isWhole(wanted, output)) toEightBits(finished.pixels, dither, flat);
  else cutToEightBits(finished, wanted, output.width, dither, flat);
  if (canvas) {
    const edges = await edgesOf(canvas, edge, preset.colour.backdrop, converted, pixels instanceof Uint8Array);
    drawWithEdges({ ...finished, pixels: flat }, inPanel, panel, edges, inFile, pixels);
  }
  const origin = edge + inset;
  return {
    picture: { ...drawn, pixels },
    model,
    file,
    profile,
    halo,
    gamut: converted.gamut,
    mark: placement && overlap(movedBy(placement, origin - panel.left, origin - panel.top), wholeOf(withEdge(panel, edge))),
    space: converted.name,
    findings: [...sized.source.findings, ...converted.findings],
  };
}

/** The part of the scaled master that becomes the output. */
export function frameOf({ crop: cut, toDetail }: Geometry, { picture }: SizedMaster): Rectangle {
  if (!cut) return wholeOf(picture);
  return toDetail ? detailAnchor(picture, cut) : cut;
}

/** A part of the scaled master, out of its backdrop, with its tone, and in the colours of the output, or still in its own. */
export async function coloursOf(
  sized: SizedMaster,
  part: Rectangle,
  { colour, tone }: Pick<Preset, 'colour' | 'tone'>,
  convert: boolean,
): Promise<{ converted: ConvertedImage; alpha: Raster<Uint16Array> | null }> {
  const { picture, alpha, source } = sized;
  const cropped = (raster: Raster<Uint16Array>) => (isWhole(part, raster) ? raster : cutOut(raster, part));
  const clear = alpha && cropped(alpha);
  const over = cropped(picture);
  const opaque = clear ? withoutBackdrop(over, clear.pixels, colour.backdrop) : over;
  const toned = await toneBefore(opaque, sized, tone);
  const isLate = toned === null;
  const own = toned ?? opaque;
  const plain = convert || isLate ? await convertColour(own, source.colour, colour) : await inOwnColours(own, source.colour, colour);
  const converted = isLate ? await toneAfter(plain, sized, tone) : plain;
  return { converted, alpha: clear };
}

const isWhole = ({ width, height }: Rectangle, picture: { width: number; height: number }): boolean =>
  width === picture.width && height === picture.height;

const colourIn = (hex: string, { fromSrgb }: ConvertedImage): Promise<Uint16Array> => fromSrgb(Uint16Array.from(hexToColour(hex)));

/** How the edges of a canvas are filled. */
const fillOf = ({ fill }: Pick<NonNullable<Preset['canvas']>, 'fill'>): EdgeFill | 'colour' =>
  EDGE_FILLS.find((known) => known === fill) ?? 'colour';

/** The edges of a canvas in the colours and bits of a file. */
async function edgesOf(
  { fill, opacity, marks }: NonNullable<Preset['canvas']>,
  edge: number,
  backdrop: string,
  converted: ConvertedImage,
  inEightBits: boolean,
): Promise<CanvasEdges> {
  const colour = async (hex: string) => {
    const values = await colourIn(hex, converted);
    return inEightBits ? values.map((value) => Math.round(value / 257)) : values;
  };
  const shown = fillOf({ fill });
  return {
    edge,
    fill: shown === 'colour' ? await colour(fill) : shown,
    opacity,
    backdrop: await colour(backdrop),
    marks: marks ? { dark: await colour('#000000'), bright: await colour('#ffffff') } : null,
  };
}

const copies = new Scratch();

/** A copy to work on; valid until the next. */
function copied(raster: Raster<Uint16Array>): Raster<Uint16Array> {
  const { length } = raster.pixels;
  const pixels = new Uint16Array(copies.take(2 * length), 0, length);
  pixels.set(raster.pixels);
  return { ...raster, pixels };
}
