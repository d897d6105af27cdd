import type { MasterFacts, Problem, Salience, Watermark, Weighing } from '@rundle/core';
import { setFlagsFromString } from 'node:v8';
import pLimit from 'p-limit';
import { endExifTool, exifTool } from '../read/exiftool';
import type { MasterJob, OutputResult, Stage } from '../render-master';
import type { Done, HowWeighed, Progress, Task } from './messages';
import { UNCOLLECTED } from './pool';
import { askForShortestTables } from '../types/jpeg/turbo';
import type { Renderer } from './renderer';

/** Files whose facts are read at a time: while one waits for ExifTool, the header of the next is read. */
const READ_AT_A_TIME = 4;

/**
 * Does everything in the thread that calls it, one picture at a time: for a program that does nothing else and ends with its one picture. A
 * thread would take longer to start than such a picture takes to read.
 */
export class OwnThread implements Renderer {
  readonly size = 1;
  private readonly reading = pLimit(READ_AT_A_TIME);

  async facts(path: string, proxyTo: string | null, page: number | null = null): Promise<MasterFacts> {
    return this.reading(async () => {
      if (proxyTo !== null) return (await this.carryOut({ kind: 'facts', path, proxyTo, page })) as MasterFacts;
      exifTool(); // starts while the rest is loaded
      return (await import('../read/facts')).readFacts(path, page);
    });
  }

  async wholeProblem(path: string): Promise<Problem | null> {
    return (await this.carryOut({ kind: 'whole', path })) as Problem | null;
  }

  async weigh(path: string, facts: MasterFacts, how: HowWeighed): Promise<Weighing[]> {
    return (await this.carryOut({ kind: 'weigh', path, facts, how })) as Weighing[];
  }

  async salience(path: string, facts: MasterFacts): Promise<Salience> {
    return (await this.carryOut({ kind: 'salience', path, facts })) as Salience;
  }

  async checkWatermark(watermark: Watermark): Promise<void> {
    await this.carryOut({ kind: 'watermark', watermark });
  }

  async render(
    job: MasterJob,
    onStage: (id: string, stage: Stage) => void,
    onResult: (result: OutputResult) => void,
    signal?: AbortSignal,
  ): Promise<void> {
    const send = (progress: Progress) => (progress.kind === 'stage' ? onStage(progress.id, progress.stage) : onResult(progress.result));
    await this.carryOut({ kind: 'render', job }, send, signal);
  }

  close(): Promise<void> {
    return endExifTool();
  }

  private async carryOut(task: Task, send: (progress: Progress) => void = () => {}, signal?: AbortSignal): Promise<Done> {
    exifTool(); // starts while the rest is loaded
    askForShortestTables();
    setFlagsFromString(`--initial-old-space-size=${UNCOLLECTED}`);
    // Loaded here, since programs that have threads need none of it in their own.
    const { carryOut } = await import('./carry-out');
    return carryOut(task, send, signal ?? new AbortController().signal);
  }
}
