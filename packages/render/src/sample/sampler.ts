import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  chromaSmears,
  type FeedTrip,
  FILE_TYPES,
  type FileTypeName,
  keyOf,
  type Making,
  makingBy,
  type Measured,
  pictureOrigin,
  type PixelSize,
  type Rectangle,
  type Raster,
  steadySampling,
  withoutBorder,
  wholeOf,
} from '@rundle/core';
import sharp from 'sharp';
import { Descriptions } from '../metadata/description';
import { renderOutput } from '../render-master';
import { type RenderedImage, renderPixels } from '../rungs';
import { MasterSource } from '../source';
import { writerOf } from '../types/registry';
import { type FeedDoor, throughFeed } from './feed-trip';
import { lookAt, type LookMemory, panelIn, partOf } from './look';
import { Measurer } from './measure';
import { decodeFinished, toPng } from './picture';
import { type FinishedSample, type FoundFile, ingredientsOf, type Sample, type SampleTask } from './sample';

/** Masters whose sizes are kept: a strip of them to switch between, and one more. */
const MASTERS_KEPT = 6;

const SMEARS_KEPT = 100;

/** A whole file that was made, and what is known of it. */
interface MadeFile {
  key: string;
  folder: string;
  path: string;
  output: PixelSize;
  bytes: number;
  found: FoundFile;
  about: Pick<FinishedSample, 'halo' | 'gamut' | 'warnings'>;
}

/**
 * Shows what presets make of masters, by the code of a run. Decoded masters and their sizes are kept from one look to the next, so that only what
 * comes after a changed value is worked out again. One look at a time: they share their memory.
 */
export class Sampler {
  private readonly sources = new Map<string, MasterSource>();
  private readonly descriptions = new Descriptions(50);
  private readonly measurer = new Measurer();
  /** Whether halved chroma would smear whole pictures, by what decides about their pixels. */
  private readonly smears = new Map<string, boolean>();
  private last: MadeFile | null = null;
  /** The part that was looked at last, as it was before it was encoded. */
  private part: { key: string; made: RenderedImage } | null = null;

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
  look(asked: SampleTask, found: FoundFile | null): Promise<Sample> {
    const task = shownAs(asked);
    const partOf: LookMemory['partOf'] = (key, make) => this.partOf(key, make);
    return this.withSource(task, (source) => lookAt(task, source, found, { chromaOf: () => this.chromaOf(task, source), partOf }));
  }

  /**
   * Makes the whole file as a run does, and shows a part of what is in it.
   * @param signal ends the work at its next step
   * @throws ProblemError as a run would, or the signal's reason
   */
  async finish(task: SampleTask, signal: AbortSignal): Promise<FinishedSample> {
    const { view, facts, making } = task;
    const { preset } = making;
    if (preset.file.type === 'original') {
      const seen = await this.look({ ...task, overlay: null }, null);
      if (seen.kind !== 'picture') throw new Error('A look without an overlay is a picture.');
      const { width, height, bytes } = facts;
      return { ...seen, bytes, found: { width, height, quality: null, chroma: null }, warnings: [] };
    }
    const { path, output, found, bytes, about } = await this.made(task, signal);
    const isInks = preset.colour.space === 'keep' && (facts.colourModel === 'cmyk' || facts.colourModel === 'grey');
    const isWhole = view.kind === 'whole';
    const shown = isWhole ? wholeOf(output) : partOf(view, output, pictureIn(making, output));
    const image = await decodeFinished(
      path,
      preset.file.type,
      isInks ? (facts.colourModel as 'cmyk' | 'grey') : 'rgb',
      isWhole ? null : shown,
    );
    const screen = await toPng(image, null, isWhole ? view.within : null);
    const { quality } = found;
    const seen = {
      kind: 'picture',
      ...screen,
      output,
      shown,
      quality,
      expected: [],
      mark: null,
      cut: null,
      judgement: null,
    } as const;
    return { ...seen, expected: [], ...about, bytes, found };
  }

  /**
   * Sends the whole file of a preset, which is no untouched copy, to a feed; see {@link throughFeed}.
   * @throws ProblemError as a run would, or when the feed does not take it, or the signal's reason
   */
  throughFeed(task: SampleTask, door: FeedDoor, id: string, folder: string, signal: AbortSignal): Promise<FeedTrip> {
    const file = async (wanted: SampleTask) => {
      const { path, bytes, output } = await this.made(wanted, signal);
      return { path, bytes, ...output };
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
    if (Measurer.can(task)) return this.withSource(task, (source) => this.measurer.measure(task, source, this.descriptions));
    if (task.making.preset.file.type === 'original') {
      const { width, height, bytes } = task.facts;
      return { bytes, width, height, quality: null, judgement: null };
    }
    const { path, bytes, output, found } = await this.made(task, signal);
    const measured = { bytes, ...output, quality: found.quality };
    if (!task.judged) return { ...measured, judgement: null };
    const judgement = await this.withSource(task, (source) => this.measurer.judgeFile(task, source, { path, ...output }));
    return { ...measured, judgement };
  }

  /** Deletes the file that was made last. */
  async close(): Promise<void> {
    const folder = this.last?.folder;
    this.last = null;
    if (folder) await rm(folder, { recursive: true, force: true });
  }

  /** The whole file of a task; it stays until another is made. */
  private async made(task: SampleTask, signal: AbortSignal): Promise<MadeFile> {
    const key = keyOf('bytes', ingredientsOf(task));
    if (this.last?.key === key) return this.last;
    await this.close();
    const { master, content, facts, studio, making, watermark } = task;
    const folder = await mkdtemp(join(this.folder, 'rundle-sample-'));
    const to = join(folder, `sample.${FILE_TYPES[making.preset.file.type].extension}`);
    try {
      const job = { master, content, modified: 0, facts, studio };
      const order = { id: '', fileName: 'sample', to, making, watermark };
      const done = await this.withSource(task, (source) =>
        renderOutput(job, order, source, this.descriptions, () => signal.throwIfAborted()),
      );
      const { width, height, bytes, quality, warnings, measures } = done;
      const found = { width, height, quality, chroma: await chromaIn(to, making.preset.file.type) };
      return (this.last = { key, folder, path: to, output: { width, height }, bytes, found, about: { ...measures, warnings } });
    } catch (error) {
      await rm(folder, { recursive: true, force: true });
      throw error;
    }
  }

  private async partOf(key: string, make: () => Promise<RenderedImage>): Promise<RenderedImage> {
    if (this.part?.key !== key) this.part = { key, made: inOwnMemory(await make()) };
    return this.part.made;
  }

  /** The chroma that the whole picture gets where that is left open; it is made once to be looked at. */
  private async chromaOf(task: SampleTask, source: MasterSource): Promise<FoundFile['chroma']> {
    const key = keyOf('pixels', ingredientsOf(task));
    let smears = this.smears.get(key);
    if (smears === undefined) {
      const { making, watermark } = task;
      const { picture } = await renderPixels({ ...making, watermark }, making.geometry, source);
      smears = picture.channels === 3 && picture.pixels instanceof Uint8Array && chromaSmears(picture as Raster<Uint8Array>);
      this.smears.set(key, smears);
      for (const oldest of this.smears.keys()) if (this.smears.size > SMEARS_KEPT) this.smears.delete(oldest);
    }
    return steadySampling('auto', () => smears);
  }

  /** Does something with a master, decoded as far as it is known, and then keeps what fits of it. */
  private async withSource<T>({ master, content, facts }: SampleTask, act: (source: MasterSource) => Promise<T>): Promise<T> {
    const key = `${content} ${facts.page} ${facts.exifSpace}`;
    const source = this.sources.get(key) ?? new MasterSource(master, facts, false, (words) => new Uint16Array(words));
    source.path = master;
    this.sources.delete(key);
    this.sources.set(key, source);
    try {
      return await act(source);
    } finally {
      await this.letGo(source);
    }
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

/** A picture that stays as it is when the next one is made. */
function inOwnMemory(image: RenderedImage): RenderedImage {
  const { picture } = image;
  const file = Buffer.from(new Uint8Array(image.file).buffer);
  const at = picture.pixels.byteOffset - image.file.byteOffset;
  const { length } = picture.pixels;
  const pixels = picture.pixels instanceof Uint8Array ? new Uint8Array(file.buffer, at, length) : new Uint16Array(file.buffer, at, length);
  return { ...image, file, picture: { ...picture, pixels } };
}

async function chromaIn(path: string, type: FileTypeName): Promise<FoundFile['chroma']> {
  const samplingOf = type === 'original' ? undefined : writerOf(type).samplingOf;
  return samplingOf ? samplingOf(await sharp(path).metadata()) : null;
}

/** Where the picture, or the panel, lies in a file that was made: one that a ceiling has made smaller has the same border, and neither edges nor panels. */
function pictureIn(making: Making, output: PixelSize): Rectangle {
  if (making.panel) return panelIn(making.panel, making.edge);
  const { x: left, y: top } = pictureOrigin(making);
  return { left, top, ...(making.edge ? making.geometry.output : withoutBorder(output, making.preset)) };
}

/** An untouched copy has no rungs: it is seen as the master is, converted for the screen. */
function shownAs(task: SampleTask): SampleTask {
  const { preset } = task.making;
  if (preset.file.type !== 'original') return task;
  const { size, file } = preset;
  const seen = {
    ...preset,
    size: { ...size, fit: 'original' as const },
    sharpen: null,
    file: { ...file, type: 'png' as const, bits: 8 as const },
  };
  return { ...task, making: makingBy(task.facts, seen) };
}
