import {
  adapts,
  blendMark,
  type Ground,
  groundUnder,
  markColourOn,
  movedBy,
  type PixelSize,
  placeMark,
  type Preset,
  ProblemError,
  type Raster,
  type Rectangle,
  type Watermark,
  wholeOf,
} from '@rundle/core';
import sharp from 'sharp';
import type { ConvertedImage } from '../colour/convert';

/** The longest side a watermark of pixels may have. */
const LONGEST = 8192;
/** An SVG is drawn so many times as large as it will be, then scaled down, so that its edges are even. */
const OVERSAMPLING = 2;

/** A watermark that has been checked: a picture and its shape. */
interface Drawable {
  data: Buffer;
  shape: PixelSize;
  vector: boolean;
}

/**
 * Draws a watermark onto a finished picture, in place: as large and where the preset says, in the picture's own space.
 * @param picture grey, RGB or CMYK of 16 bits, sharpened, without its border; perhaps only a part of it
 * @param fromSrgb turns colours of sRGB into the picture's own numbers
 * @param whole size of the whole picture
 * @param part where `picture` lies in that
 * @returns where it lies in the whole picture
 * @throws ProblemError when the watermark cannot be read or is refused
 */
export async function drawMark(
  picture: Raster<Uint16Array>,
  mark: NonNullable<Preset['mark']>,
  watermark: Watermark,
  fromSrgb: ConvertedImage['fromSrgb'],
  whole: PixelSize,
  part: Rectangle,
): Promise<Rectangle> {
  const usual = await drawable(watermark);
  const place = (shape: PixelSize) => placeMark(whole, shape, mark);
  const ground = adapts(watermark) ? groundUnder(picture, movedBy(place(usual.shape), -part.left, -part.top)) : null;
  const { data, shape, vector } = ground ? await drawable(onGround(watermark, ground)) : usual;
  const placement = place(shape);
  const { width, height } = placement;
  // SVG has 96 px to the inch as long as nobody says otherwise (CSS Values 3, 5.2); its density sets how large it is drawn.
  const density = vector ? Math.min(2400, Math.max(1, (72 * OVERSAMPLING * width) / shape.width)) : undefined;
  const opened = sharp(data, density ? { density } : {});
  const rgba = await opened.resize(width, height, { fit: 'fill' }).ensureAlpha().toColourspace('srgb').raw().toBuffer();
  const colours = new Uint16Array(width * height * 3);
  const coverage = new Uint16Array(width * height);
  for (let at = 0; at < coverage.length; at++) {
    for (let c = 0; c < 3; c++) colours[at * 3 + c] = rgba[at * 4 + c]! * 257;
    coverage[at] = rgba[at * 4 + 3]! * 257;
  }
  blendMark(picture, await fromSrgb(colours), coverage, movedBy(placement, -part.left, -part.top), mark.opacity);
  return placement;
}

/** The variant of a watermark for what lies under it. */
function onGround(watermark: Watermark, ground: Ground): Watermark {
  if (watermark.kind === 'text') return { ...watermark, colour: markColourOn(ground, watermark.colour) };
  return ground === 'bright' && watermark.dark ? { ...watermark, data: watermark.dark } : watermark;
}

async function drawable(watermark: Watermark): Promise<Drawable> {
  if (watermark.kind === 'text') {
    const { svg, shape } = await (await import('./letters')).textAsSvg(watermark);
    return { data: Buffer.from(svg), shape, vector: true };
  }
  const data = Buffer.from(watermark.data);
  if (watermark.kind === 'svg') (await import('./safe-svg')).refuseUnsafeSvg(data.toString('utf8'));
  const { width, height, format } = await sharp(data, { limitInputPixels: LONGEST ** 2 })
    .metadata()
    .catch((): never => {
      throw unreadable();
    });
  if (format !== watermark.kind) throw unreadable();
  if (Math.max(width, height) > LONGEST)
    throw new ProblemError({
      code: 'watermark-large',
      message: `The watermark has ${width} x ${height} px; its longer side may have ${LONGEST}.`,
    });
  return { data, shape: { width, height }, vector: watermark.kind === 'svg' };
}

/**
 * Checks a watermark whole, by drawing it once.
 * @param edge of the picture that it is drawn on, px
 * @throws ProblemError when it cannot be read or is refused
 */
export async function checkWatermark(watermark: Watermark, edge = 64): Promise<void> {
  const picture: Raster<Uint16Array> = { width: edge, height: edge, channels: 3, pixels: new Uint16Array(edge * edge * 3) };
  const mark = { watermark: 'any', place: 'centre', margin: 0, size: 1, opacity: 1 } as const;
  const variants = watermark.kind !== 'text' && watermark.dark ? [watermark, { ...watermark, data: watermark.dark }] : [watermark];
  for (const variant of variants)
    await drawMark(picture, mark, variant, (colours) => Promise.resolve(colours), picture, wholeOf(picture)).catch((error: unknown) => {
      throw error instanceof ProblemError ? error : unreadable();
    });
}

const unreadable = () =>
  new ProblemError({ code: 'watermark-unreadable', message: 'The watermark is no PNG or SVG that can be read. Export it again.' });
