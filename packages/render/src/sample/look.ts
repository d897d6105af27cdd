import {
  blocksAround,
  bordered,
  cutOut,
  type Expectation,
  fileByType,
  judge,
  type Judgement,
  keyOf,
  type Making,
  movedBy,
  pictureOrigin,
  PIXEL_RUNGS,
  type PixelRung,
  type PixelSize,
  planesOf,
  type Raster,
  type Rectangle,
  type Rgb8,
  type SampleOverlay,
  type SampleView,
  toEightBits,
  wholeOf,
  windowAt,
} from '@rundle/core';
import { type RenderedImage, renderPixels } from '../rungs';
import type { MasterSource } from '../source';
import { writerOf } from '../types/registry';
import { asRgb } from '../write/as-rgb';
import { clippedInMaster, encodedOverlay, type Overlay, overlayOf } from './overlay';
import { fitted, type ScreenImage, toPng } from './picture';
import { type FoundFile, ingredientsOf, type Sample, type SampleTask } from './sample';
import { leavesChromaOpen, throughFile } from './through-file';

/** Side of a block of a JPEG whose chroma is halved, px; those of full chroma fit into it. */
const BLOCK = 16;

/** Where a look goes: the output at the rung that is asked for, and the part of it. */
interface Sight {
  output: PixelSize;
  /** Where the picture without its border lies in it, px; of a panel, partly outside. */
  picture: Rectangle;
  /** The picture, or the panel: what places are shares of. */
  own: Rectangle;
  shown: Rectangle;
  /** What the part is shown as large as. */
  as: PixelSize;
  /** The most px that it may have; null: as many as it has. */
  within: PixelSize | null;
  cut: Rectangle | null;
}

/** What a look gets from those before it. */
export interface LookMemory {
  /** The chroma that the whole picture gets where that is left open. */
  chromaOf: () => Promise<FoundFile['chroma']>;
  /** A part before it goes into a file, made unless it is there. */
  partOf: (key: string, make: () => Promise<RenderedImage>) => Promise<RenderedImage>;
}

/**
 * A look at a part of an output, or at all of it, without making the whole file.
 * @param found what is known of that file
 * @throws ProblemError as a run would
 */
export async function lookAt(task: SampleTask, source: MasterSource, found: FoundFile | null, memory: LookMemory): Promise<Sample> {
  const sight = sightOf(task);
  const { overlay } = task;
  if (overlay === 'halos' || overlay === 'gamut') {
    return overSample(sight, await overlayOf(overlay, task.making, source, sight.shown, sight.picture, sight.as));
  }
  const part = await partThroughFile(task, sight, source, found, memory);
  if (!overlay) return pictureSample(task, sight, part, found);
  const over = await encodedOverlaySample(overlay, sight, part);
  if (overlay !== 'highlights' && overlay !== 'shadows') return over;
  return { ...over, ownSpots: await clippedInMaster(overlay, task.making, source, sight.shown, sight.picture) };
}

function sightOf({ making, upTo, view }: SampleTask): Sight {
  const { geometry } = making;
  const output = sizeAfter(making, upTo);
  const { x: left, y: top } = originAfter(making, upTo);
  const picture = { left, top, ...geometry.output };
  const isWhole = view.kind === 'whole';
  const own = making.panel && isAfter(upTo, 'print') ? panelIn(making.panel, making.edge) : picture;
  const shown = isWhole ? wholeOf(output) : partOf(view, output, own);
  return {
    output,
    picture,
    own,
    shown,
    as: isWhole ? fitted(shown, view.within) : shown,
    within: isWhole ? view.within : null,
    cut: cutOf(making),
  };
}

/** A part before and after it went through an encoder. */
interface EncodedPart {
  made: RenderedImage;
  image: ScreenImage;
  /** What of both is shown; null: all. */
  part: Rectangle | null;
  quality: number | null;
  expected: Expectation[];
  /** Whether it may be judged: it was encoded, and its decoder has kept its colours. */
  isComparable: boolean;
}

async function partThroughFile(
  task: SampleTask,
  { output, shown, within }: Sight,
  source: MasterSource,
  found: FoundFile | null,
  memory: LookMemory,
): Promise<EncodedPart> {
  const { making, watermark, upTo, judged } = task;
  const { preset, geometry } = making;
  const settings = fileByType(preset.file);
  const lossy = upTo === 'file' && 'aim' in settings ? settings : null;
  const window = within ? null : lossy ? blocksAround(shown, output, BLOCK) : shown;
  // Tiles side by side are compared: each has to be the file's own.
  const isOpen = lossy !== null && judged && !found && leavesChromaOpen(lossy);
  const chroma = isOpen ? await memory.chromaOf() : (found?.chroma ?? null);
  const make = () => renderPixels({ ...making, watermark }, geometry, source, { window, upTo });
  // With another quality it is the same until it is encoded.
  const key = lossy && window && JSON.stringify([keyOf('pixels', ingredientsOf(task)), window]);
  const made = key ? await memory.partOf(key, make) : await make();
  const part = window && movedBy(shown, -window.left, -window.top);
  if (!lossy) return { made, image: made, part, quality: null, expected: [], isComparable: false };
  const { ownColours, ...encoded } = await throughFile(made, lossy, found, chroma);
  return { made, part, ...encoded, isComparable: ownColours };
}

const shareWithin = (at: number, size: number): number => Math.min(1, Math.max(0, at / size));

type OverlaySample = Extract<Sample, { kind: 'overlay' }>;

/** An overlay in place of a picture. */
const overSample = (
  { output, shown, cut, own: placed }: Sight,
  { share, own, png, width, height, densest }: Overlay,
  of?: EncodedPart,
): OverlaySample => ({
  kind: 'overlay',
  png,
  width,
  height,
  spots: share,
  ownSpots: own,
  worst: densest && {
    x: shareWithin(shown.left + densest.x - placed.left, placed.width),
    y: shareWithin(shown.top + densest.y - placed.top, placed.height),
  },
  converted: false,
  output,
  shown,
  quality: of?.quality ?? null,
  expected: of?.expected ?? [],
  cut,
});

async function encodedOverlaySample(
  overlay: Exclude<SampleOverlay, 'halos' | 'gamut'>,
  sight: Sight,
  part: EncodedPart,
): Promise<OverlaySample> {
  const [before, after] = [partAsRgb(part.made, part.part), partAsRgb(part.image, part.part)];
  return overSample(sight, await encodedOverlay(overlay, before, after, sight.shown, sight.as), part);
}

async function pictureSample(task: SampleTask, sight: Sight, encoded: EncodedPart, found: FoundFile | null): Promise<Sample> {
  const { output, shown, within, cut } = sight;
  const { made, image, part, quality, isComparable } = encoded;
  const { halo, gamut, mark } = made;
  const isResized = found && task.upTo === 'file' && (found.width !== output.width || found.height !== output.height);
  const expected: Expectation[] = isResized ? [...encoded.expected, 'size'] : encoded.expected;
  // Before the picture for the screen, which is made in the same memory.
  const { type } = task.making.preset.file;
  const grid = type !== 'original' && writerOf(type).onGrid ? shown : null;
  const judgement = task.judged && isComparable ? judgementOf(made, image, part, grid) : null;
  const screen = await toPng(image, part, within);
  return { kind: 'picture', ...screen, output, shown, quality, expected, mark, cut, halo, gamut, judgement };
}

/** What of the master stays, as shares of it; where the most detail is, is only known by its pixels. */
function cutOf({ geometry: { crop: cut, scaled, toDetail } }: Making): Rectangle | null {
  if (!cut || toDetail) return null;
  const { width, height } = scaled;
  return { left: cut.left / width, top: cut.top / height, width: cut.width / width, height: cut.height / height };
}

/** How a part differs from itself before it was encoded. */
const judgementOf = (before: RenderedImage, after: ScreenImage, part: Rectangle | null, grid: Rectangle | null): Judgement =>
  judge(planesOf(partAsRgb(before, part)), planesOf(partAsRgb(after, part)), grid);

/** A part of a picture in 8 bits, to be judged. */
function partAsRgb({ picture, model }: ScreenImage, part: Rectangle | null): Rgb8 {
  const own =
    picture.pixels instanceof Uint8Array ? (picture as Raster<Uint8Array>) : { ...picture, pixels: toEightBits(picture.pixels, false) };
  return asRgb(part ? cutOut(own, part) : own, model === 'cmyk' ? model : picture.channels === 1 ? 'grey' : 'rgb');
}

const isAfter = (upTo: PixelRung, rung: PixelRung): boolean => PIXEL_RUNGS.indexOf(upTo) >= PIXEL_RUNGS.indexOf(rung);

/** The size of an output at a rung: its border is drawn together with its mark. */
const sizeAfter = ({ geometry, size, preset }: Making, upTo: PixelRung): PixelSize =>
  isAfter(upTo, 'print') ? size : isAfter(upTo, 'mark') ? bordered(geometry.output, preset) : geometry.output;

/** Where the picture without its border begins in an output at a rung, px. */
const originAfter = ({ preset, panel, edge }: Making, upTo: PixelRung): { x: number; y: number } =>
  isAfter(upTo, 'print')
    ? pictureOrigin({ preset, panel, edge })
    : isAfter(upTo, 'mark')
      ? pictureOrigin({ preset, panel: null, edge: 0 })
      : { x: 0, y: 0 };

/** Where a panel lies between the edges of a canvas. */
export const panelIn = ({ width, height }: PixelSize, edge: number): Rectangle => ({ left: edge, top: edge, width, height });

/** The window around a place of the picture, or of the panel. @param picture where that lies in the output */
export function partOf({ x, y, size }: Extract<SampleView, { kind: 'part' }>, output: PixelSize, picture: Rectangle): Rectangle {
  const along = (share: number, from: number, inner: number, outer: number) => (from + share * inner) / outer;
  const centre = { x: along(x, picture.left, picture.width, output.width), y: along(y, picture.top, picture.height, output.height) };
  return windowAt(centre, size, output);
}
