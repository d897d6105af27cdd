import { type ChildProcess, fork } from 'node:child_process';
import { mkdirSync, rmSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import type { FeedTrip, FileFields, Measured, Problem, Watermark } from '@rundle/core';
import type { FeedDoor, FinishedSample, FoundFile, Sample, SampleAnswer, SampleOrder, SampleTask } from '@rundle/render';
import { internalProblem, requestProblem } from '../http/problem';

/** Decoded masters and sizes that each of the two processes keeps, in bytes: 400 MB between them. */
const BYTES_KEPT = { look: 260_000_000, finish: 140_000_000 };
/** How far the one that makes whole files stands back behind the one that somebody waits for; see nice(2). */
const NICE = { look: 0, finish: 2 };
/** Threads that decode and scale: all there are for what somebody waits for. */
const THREADS = { look: availableParallelism(), finish: 1 };
/** After so long without a sample the processes end, and their memory is free, in ms. */
const IDLE = 10 * 60_000;
/** A process that owes an answer for so long is ended and started again, in ms: a file of many megapixels may take minutes. */
const OVERDUE = { look: 90_000, finish: 600_000 };
/** Whole files that are remembered, by what they were made of. */
const FOUND_KEPT = 200;

type Kind = 'look' | 'finish';

/** Makes samples in processes of their own; see process.ts in packages/render/src/sample. */
export class Samplers {
  private readonly workers: Record<Kind, SampleWorker>;
  private readonly found = new Map<string, FoundFile>();

  /**
   * @param program path of the bundled `sample-process`
   * @param folder for what they make, of this server alone; what a process that was killed has left there goes
   */
  constructor(program: string, folder: string) {
    const worker = (kind: Kind) => new SampleWorker(program, kind, join(folder, kind));
    this.workers = { look: worker('look'), finish: worker('finish') };
  }

  /**
   * A look at a part, at once.
   * @param dropped aborted when nobody waits for it any more
   * @throws HttpProblem
   */
  async look(task: SampleTask, dropped: AbortSignal): Promise<Sample> {
    const found = this.found.get(keyOf(task)) ?? null;
    const answer = await this.workers.look.ask((id) => ({ kind: 'look', id, task, found }), dropped);
    return (answer as Extract<SampleAnswer, { kind: 'look' }>).sample;
  }

  /** The same out of the whole file, with its figures. */
  async finish(task: SampleTask, dropped: AbortSignal): Promise<FinishedSample> {
    const answer = await this.workers.finish.ask((id) => ({ kind: 'finish', id, task }), dropped);
    const { sample } = answer as Extract<SampleAnswer, { kind: 'finish' }>;
    const oldest = this.found.keys().next().value;
    if (this.found.size >= FOUND_KEPT && oldest) this.found.delete(oldest);
    this.found.set(keyOf(task), sample.found);
    return sample;
  }

  /** What the whole file weighs, and how it differs from the unencoded picture. */
  async measure(task: SampleTask, dropped: AbortSignal): Promise<Measured> {
    const answer = await this.workers.finish.ask((id) => ({ kind: 'measure', id, task }), dropped);
    return (answer as Extract<SampleAnswer, { kind: 'measure' }>).measured;
  }

  /** Sends the whole file through a feed; its pictures come to lie in a folder. */
  async throughFeed(task: SampleTask, feed: { door: FeedDoor; tripId: string; folder: string }, dropped: AbortSignal): Promise<FeedTrip> {
    const answer = await this.workers.finish.ask((id) => ({ kind: 'feed', id, task, ...feed }), dropped);
    return (answer as Extract<SampleAnswer, { kind: 'feed' }>).trip;
  }

  /** A watermark on a bright, a dark and a busy picture, as PNG. */
  async mark(watermark: Watermark, dropped: AbortSignal): Promise<Uint8Array> {
    const answer = await this.workers.look.ask((id) => ({ kind: 'mark', id, watermark }), dropped);
    return (answer as Extract<SampleAnswer, { kind: 'mark' }>).png;
  }

  /** A file, made small as browsers show it: a JPEG. */
  async thumbnail(path: string, longEdge: number, dropped: AbortSignal): Promise<Uint8Array> {
    const answer = await this.workers.look.ask((id) => ({ kind: 'thumbnail', id, path, longEdge }), dropped);
    return (answer as Extract<SampleAnswer, { kind: 'thumbnail' }>).jpeg;
  }

  /** What metadata a file would carry, and what of the master it would not. */
  async fields(task: SampleTask, dropped: AbortSignal): Promise<FileFields> {
    const answer = await this.workers.finish.ask((id) => ({ kind: 'fields', id, task }), dropped);
    return (answer as Extract<SampleAnswer, { kind: 'fields' }>).fields;
  }

  /** Why a picture of the machine cannot be decoded to its end; null: it can. */
  async wholeProblem(path: string): Promise<Problem | null> {
    const answer = await this.workers.finish.ask((id) => ({ kind: 'whole', id, path }), new AbortController().signal);
    return (answer as Extract<SampleAnswer, { kind: 'whole' }>).problem;
  }

  /** Ends both processes. */
  async close(): Promise<void> {
    await Promise.all(Object.values(this.workers).map((worker) => worker.close()));
  }
}

const nobodyWaits = () => requestProblem('no-sample', 'Nobody waits for this picture any more.');

/** What decides about the pixels of a file; how it is called and who made it does not. */
function keyOf({ content, facts, watermark, preset: { size, colour, sharpen, mark, border, file } }: SampleTask): string {
  return JSON.stringify([content, facts.exifSpace, size, colour, sharpen, mark && [mark, watermark], border, file]);
}

interface Question {
  /** The process that was asked. */
  child: ChildProcess;
  resolve: (answer: SampleAnswer) => void;
  reject: (error: Error) => void;
}

/** The process that was asked has ended before it answered. */
class ProcessEnded extends Error {}

/** One process, started when it is first needed, and again after it has ended. */
class SampleWorker {
  private child: ChildProcess | null = null;
  private readonly questions = new Map<number, Question>();
  private lastId = 0;
  private idle: NodeJS.Timeout | undefined;

  constructor(
    private readonly program: string,
    private readonly kind: Kind,
    private readonly folder: string,
  ) {}

  /** One that was killed is asked again as a new one, once: a picture that brings it down every time is told as a fault. */
  async ask(orderOf: (id: number) => SampleOrder, dropped: AbortSignal): Promise<SampleAnswer> {
    for (let time = 1; ; time++)
      try {
        return await this.askOnce(orderOf, dropped);
      } catch (error) {
        if (!(error instanceof ProcessEnded)) throw error;
        if (time === 2) throw internalProblem();
      }
  }

  private async askOnce(orderOf: (id: number) => SampleOrder, dropped: AbortSignal): Promise<SampleAnswer> {
    if (dropped.aborted) throw nobodyWaits();
    // One that has just ended is not known to be gone until its exit is told.
    const child = this.child?.connected ? this.child : (this.child = this.start());
    const id = ++this.lastId;
    clearTimeout(this.idle);
    const overdue = setTimeout(() => {
      this.questions.get(id)?.reject(internalProblem()); // it would take as long once more
      child.kill('SIGKILL');
    }, OVERDUE[this.kind]);
    const drop = () => child.connected && child.send({ kind: 'drop', id } satisfies SampleOrder);
    try {
      const answer = await new Promise<SampleAnswer>((resolve, reject) => {
        this.questions.set(id, { child, resolve, reject });
        child.send(orderOf(id), (error) => {
          if (!error) return;
          this.forget(child); // its exit may be told later than this, and it must not be asked once more
          reject(new ProcessEnded());
        });
        dropped.addEventListener('abort', drop, { once: true });
      });
      if (answer.kind === 'failed') {
        const { code, message } = answer.problem;
        throw requestProblem(code === 'no-feed' || code === 'feed-refused' ? code : 'no-sample', message, [answer.problem]);
      }
      if (answer.kind === 'dropped') throw nobodyWaits();
      return answer;
    } finally {
      clearTimeout(overdue);
      dropped.removeEventListener('abort', drop);
      this.questions.delete(id);
      if (this.questions.size === 0) this.idle = setTimeout(() => void this.close(), IDLE).unref();
    }
  }

  async close(): Promise<void> {
    const { child } = this;
    this.child = null;
    clearTimeout(this.idle);
    if (!child || child.exitCode !== null) return;
    const ended = new Promise((resolve) => child.once('exit', resolve));
    if (child.connected) child.disconnect();
    const overdue = setTimeout(() => child.kill('SIGKILL'), 3000);
    await ended;
    clearTimeout(overdue);
  }

  private forget(child: ChildProcess): void {
    if (this.child === child) this.child = null;
  }

  private start(): ChildProcess {
    rmSync(this.folder, { recursive: true, force: true });
    mkdirSync(this.folder, { recursive: true, mode: 0o700 });
    const child = fork(this.program, {
      serialization: 'advanced',
      env: {
        ...process.env,
        RUNDLE_SAMPLE_BYTES: String(BYTES_KEPT[this.kind]),
        RUNDLE_SAMPLE_FOLDER: this.folder,
        RUNDLE_SAMPLE_NICE: String(NICE[this.kind]),
        RUNDLE_SAMPLE_THREADS: String(THREADS[this.kind]),
      },
    });
    child.on('message', (answer: SampleAnswer) => this.questions.get(answer.id)?.resolve(answer));
    const gone = () => {
      this.forget(child);
      // Those that a newer process has been asked since are none of its business.
      for (const question of this.questions.values()) if (question.child === child) question.reject(new ProcessEnded());
    };
    child.once('error', gone);
    child.once('exit', gone);
    return child;
  }
}
