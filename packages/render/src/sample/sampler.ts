import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  blocksAround,
  chromaSmears,
  type Expectation,
  type FeedTrip,
  FILE_TYPES,
  type FileTypeName,
  fileByType,
  type Finding,
  type GamutLoss,
  type Geometry,
  type Halo,
  judge,
  type Judgement,
  type MasterFacts,
  type Measured,
  movedBy,
  outputGeometry,
  planesOf,
  steadySampling,
  PIXEL_RUNGS,
  type PixelRung,
  type PixelSize,
  type Preset,
  type Raster,
  type Rectangle,
  type Rgb8,
  type SampleOverlay,
  type SampleView,
  type StudioDetails,
  toEightBits,
  type Watermark,
  windowAt,
  wholeOf,
} from '@rundle/core';
import sharp from 'sharp';
import { Descriptions } from '../metadata/description';
import { renderOutput } from '../render-master';
import { type RenderedImage, renderPixels } from '../rungs';
import { crop } from '../size/sized';
import { MasterSource } from '../source';
import { asRgb } from '../write/as-rgb';
import { type FeedDoor, throughFeed } from './feed-trip';
import { Measurer } from './measure';
import { encodedOverlay, overlayOf } from './overlay';
import { decodeFinished, fitted, type ScreenFile, type ScreenImage, toPng } from './picture';
import { leavesChromaOpen, throughFile } from './through-file';

/** One look at what a preset makes of a master. */
export interface SampleTask {
  /** Path of the master, and what tells its content from that of another. */
  master: string;
  content: string;
  facts: MasterFacts;
  studio: StudioDetails;
  preset: Preset;
  watermark: Watermark | null;
  /** The rung after which the picture is shown; `file`: as it comes out of the finished file. */
  upTo: PixelRung;
  overlay: SampleOverlay | null;
  view: SampleView;
  /** Whether a look tells how its part differs from the unencoded picture. */
  judged: boolean;
}

/** What was found by making the whole file: by it a part can be shown as it is in that file. */
export interface FoundFile extends PixelSize {
  quality: number | null;
  chroma: '4:2:0' | '4:4:4' | null;
}

export interface Sample extends ScreenFile {
  /** Size of the output, its border included, px. */
  output: PixelSize;
  /** The part of it that is shown. */
  shown: Rectangle;
  quality: number | null;
  /** Empty: the pixels are those of the file. */
  expected: Expectation[];
  /** Where the watermark lies in the output, px. */
  mark: Rectangle | null;
  /** The part of the master that stays, as shares of it; null: all of it, or not known without the pixels. */
  cut: Rectangle | null;
  /** Share of the pixels that an overlay marks. */
  spots: number | null;
  halo: Halo | null;
  gamut: GamutLoss | null;
  /** Of the part that is shown; null: not asked for, or a decoder has changed the colours. */
  judgement: Judgement | null;
}

/** The same with the figures of the whole file. */
export interface FinishedSample extends Sample {
  bytes: number;
  found: FoundFile;
  warnings: Finding[];
}

/** Masters whose sizes are kept: a strip of them to switch between, and one more. */
const MASTERS_KEPT = 6;

const SMEARS_KEPT = 100;

/** Side of a block of a JPEG whose chroma is halved, px; those of full chroma fit into it. */
const BLOCK = 16;

/**
 * Shows what presets make of masters, by the code of a run. Decoded masters and their sizes are kept from one look to the next, so that only what
 * comes after a changed value is worked out again. One look at a time: they share their memory.
 */
export class Sampler {
  private readonly sources = new Map<string, MasterSource>();
  private readonly descriptions = new Descriptions(50);
  private readonly measurer = new Measurer();
  /** Whether halved chroma would smear whole pictures, by what they are made of. */
  private readonly smears = new Map<string, boolean>();
  private last: { key: string; folder: string; file: Omit<FinishedSample, keyof ScreenFile | 'shown'>; path: string } | null = null;

  /**
   * @param most bytes of decoded masters and their sizes that are kept
   * @param folder where whole files are made
   */
  constructor(
    private readonly most: number,
    private readonly folder = tmpdir(),
  ) {}

  /**
   * A look at a part of the output, or at all of it, without making the whole file.
   * @param found what is known of that file
   * @throws ProblemError as a run would
   */
  async look(asked: SampleTask, found: FoundFile | null): Promise<Sample> {
    const task = shownAs(asked);
    const source = this.sourceOf(task);
    const geometry = outputGeometry(task.preset.size, task.facts);
    try {
      const { upTo, view, overlay } = task;
      const output = borderedSize(geometry, task.preset, upTo);
      const shown = view.kind === 'whole' ? wholeOf(output) : partOf(view, output, geometry.output);
      const cut = cutOf(geometry);
      if (overlay === 'halos' || overlay === 'gamut') {
        const edge = (output.width - geometry.output.width) / 2;
        const as = view.kind === 'whole' ? fitted(shown, view.within) : shown;
        const { share: spots, ...drawn } = await overlayOf(overlay, task.preset, geometry, source, shown, edge, as);
        return {
          ...drawn,
          converted: false,
          output,
          shown,
          quality: null,
          expected: [],
          mark: null,
          cut,
          spots,
          halo: null,
          gamut: null,
          judgement: null,
        };
      }
      const settings = fileByType(task.preset.file);
      const lossy = upTo === 'file' && 'aim' in settings;
      const window = view.kind === 'whole' ? null : lossy ? blocksAround(shown, output, BLOCK) : shown;
      // Tiles side by side are compared: each has to be the file's own.
      const known =
        lossy && task.judged && !found && leavesChromaOpen(settings) ? await this.chromaOf(task, geometry, source) : found?.chroma;
      const image = await renderPixels(task, geometry, source, { window, upTo });
      const part = window && movedBy(shown, -window.left, -window.top);
      const encoded = lossy
        ? await throughFile(image, settings, found, known ?? null)
        : { image, quality: null, expected: [], ownColours: true };
      if (overlay) {
        const as = view.kind === 'whole' ? fitted(shown, view.within) : shown;
        const [before, after] = [image, encoded.image].map((one) => partAsRgb(one, part)) as [Rgb8, Rgb8];
        const { share: spots, ...drawn } = await encodedOverlay(overlay, before, after, shown, as);
        return {
          ...drawn,
          converted: false,
          output,
          shown,
          quality: encoded.quality,
          expected: encoded.expected,
          mark: null,
          cut,
          spots,
          halo: null,
          gamut: null,
          judgement: null,
        };
      }
      const { halo, gamut, mark } = image;
      const resized = found && upTo === 'file' && (found.width !== output.width || found.height !== output.height);
      const expected: Expectation[] = resized ? [...encoded.expected, 'size'] : encoded.expected;
      // Before the picture for the screen, which is made in the same memory.
      const judgement = task.judged && lossy && encoded.ownColours ? judgementOf(image, encoded.image, part, shown, settings.type) : null;
      const screen = await toPng(encoded.image, part, view.kind === 'whole' ? view.within : null);
      return { ...screen, output, shown, quality: encoded.quality, expected, mark, cut, spots: null, halo, gamut, judgement };
    } finally {
      await this.letGo(source);
    }
  }

  /**
   * Makes the whole file as a run does, and shows a part of what is in it.
   * @param signal ends the work at its next step
   * @throws ProblemError as a run would, or the signal's reason
   */
  async finish(task: SampleTask, signal: AbortSignal): Promise<FinishedSample> {
    const { view, preset, facts } = task;
    if (preset.file.type !== 'original') await this.made(task, signal);
    if (preset.file.type === 'original') {
      const seen = await this.look(task, null);
      const { width, height, bytes } = facts;
      return { ...seen, bytes, found: { width, height, quality: null, chroma: null }, warnings: [] };
    }
    const model =
      preset.colour.space !== 'keep' ? 'rgb' : facts.colourModel === 'cmyk' ? 'cmyk' : facts.colourModel === 'grey' ? 'grey' : 'rgb';
    const { file, path } = this.last!;
    const shown = view.kind === 'whole' ? wholeOf(file.output) : partOf(view, file.output, withoutBorder(file.output, preset));
    const image = await decodeFinished(path, preset.file.type, model, view.kind === 'whole' ? null : shown);
    return { ...file, shown, ...(await toPng(image, null, view.kind === 'whole' ? view.within : null)) };
  }

  /**
   * Sends the whole file of a preset, which is no untouched copy, to a feed; see {@link throughFeed}.
   * @throws ProblemError as a run would, or when the feed does not take it, or the signal's reason
   */
  throughFeed(task: SampleTask, door: FeedDoor, id: string, folder: string, signal: AbortSignal): Promise<FeedTrip> {
    const file = async (wanted: SampleTask) => {
      const { path, file: made } = await this.made(wanted, signal);
      return { path, bytes: made.bytes, ...made.output };
    };
    const picture = async (wanted: SampleTask, within: PixelSize) =>
      (await this.look({ ...wanted, upTo: 'mark', overlay: null, view: { kind: 'whole', within } }, null)).png;
    return throughFeed(task, door, id, folder, { file, picture }, signal);
  }

  /**
   * What the whole file of a preset weighs, and how it differs from the unencoded picture.
   * @throws ProblemError as a run would, or the signal's reason
   */
  async measure(task: SampleTask, signal: AbortSignal): Promise<Measured> {
    if (Measurer.can(task)) {
      const source = this.sourceOf(task);
      try {
        return await this.measurer.measure(task, source, this.descriptions);
      } finally {
        await this.letGo(source);
      }
    }
    const { bytes, output, quality } = await this.finish({ ...task, view: { kind: 'whole', within: { width: 8, height: 8 } } }, signal);
    const { width, height } = output;
    const path = this.last?.path;
    if (path === undefined || !task.judged || task.preset.file.type === 'original')
      return { bytes, width, height, quality, judgement: null };
    const source = this.sourceOf(task);
    try {
      return { bytes, width, height, quality, judgement: await this.measurer.judgeFile(task, source, { path, width, height }) };
    } finally {
      await this.letGo(source);
    }
  }

  /** Deletes the file that was made last. */
  async close(): Promise<void> {
    const folder = this.last?.folder;
    this.last = null;
    if (folder) await rm(folder, { recursive: true, force: true });
  }

  /** The whole file of a task; it stays until another is made. */
  private async made(task: SampleTask, signal: AbortSignal): Promise<NonNullable<Sampler['last']>> {
    const key = JSON.stringify([task.content, task.facts, task.preset, task.studio, task.watermark]);
    if (this.last?.key === key) return this.last;
    await this.close();
    const { master, facts, studio, preset, watermark } = task;
    const source = this.sourceOf(task);
    const folder = await mkdtemp(join(this.folder, 'rundle-sample-'));
    const path = join(folder, `sample.${FILE_TYPES[preset.file.type].extension}`);
    try {
      const planned = { fileName: 'sample', ...outputGeometry(preset.size, facts).output };
      const job = { master, content: task.content, modified: 0, facts, studio };
      const done = await renderOutput(job, { id: '', planned, to: path, preset, watermark }, source, this.descriptions, () =>
        signal.throwIfAborted(),
      );
      const { chromaSubsampling } = preset.file.type === 'jpeg' ? await sharp(path).metadata() : {};
      const { width, height, bytes, quality, warnings, measures } = done;
      const chroma = chromaSubsampling === '4:4:4' || chromaSubsampling === '4:2:0' ? chromaSubsampling : null;
      const found: FoundFile = { width, height, quality, chroma };
      const known = { mark: null, cut: null, spots: null, judgement: null, ...measures };
      return (this.last = {
        key,
        folder,
        path,
        file: { output: { width, height }, quality, expected: [], ...known, bytes, found, warnings },
      });
    } catch (error) {
      await rm(folder, { recursive: true, force: true });
      throw error;
    } finally {
      await this.letGo(source);
    }
  }

  /** The chroma that the whole picture gets where that is left open; it is made once to be looked at. */
  private async chromaOf(task: SampleTask, geometry: Geometry, source: MasterSource): Promise<FoundFile['chroma']> {
    const { size, colour, sharpen, mark, border } = task.preset;
    const key = JSON.stringify([task.content, task.facts, size, colour, sharpen, mark && [mark, task.watermark], border]);
    let smears = this.smears.get(key);
    if (smears === undefined) {
      const { picture } = await renderPixels(task, geometry, source);
      smears = picture.channels === 3 && picture.pixels instanceof Uint8Array && chromaSmears(picture as Raster<Uint8Array>);
      this.smears.set(key, smears);
      for (const oldest of this.smears.keys()) if (this.smears.size > SMEARS_KEPT) this.smears.delete(oldest);
    }
    return steadySampling('auto', () => smears);
  }

  private sourceOf({ master, content, facts }: SampleTask): MasterSource {
    const key = `${content} ${facts.exifSpace}`;
    const known = this.sources.get(key) ?? new MasterSource(master, facts, false, (words) => new Uint16Array(words));
    known.path = master;
    this.sources.delete(key);
    this.sources.set(key, known);
    return known;
  }

  /** Keeps what fits, the master in work first. */
  private async letGo(inWork: MasterSource): Promise<void> {
    let left = this.most - (await inWork.keep(this.most));
    const others = [...this.sources].reverse().filter(([, source]) => source !== inWork);
    for (const [at, [key, source]] of others.entries()) {
      const bytes = at < MASTERS_KEPT - 1 ? await source.keep(left) : 0;
      if (bytes === 0) this.sources.delete(key);
      left -= bytes;
    }
  }
}

/** An untouched copy has no rungs: it is seen as the master is, converted for the screen. */
function shownAs(task: SampleTask): SampleTask {
  if (task.preset.file.type !== 'original') return task;
  const { size, file } = task.preset;
  return {
    ...task,
    preset: { ...task.preset, size: { ...size, fit: 'original' }, sharpen: null, file: { ...file, type: 'png', bits: 8 } },
  };
}

/** What of the master stays, as shares of it; where the most detail is, is only known by its pixels. */
function cutOf({ crop: cut, scaled, toDetail }: Geometry): Rectangle | null {
  if (!cut || toDetail) return null;
  const { width, height } = scaled;
  return { left: cut.left / width, top: cut.top / height, width: cut.width / width, height: cut.height / height };
}

/** How a part differs from itself before it was encoded. */
const judgementOf = (before: RenderedImage, after: ScreenImage, part: Rectangle | null, shown: Rectangle, type: FileTypeName): Judgement =>
  judge(planesOf(partAsRgb(before, part)), planesOf(partAsRgb(after, part)), type === 'jpeg' ? shown : null);

/** A part of a picture in 8 bits, to be judged. */
function partAsRgb({ picture, model }: ScreenImage, part: Rectangle | null): Rgb8 {
  const own =
    picture.pixels instanceof Uint8Array ? (picture as Raster<Uint8Array>) : { ...picture, pixels: toEightBits(picture.pixels, false) };
  return asRgb(part ? crop(own, part) : own, model === 'cmyk' ? model : picture.channels === 1 ? 'grey' : 'rgb');
}

function borderedSize({ output }: Geometry, { border }: Preset, upTo: PixelRung): PixelSize {
  const edge = PIXEL_RUNGS.indexOf(upTo) >= PIXEL_RUNGS.indexOf('mark') ? 2 * (border?.px ?? 0) : 0;
  return { width: output.width + edge, height: output.height + edge };
}

/** The picture inside an output, whose border stays as wide when a ceiling makes it smaller. */
const withoutBorder = ({ width, height }: PixelSize, { border }: Preset): PixelSize => ({
  width: width - 2 * (border?.px ?? 0),
  height: height - 2 * (border?.px ?? 0),
});

/** The window around a place of the picture, which lies in the middle of the output. */
function partOf({ x, y, size }: Extract<SampleView, { kind: 'part' }>, output: PixelSize, picture: PixelSize): Rectangle {
  const along = (share: number, inner: number, outer: number) => ((outer - inner) / 2 + share * inner) / outer;
  return windowAt({ x: along(x, picture.width, output.width), y: along(y, picture.height, output.height) }, size, output);
}
