import { stat, utimes } from 'node:fs/promises';
import {
  FILE_TYPES,
  type Finding,
  framed,
  type Geometry,
  hexToColour,
  type MasterFacts,
  type Measures,
  metadataPlan,
  detailAnchor,
  outputGeometry,
  type PlannedFile,
  type Preset,
  type Problem,
  problemOf,
  type Raster,
  type SpaceName,
  type StudioDetails,
  toEightBits,
  unsharpMask,
  type Watermark,
  withAlpha,
  withoutBackdrop,
} from '@rundle/core';
import { verifyOutput } from './check/verify';
import { convertColour } from './colour/convert';
import { drawMark } from './mark/draw';
import { type Description, describingBytes, embedMetadata } from './metadata/embed';
import { withDescribingSegments } from './metadata/jpeg-segments';
import { Scratch } from './scratch';
import { crop } from './size/sized';
import { largestFirst, MasterSource } from './source';
import type { FinishedImage } from './write/encode';
import { fileTime } from './write/file-time';
import { modelOf, pixelFile } from './write/pixel-file';
import { writeFinished } from './write/place';
import { encodeOutput } from './write/quality';

/** One output of a job: what was planned, and the preset that makes it. */
export interface OutputTask {
  /** The caller's own name for it, handed back with the result. */
  id: string;
  planned: Pick<PlannedFile, 'fileName' | 'width' | 'height'>;
  /** Where the finished file is made; putting it in its place is left to the caller. */
  to: string;
  preset: Preset;
  /** The watermark that the preset names; null: none. */
  watermark: Watermark | null;
}

/** Everything that comes out of one master, so that it is decoded once. */
export interface MasterJob {
  master: string;
  /** Its own time, ms since 1970; null: that of the file at `master`. */
  modified: number | null;
  facts: MasterFacts;
  studio: StudioDetails;
  outputs: OutputTask[];
}

export type OutputResult =
  | {
      id: string;
      status: 'done';
      /** The finished, checked file; what was asked for as `to`. */
      path: string;
      width: number;
      height: number;
      bytes: number;
      /** Null for file types without loss. */
      quality: number | null;
      measures: Measures;
      warnings: Finding[];
    }
  | { id: string; status: 'failed'; error: Problem };

/** How far an output has come, for progress. */
export type Stage = 'begun' | 'decoded' | 'written' | 'checked';

/**
 * Renders all outputs of one master, the largest first. A failure of one output does not stop the others; a master that
 * cannot be decoded fails all of them with the same reason. The master is only ever read.
 * @param onStage called as an output comes to a stage
 * @param onResult called as each output ends
 * @param signal stops the work between two outputs; outputs not begun by then get no result
 */
export async function renderMaster(
  job: MasterJob,
  onStage: (id: string, stage: Stage) => void,
  onResult: (result: OutputResult) => void,
  signal?: AbortSignal,
): Promise<void> {
  const source = new MasterSource(job.master, job.facts, job.outputs.length === 1 && !job.outputs[0]?.preset.file.ceiling);
  const descriptions = new Map<string, Promise<Uint8Array>>();
  for (const task of largestFirst(job.outputs, job.facts)) {
    if (signal?.aborted) return;
    const stage = (reached: Stage) => onStage(task.id, reached);
    stage('begun');
    try {
      onResult(await renderOutput(job, task, source, descriptions, stage));
    } catch (error) {
      onResult({ id: task.id, status: 'failed', error: problemOf(error, 'render-failed') });
    }
  }
}

async function renderOutput(
  job: MasterJob,
  task: OutputTask,
  source: MasterSource,
  descriptions: Map<string, Promise<Uint8Array>>,
  stage: (reached: Stage) => void,
): Promise<OutputResult> {
  const { id, planned, preset, to } = task;
  const geometry = outputGeometry(preset.size, job.facts);
  const findings = new Map<string, Finding>();
  // What it will be unless the preset keeps the master’s, which is only known when the picture is.
  let space: SpaceName | null = preset.colour.space === 'keep' ? null : preset.colour.space;
  const finish = async (wanted: Geometry): Promise<FinishedImage> => {
    const finished = await renderPixels(task, wanted, source, () => stage('decoded'));
    for (const finding of finished.findings) findings.set(finding.code, finding);
    space = finished.space;
    return finished;
  };
  const about = (): Description => ({
    master: job.master,
    rung: preset.metadata,
    ppi: preset.size.ppi,
    space,
    plan: metadataPlan(preset.metadata, job.facts, job.studio, { whole: geometry.crop === null }),
  });
  const describe = (): Promise<Uint8Array> => {
    const description = about();
    const key = JSON.stringify(description);
    const known = descriptions.get(key) ?? describingBytes(description);
    descriptions.set(key, known);
    return known;
  };
  // Begun before the pixels, since another process does it while they are worked on. If it fails, that is told when it is needed.
  if (preset.file.type === 'jpeg' && space !== null) describe().catch(() => {});
  const encoded = await encodeOutput(finish, geometry, preset, async () => (await describe()).length);
  const { ceiling, type } = preset.file;
  const described = type === 'jpeg' ? await describe() : null;
  const data = described ? withDescribingSegments(encoded.file.data, described) : encoded.file.data;
  let bytes = 0;
  await writeFinished(to, data, planned.fileName, async () => {
    stage('written');
    if (!described) await embedMetadata(to, type, about());
    const promised = {
      name: planned.fileName,
      file: preset.file,
      picture: encoded.image.picture,
      model: encoded.image.model,
      profile: encoded.image.profile,
      described,
    };
    bytes = await verifyOutput(to, { ...promised, most: ceiling && ceiling.then !== 'exceed' ? ceiling.bytes : null });
    const modified = job.modified === null ? (await stat(job.master)).mtime : new Date(job.modified);
    const time = fileTime(preset.metadata.fileTime, modified, job.facts.captured);
    if (time) await utimes(to, time, time);
    stage('checked');
  });
  const { width, height } = encoded.file;
  const { gamut, halo } = encoded.image;
  const warnings = [...findings.values(), ...encoded.warnings];
  return { id, status: 'done', path: to, width, height, bytes, quality: encoded.quality, measures: { gamut, halo }, warnings };
}

interface RenderedImage extends FinishedImage {
  space: SpaceName | null;
  findings: Finding[];
}

/** The rungs of a preset, one after the other: size, colour, sharpness, mark and border, bits. */
async function renderPixels(
  { preset, watermark }: OutputTask,
  { scaled, crop: cut, toDetail }: Geometry,
  source: MasterSource,
  onDecoded: () => void,
): Promise<RenderedImage> {
  const sized = await source.sized(scaled, preset);
  onDecoded();
  const frame = cut && toDetail ? detailAnchor(sized.picture, cut) : cut;
  const cropped = (raster: Raster<Uint16Array>) => (frame ? crop(raster, frame) : raster);
  const alpha = sized.alpha && cropped(sized.alpha).pixels;
  const framedPicture = cropped(sized.picture);
  const opaque = alpha ? withoutBackdrop(framedPicture, alpha, preset.colour.backdrop) : framedPicture;
  const converted = await convertColour(opaque, sized.source.colour, preset.colour);
  // Pixels that other sizes may be scaled from must stay as they are.
  const shared = converted.raster.pixels === sized.picture.pixels && !source.mayMutate;
  const picture = shared ? copied(converted.raster) : converted.raster;
  const halo = preset.sharpen && preset.sharpen.amount > 0 ? unsharpMask(picture, preset.sharpen) : null;
  if (preset.mark && watermark) await drawMark(picture, preset.mark, watermark, converted.fromSrgb);
  const whole = alpha ? withAlpha(picture, alpha) : picture;
  const { border } = preset;
  const bordered = border ? framed(whole, border.px, await converted.fromSrgb(Uint16Array.from(hexToColour(border.colour)))) : whole;
  const profile = preset.colour.embed || !FILE_TYPES[preset.file.type].untagged ? converted.profile : null;
  const model = modelOf(picture);
  const { file, pixels } = pixelFile(bordered, model, preset.file.bits, profile);
  if (pixels instanceof Uint8Array) toEightBits(bordered.pixels, preset.colour.dither, pixels);
  else pixels.set(bordered.pixels);
  return {
    picture: { ...bordered, pixels },
    model,
    file,
    profile,
    halo,
    gamut: converted.gamut,
    space: converted.name,
    findings: [...sized.source.findings, ...converted.findings],
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
