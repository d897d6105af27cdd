import { join } from 'node:path';
import {
  type Finding,
  type MasterFacts,
  metadataPlan,
  outputGeometry,
  type PixelSize,
  type PlannedFile,
  type Preset,
  type Problem,
  problemOf,
  ProblemError,
  type StudioDetails,
  toEightBits,
  unsharpMask,
} from '@rundle/core';
import { toSrgb } from './colour/to-srgb';
import { verifyOutput } from './check/verify';
import { embedMetadata } from './metadata/embed';
import { decode, embeddedProfile, type Raster, rescale } from './read/decode';
import { crop } from './size/crop';
import { encodeUnderCeiling } from './write/ceiling';
import type { FinishedImage } from './write/encode';
import { placeFile } from './write/place';

/** One output of a job: what was planned, and the preset that makes it. */
export interface OutputTask {
  /** The caller's own name for it, handed back with the result. */
  id: string;
  planned: Pick<PlannedFile, 'folder' | 'fileName' | 'width' | 'height' | 'replaces'>;
  preset: Preset;
}

/** Everything that comes out of one master, so that it is decoded once. */
export interface MasterJob {
  master: string;
  facts: MasterFacts;
  /** Folder on disk below which the outputs go. */
  target: string;
  studio: StudioDetails;
  outputs: OutputTask[];
}

export type OutputResult =
  | { id: string; status: 'done'; path: string; width: number; height: number; bytes: number; quality: number; warnings: Finding[] }
  | { id: string; status: 'failed'; error: Problem };

/**
 * Renders all outputs of one master. A failure of one output does not stop the others; a master that cannot be decoded
 * fails all of them with the same reason. The master is only ever read.
 * @param onStart called before an output is begun
 * @param onResult called as each output ends
 * @param signal ends the work between two outputs; what has not begun then gets no result
 */
export async function renderMaster(
  job: MasterJob,
  onStart: (id: string) => void,
  onResult: (result: OutputResult) => void,
  signal?: AbortSignal,
): Promise<void> {
  const source = new Source(job);
  for (const task of job.outputs) {
    if (signal?.aborted) return;
    onStart(task.id);
    try {
      onResult(await renderOutput(job, task, source));
    } catch (error) {
      onResult({ id: task.id, status: 'failed', error: problemOf(error, 'render-failed') });
    }
  }
}

async function renderOutput(job: MasterJob, { id, planned, preset }: OutputTask, source: Source): Promise<OutputResult> {
  const geometry = outputGeometry(preset.size, job.facts);
  const { raster, warnings } = await source.converted(preset.colour);
  const finish = async (scaled: PixelSize): Promise<FinishedImage> => {
    const sized = await rescale(raster, scaled, preset.size.kernel);
    return sharpened(geometry.crop && scaled === geometry.scaled ? crop(sized, geometry.crop) : sized, sized === raster, preset);
  };
  const encoded = await encodeUnderCeiling(finish, geometry, preset);
  const path = join(job.target, planned.folder, planned.fileName);
  const metadata = metadataPlan(preset.metadata, job.facts, job.studio);
  const { ceiling } = preset.file;
  const most = ceiling && ceiling.then !== 'exceed' ? ceiling.bytes : null;
  let bytes = 0;
  await placeFile(path, encoded.file.data, planned.replaces, async (aside) => {
    await embedMetadata(aside, job.master, metadata, preset.size.ppi);
    bytes = await verifyOutput(aside, planned.fileName, preset, encoded.file, most);
  });
  const { width, height } = encoded.file;
  return { id, status: 'done', path, width, height, bytes, quality: encoded.quality, warnings: [...warnings, ...encoded.warnings] };
}

/** Sharpens and rounds to 8 bits. `shared` pixels serve other outputs too and are copied first. */
function sharpened(raster: Raster, shared: boolean, preset: Preset): FinishedImage {
  const { width, height } = raster;
  const pixels = shared ? raster.pixels.slice() : raster.pixels;
  if (preset.sharpen) unsharpMask({ width, height, pixels }, preset.sharpen);
  return { width, height, pixels: pixels instanceof Uint16Array ? toEightBits(pixels, preset.colour.dither) : pixels };
}

/** The decoded master, decoded once at the largest scale that any output of the job wants, converted once per colour rung. */
class Source {
  private decoding: Promise<Raster> | undefined;
  private readonly conversions = new Map<string, ReturnType<typeof toSrgb>>();

  constructor(private readonly job: MasterJob) {}

  converted(colour: Preset['colour']): ReturnType<typeof toSrgb> {
    const key = `${colour.intent} ${colour.blackPoint}`;
    const known = this.conversions.get(key) ?? this.convert(colour);
    this.conversions.set(key, known);
    return known;
  }

  private async convert(colour: Preset['colour']): ReturnType<typeof toSrgb> {
    this.decoding ??= this.decodeLargest();
    return toSrgb(await this.decoding, await embeddedProfile(this.job.master), colour);
  }

  private decodeLargest(): Promise<Raster> {
    const { facts, master, outputs } = this.job;
    const wanted = outputs.map(({ preset }) => ({ preset, ...outputGeometry(preset.size, facts).scaled }));
    const largest = wanted.reduce((a, b) => (scaleOf(b, facts) > scaleOf(a, facts) ? b : a));
    if (!largest) throw new ProblemError({ code: 'nothing-to-do', message: 'The job has no outputs.' });
    // A stretched output may be wide but low: the base keeps the master's shape and covers both edges of every output.
    const scale = scaleOf(largest, facts);
    const covers = (edge: 'width' | 'height') => largest[edge] >= Math.floor(facts[edge] * scale);
    const base =
      covers('width') && covers('height') ? largest : { width: Math.ceil(facts.width * scale), height: Math.ceil(facts.height * scale) };
    return decode(master, facts, { width: base.width, height: base.height }, largest.preset.size.kernel);
  }
}

const scaleOf = (size: PixelSize, master: PixelSize): number => Math.max(size.width / master.width, size.height / master.height);
