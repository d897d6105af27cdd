import { basename, join, resolve } from 'node:path';
import {
  joinPath,
  type OutputOf,
  outputKey,
  partPreset,
  type PlanMaster,
  type PlannedFile,
  type PlannedOutput,
  type Problem,
  problemOf,
} from '@rundle/core';
import { asideOf, putFileOrDrop } from '@rundle/place';
import type { Renderer } from '../pool/renderer';
import type { MasterJob, OutputResult, OutputTask } from '../render-master';
import type { Call, ReadyPreset } from './call';
import { collectFiles } from './collect';
import { keepList, recordOf, setOf } from './list';
import { type FilePlan, makingOfFile, planFiles, recipeOf } from './plan-files';
import { TargetRecord } from './record';
import { type OutputEvent, Report } from './report';

/** A call over masters and presets. */
export type RenderCall = Extract<Call, { command: 'render' | 'plan' }>;

/** `rundle plan` and `rundle render`: the same plan, which render then carries out. Returns the exit code. */
export async function planOrRender(call: RenderCall, renderers: (pictures: number) => Renderer, signal: AbortSignal): Promise<number> {
  const begun = new Date();
  const { files, leftAside, problems } = await collectFiles(call.paths, call.recursive);
  for (const file of leftAside) Report.problem({ code: 'left-aside', file, message: 'Left aside: this is no picture.' });
  const unknown = call.only.filter((name) => !files.some((file) => isNamed(file, name)));
  for (const name of unknown)
    Report.problem({ code: 'usage', file: name, message: 'It is not among the files of this call. Check what stands behind --only.' });
  const renderer = renderers(files.length);
  if (unknown.length || (await refuseWatermarks(call.presets, renderer))) return 2;
  const isWanted = (id: string) => call.only.length === 0 || call.only.some((name) => isNamed(id, name));
  const { report, bytesIn } = await makeOutputs(call, { files, problems, isWanted }, renderer, signal);
  report.summary(bytesIn, call.command === 'plan' && call.quick);
  if (call.list !== null) await keepList(call.list, recordOf(call, report, begun, signal.aborted));
  if (call.manifest) {
    const { keepManifest } = await import('./manifest');
    await keepManifest(call.out, setOf(call), report.outputs);
  }
  return signal.aborted ? 3 : report.exitCode();
}

/** What a call is carried out over. */
export interface Work {
  files: readonly string[];
  /** Files that could not even be found, with the reason. */
  problems: readonly Problem[];
  /** Which of them are made; names and counters are those of all. */
  isWanted: (file: string) => boolean;
  /** Whether nothing is ever replaced but what was made here and has not been touched since. */
  careful?: boolean;
}

/** Plans outputs and, unless only the plan is wanted, makes them; tells each. @returns all that was told, and the weight of the masters */
export async function makeOutputs(
  call: RenderCall,
  work: Work,
  renderer: Renderer,
  signal: AbortSignal,
): Promise<{ report: Report; bytesIn: number }> {
  const { command, out, json } = call;
  const record = new TargetRecord(resolve(out), command === 'render');
  const planned = await planFiles(renderer, work, call, record);
  const plan = onlyWanted(planned, work.isWanted);
  const toDo = plan.outputs.filter(({ status }) => status === 'planned').length;
  const report = new Report(json, command === 'render' && !json && process.stderr.isTTY ? toDo : 0);
  const told = new Teller(call, report, record);
  const open = plan.outputs.filter((output) => command === 'plan' || output.status !== 'planned');
  for (const output of open) told.plan(output);
  if (planned.earlier) Report.note(earlierWords(planned.earlier));
  const moves = plan.sync?.moves(plan.outputs) ?? [];
  const renamed = (await plan.sync?.before(moves, (steps) => record.renameAll(steps))) ?? [];
  if (command === 'render') await renderAll(call, plan, renderer, told, signal);
  const gone = signal.aborted ? [] : ((await plan.sync?.after(moves, (file) => told.isMade(file))) ?? []);
  for (const { file, to } of [...renamed, ...gone]) report.earlier(file.outputId, to && joinPath(to.folder, to.fileName));
  const facts = plan.masters.flatMap(({ read }) => (read.ok ? [read.facts] : []));
  return { report, bytesIn: facts.reduce((sum, { bytes }) => sum + bytes, 0) };
}

/** Tells which watermarks cannot be drawn. @returns whether there are any */
export async function refuseWatermarks(presets: readonly ReadyPreset[], renderer: Renderer): Promise<boolean> {
  const refused = (await Promise.all(presets.map((preset) => watermarkProblem(preset, renderer)))).filter((problem) => problem !== null);
  for (const problem of refused) Report.problem(problem);
  return refused.length > 0;
}

const earlierWords = (files: number): string =>
  `${files} ${files === 1 ? 'file was' : 'files were'} made by an earlier version of Rundle and ${files === 1 ? 'stays' : 'stay'}; --again makes ${files === 1 ? 'it' : 'them'} once more.`;

/** Whether a file is the one that was named, by its name or its path. */
const isNamed = (file: string, name: string): boolean => basename(file) === name || resolve(file) === resolve(name);

/** A plan of all of them, of which only some are carried out: names are what they are in the whole. */
const onlyWanted = ({ masters, outputs, ...plan }: FilePlan, isWanted: (file: string) => boolean): FilePlan => ({
  ...plan,
  masters: masters.filter(({ id }) => isWanted(id)),
  outputs: outputs.filter(({ masterId }) => isWanted(masterId)),
});

async function renderAll(call: RenderCall, plan: FilePlan, renderer: Renderer, told: Teller, signal: AbortSignal): Promise<void> {
  const jobs = plan.masters.flatMap((master) => jobOf(master, plan, call) ?? []);
  const queue = jobs[Symbol.iterator]();
  const work = async () => {
    for (const job of queue) {
      if (signal.aborted) return;
      const results: Promise<void>[] = [];
      const onResult = (result: OutputResult) => void results.push(told.result(job, result));
      await renderer
        .render(job, () => {}, onResult, signal)
        .catch((error: unknown) => {
          for (const { id } of job.outputs) onResult({ id, status: 'failed', error: problemOf(error, 'render-failed') });
        });
      await Promise.all(results);
    }
  };
  await Promise.all(Array.from({ length: renderer.size }, work));
}

/** An output of a call: what was planned, and where its finished file goes. */
interface FileTask extends OutputTask {
  planned: PlannedFile;
  place: string;
}

type FileJob = Omit<MasterJob, 'outputs'> & { outputs: FileTask[] };

function jobOf(master: FilePlan['masters'][number], plan: FilePlan, { presets, out, studio }: RenderCall): FileJob | null {
  const planned = plan.outputs.filter((output) => output.status === 'planned' && output.masterId === master.id);
  if (!master.read.ok || planned.length === 0) return null;
  const { facts } = master.read;
  return {
    master: master.id,
    content: master.id,
    modified: null,
    facts,
    studio,
    outputs: planned.flatMap((output) =>
      output.status === 'planned' ? [taskOf(output, master, presets[Number(output.presetId)]!, out)] : [],
    ),
  };
}

function taskOf(planned: PlannedFile, master: PlanMaster, { preset, watermark }: ReadyPreset, out: string): FileTask {
  const place = join(resolve(out), planned.folder, planned.fileName);
  const making = makingOfFile(master, partPreset(preset, planned.part))!;
  return { id: outputKey(planned), fileName: planned.fileName, planned, place, to: asideOf(place), making, watermark };
}

/** A watermark that cannot be drawn is an error of its preset. */
async function watermarkProblem({ file, watermark }: ReadyPreset, renderer: Renderer): Promise<Problem | null> {
  if (!watermark) return null;
  return renderer.checkWatermark(watermark).then(
    () => null,
    (error: unknown) => ({ ...problemOf(error), file }),
  );
}

/** Turns plans and results into events, and writes down what was made. */
class Teller {
  /** Cells whose files have been made. */
  private readonly made = new Set<string>();

  constructor(
    private readonly call: RenderCall,
    private readonly report: Report,
    private readonly record: TargetRecord,
  ) {}

  plan(output: PlannedOutput): void {
    if (output.status === 'not-for') return;
    const about = this.about(output);
    if (output.status === 'failed') return this.report.output({ ...about, status: 'failed', error: output.error });
    const path = join(resolve(this.call.out), joinPath(output.folder, output.fileName));
    if (output.status === 'skipped') return this.report.output({ ...about, status: 'skipped', output: path, warnings: [output.reason] });
    const { width, height, expectedBytes: bytes, warnings } = output;
    this.report.output({ ...about, status: 'planned', output: path, width, height, bytes, warnings });
  }

  isMade(output: OutputOf): boolean {
    return this.made.has(outputKey(output));
  }

  /** Puts a finished file in its place and tells what came of it. */
  async result(job: FileJob, result: OutputResult): Promise<void> {
    const { planned, place: output, making, watermark } = job.outputs.find(({ id }) => id === result.id)!;
    const about = this.about(planned);
    const fail = (error: Problem) => this.report.output({ ...about, status: 'failed', error });
    if (result.status === 'failed') return fail(result.error);
    const recipe = recipeOf(this.record, job.master, making, watermark, this.call.studio);
    this.record.keepOutput(joinPath(planned.folder, planned.fileName), recipe, result.path);
    try {
      await putFileOrDrop(result.path, output, { mayReplace: () => planned.replaces });
    } catch (error) {
      return fail(problemOf(error, 'not-written'));
    }
    this.made.add(outputKey(planned));
    const { width, height, bytes, quality, measures } = result;
    this.report.output({
      ...about,
      status: 'done',
      output,
      width,
      height,
      bytes,
      measures,
      ...(quality === null ? {} : { quality }),
      warnings: [...planned.warnings, ...result.warnings],
    });
  }

  private about({ masterId, presetId, part }: OutputOf): Pick<OutputEvent, 'event' | 'master' | 'preset' | 'part'> {
    const preset = this.call.presets[Number(presetId)]?.preset.title ?? presetId;
    return { event: 'output', master: masterId, preset, ...(part ? { part } : {}) };
  }
}
