import { basename, join } from 'node:path';
import { type FeedTrip, type FileFields, keyOf, type Measured, type Problem, type Watermark } from '@rundle/core';
import type { FeedDoor, FinishedSample, FoundFile, Sample, SampleAnswer, SampleTask } from '@rundle/render';
import { type SampleKind, SampleWorker } from './sample-worker';

/** Whole files that are remembered, by what they were made of. */
const FOUND_KEPT = 200;

/** What is looked at, and what the master is called, for messages. */
export type NamedTask = SampleTask & { name: string };

/** Makes samples in processes of their own; see process.ts in packages/render/src/sample. */
export class Samplers {
  private readonly workers: Record<SampleKind, SampleWorker>;
  private readonly found = new Map<string, FoundFile>();

  /**
   * @param program path of the bundled `sample-process`
   * @param folder for what they make, of this server alone; what a process that was killed has left there goes
   */
  constructor(program: string, folder: string) {
    const worker = (kind: SampleKind) => new SampleWorker(program, kind, join(folder, kind));
    this.workers = { look: worker('look'), finish: worker('finish') };
  }

  /**
   * A look at a part, at once.
   * @param dropped aborted when nobody waits for it any more
   * @throws HttpProblem
   */
  async look(task: NamedTask, dropped: AbortSignal): Promise<Sample> {
    const found = this.found.get(keyOfFile(task)) ?? null;
    const answer = await this.workers.look.ask(task.name, (id) => ({ kind: 'look', id, task, found }), dropped);
    return (answer as Extract<SampleAnswer, { kind: 'look' }>).sample;
  }

  /** The same out of the whole file, with its figures. */
  async finish(task: NamedTask, dropped: AbortSignal): Promise<FinishedSample> {
    const answer = await this.workers.finish.ask(task.name, (id) => ({ kind: 'finish', id, task }), dropped);
    const { sample } = answer as Extract<SampleAnswer, { kind: 'finish' }>;
    const oldest = this.found.keys().next().value;
    if (this.found.size >= FOUND_KEPT && oldest) this.found.delete(oldest);
    this.found.set(keyOfFile(task), sample.found);
    return sample;
  }

  /** What the whole file weighs, and how it differs from the unencoded picture. */
  async measure(task: NamedTask, dropped: AbortSignal): Promise<Measured> {
    const answer = await this.workers.finish.ask(task.name, (id) => ({ kind: 'measure', id, task }), dropped);
    return (answer as Extract<SampleAnswer, { kind: 'measure' }>).measured;
  }

  /** Sends the whole file through a feed; its pictures come to lie in a folder. */
  async throughFeed(task: NamedTask, feed: { door: FeedDoor; tripId: string; folder: string }, dropped: AbortSignal): Promise<FeedTrip> {
    const answer = await this.workers.finish.ask(task.name, (id) => ({ kind: 'feed', id, task, ...feed }), dropped);
    return (answer as Extract<SampleAnswer, { kind: 'feed' }>).trip;
  }

  /** A watermark on a bright, a dark and a busy picture, as PNG. */
  async mark(watermark: Watermark, dropped: AbortSignal): Promise<Uint8Array> {
    const answer = await this.workers.look.ask('The watermark', (id) => ({ kind: 'mark', id, watermark }), dropped);
    return (answer as Extract<SampleAnswer, { kind: 'mark' }>).png;
  }

  /** A file, made small as browsers show it: a JPEG. */
  async thumbnail(path: string, longEdge: number, dropped: AbortSignal): Promise<Uint8Array> {
    const answer = await this.workers.look.ask('The file', (id) => ({ kind: 'thumbnail', id, path, longEdge }), dropped);
    return (answer as Extract<SampleAnswer, { kind: 'thumbnail' }>).jpeg;
  }

  /** What metadata a file would carry, and what of the master it would not. */
  async fields(task: NamedTask, dropped: AbortSignal): Promise<FileFields> {
    const answer = await this.workers.finish.ask(task.name, (id) => ({ kind: 'fields', id, task }), dropped);
    return (answer as Extract<SampleAnswer, { kind: 'fields' }>).fields;
  }

  /** Why a picture of the machine cannot be decoded to its end; null: it can. */
  async wholeProblem(path: string): Promise<Problem | null> {
    const answer = await this.workers.finish.ask(basename(path), (id) => ({ kind: 'whole', id, path }), new AbortController().signal);
    return (answer as Extract<SampleAnswer, { kind: 'whole' }>).problem;
  }

  /** Ends both processes. */
  async close(): Promise<void> {
    await Promise.all(Object.values(this.workers).map((worker) => worker.close()));
  }
}

const keyOfFile = ({ content, facts, making, studio, watermark }: SampleTask): string =>
  keyOf('file', { content, facts, preset: making.preset, studio, watermark });
