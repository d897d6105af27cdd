import { readFile, stat, utimes, writeFile } from 'node:fs/promises';
import {
  type Finding,
  type Geometry,
  type MasterFacts,
  type Measures,
  lacksPanel,
  type Making,
  type Problem,
  ProblemError,
  problemOf,
  type SpaceName,
  type StudioDetails,
  type Watermark,
} from '@rundle/core';
import { makeFile } from '@rundle/place';
import { verifyOutput } from './check/verify';
import { descriptionOf, Descriptions } from './metadata/description';
import { embedMetadata } from './metadata/embed';
import { renderPixels } from './rungs';
import { largestFirst, MasterSource, roomForOne } from './source';
import { writerOf } from './types/registry';
import type { FinishedImage } from './write/encode';
import { fileTime } from './write/file-time';
import { encodeOutput } from './write/quality';

/** One output of a job: how it is made, and where to. */
export interface OutputTask {
  /** The caller's own name for it, handed back with the result. */
  id: string;
  /** What the file will be called, for messages. */
  fileName: string;
  /** Where the finished file is made; putting it in its place is left to the caller. */
  to: string;
  making: Making;
  /** The watermark that the preset names; null: none. */
  watermark: Watermark | null;
}

/** Everything that comes out of one master, so that it is decoded once. */
export interface MasterJob {
  /** Path at which it can be read. */
  master: string;
  /** What tells its content from that of another: a hash, or a path at which nothing else ever stands while the engine runs. */
  content: string;
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
  const source = new MasterSource(
    job.master,
    job.facts,
    job.outputs.length === 1 && !job.outputs[0]?.making.preset.file.ceiling,
    roomForOne(),
  );
  const descriptions = new Descriptions();
  for (const task of largestFirst(job.outputs)) {
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

/**
 * Renders one output into its file, which is then whole and checked.
 * @param source the master, perhaps decoded already
 * @param descriptions metadata blocks that other outputs of the same master have been given
 * @param stage called as it comes to a stage; what it throws ends the work
 */
export async function renderOutput(
  job: Omit<MasterJob, 'outputs'>,
  task: OutputTask,
  source: MasterSource,
  descriptions: Descriptions,
  stage: (reached: Stage) => void,
): Promise<Extract<OutputResult, { status: 'done' }>> {
  const { id, fileName, making, to } = task;
  const { preset, geometry } = making;
  const { ceiling, type } = preset.file;
  if (type === 'original') return copyMaster(job, task, stage);
  if (lacksPanel(making))
    throw new ProblemError({
      code: 'panel-too-large',
      file: fileName,
      message: 'The picture has no room for this panel any more. Plan again.',
    });
  const { apart } = writerOf(type).metadata;
  const findings = new Map<string, Finding>();
  // What it will be unless the preset keeps the master’s, which is only known when the picture is.
  let space: SpaceName | null = preset.colour.space === 'keep' ? null : preset.colour.space;
  const finish = async (wanted: Geometry): Promise<FinishedImage> => {
    const finished = await renderPixels({ ...making, watermark: task.watermark }, wanted, source, { onDecoded: () => stage('decoded') });
    for (const finding of finished.findings) findings.set(finding.code, finding);
    space = finished.space;
    return finished;
  };
  const about = () => descriptionOf(job, making, space);
  const describe = () => descriptions.bytes(about(), job.content);
  // Begun before the pixels, since another process does it while they are worked on. If it fails, that is told when it is needed.
  if (apart && space !== null) describe().catch(() => {});
  const encoded = await encodeOutput(
    finish,
    geometry,
    preset,
    async () => (await describe()).length,
    () => stage('decoded'),
  );
  const described = apart ? await describe() : null;
  const data = apart && described ? apart.put(encoded.file.data, described) : encoded.file.data;
  let bytes = 0;
  await makeFile(to, fileName, async () => {
    await writeFile(to, data);
    stage('written');
    if (!described) await embedMetadata(to, type, about());
    const promised = {
      name: fileName,
      settings: encoded.settings,
      bits: preset.file.bits,
      picture: encoded.image.picture,
      model: encoded.image.model,
      profile: encoded.image.profile,
      described,
    };
    bytes = await verifyOutput(to, { ...promised, most: ceiling && ceiling.then !== 'exceed' ? ceiling.bytes : null });
    await setTime(job, task);
    stage('checked');
  });
  const { width, height } = encoded.file;
  const { gamut, halo } = encoded.image;
  const warnings = [...findings.values(), ...encoded.warnings];
  return { id, status: 'done', path: to, width, height, bytes, quality: encoded.quality, measures: { gamut, halo }, warnings };
}

/** The file's own time, where the preset wants another than now. */
async function setTime(
  { master, modified, facts }: Pick<MasterJob, 'master' | 'modified' | 'facts'>,
  { making, to }: OutputTask,
): Promise<void> {
  const own = modified === null ? (await stat(master)).mtime : new Date(modified);
  const time = fileTime(making.preset.metadata.fileTime, own, facts.captured);
  if (time) await utimes(to, time, time);
}

/** An untouched copy: the master's own bytes, read once more after they were written. */
async function copyMaster(
  { master, facts }: Pick<MasterJob, 'master' | 'facts'>,
  { id, fileName, to }: OutputTask,
  stage: (reached: Stage) => void,
): Promise<Extract<OutputResult, { status: 'done' }>> {
  const data = await readFile(master);
  stage('decoded');
  await makeFile(to, fileName, async () => {
    await writeFile(to, data);
    stage('written');
    const written = await readFile(to);
    if (!written.equals(data))
      throw new ProblemError({
        code: 'check-failed',
        file: fileName,
        message: `${fileName} is not the same as its master after copying. Nothing was kept; please run again.`,
      });
    stage('checked');
  });
  const { width, height } = facts;
  return {
    id,
    status: 'done',
    path: to,
    width,
    height,
    bytes: data.length,
    quality: null,
    measures: { gamut: null, halo: null },
    warnings: [],
  };
}
