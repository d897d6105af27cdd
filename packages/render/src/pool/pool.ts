import { type MasterFacts, type Problem, ProblemError, type Salience, type Watermark, type Weighing } from '@rundle/core';
import { setFlagsFromString } from 'node:v8';
import { MessageChannel, type MessagePort } from 'node:worker_threads';
import pLimit, { type LimitFunction } from 'p-limit';
import type { Piscina } from 'piscina';
import { endExifTool, exifTool } from '../read/exiftool';
import { isLarge } from '../read/limits';
import type { MasterJob, OutputResult, Stage } from '../render-master';
import { answerTagCall } from './lent-exiftool';
import type { Done, HowWeighed, Order, Progress, TagCall, Task } from './messages';
import { askForShortestTables } from '../types/jpeg/turbo';
import type { Renderer } from './renderer';

/**
 * Decoded pixels that wait for the collector, in MB per thread, before it runs. By itself it runs with every picture and looks
 * through the whole of a small heap each time, which takes a twentieth of the work.
 */
export const UNCOLLECTED = 160;

type Answer = { ok: true; value: Done } | { ok: false; problem: Problem };

type Threads = Piscina<{ task: Task; port: MessagePort }, Answer>;

/**
 * Threads that read and render pictures, one picture each, away from the caller's own thread.
 * @example
 * const pool = new RenderPool(new URL('./render-thread.js', import.meta.url), 2);
 * const facts = await pool.facts('LFS_0412.jpg', null);
 * await pool.close();
 */
export class RenderPool implements Renderer {
  private readonly large: LimitFunction;
  private starting: Promise<Threads> | undefined;

  /**
   * @param thread URL of the bundled `pool/thread`
   * @param size how many threads. One more than there are cores is best: it works while the others wait for disk or ExifTool.
   * That one is kept from large masters, so that it costs little memory.
   */
  constructor(
    private readonly thread: URL,
    readonly size: number,
  ) {
    this.large = pLimit(Math.max(1, size - 1));
  }

  async facts(path: string, proxyTo: string | null, page: number | null = null): Promise<MasterFacts> {
    return (await this.ask({ kind: 'facts', path, proxyTo, page })) as MasterFacts;
  }

  async wholeProblem(path: string): Promise<Problem | null> {
    return (await this.ask({ kind: 'whole', path })) as Problem | null;
  }

  async weigh(path: string, facts: MasterFacts, how: HowWeighed): Promise<Weighing[]> {
    const weigh = async () => (await this.ask({ kind: 'weigh', path, facts, how })) as Weighing[];
    return isLarge(facts) ? this.large(weigh) : weigh();
  }

  async salience(path: string, facts: MasterFacts): Promise<Salience> {
    return (await this.ask({ kind: 'salience', path, facts })) as Salience;
  }

  async checkWatermark(watermark: Watermark): Promise<void> {
    await this.ask({ kind: 'watermark', watermark });
  }

  render(
    job: MasterJob,
    onStage: (id: string, stage: Stage) => void,
    onResult: (result: OutputResult) => void,
    signal?: AbortSignal,
  ): Promise<void> {
    const render = () => this.renderNow(job, onStage, onResult, signal);
    return isLarge(job.facts) ? this.large(render) : render();
  }

  private async renderNow(
    job: MasterJob,
    onStage: (id: string, stage: Stage) => void,
    onResult: (result: OutputResult) => void,
    signal: AbortSignal | undefined,
  ): Promise<void> {
    if (signal?.aborted) return; // while it waited for its turn
    await this.ask(
      { kind: 'render', job },
      (progress) => (progress.kind === 'stage' ? onStage(progress.id, progress.stage) : onResult(progress.result)),
      signal,
    );
  }

  /** Starts ExifTool and a thread ahead of the first picture, for long-running programs. */
  async warm(): Promise<void> {
    await this.ask({ kind: 'warm' });
  }

  /** Ends the threads, and this program's ExifTool. */
  async close(): Promise<void> {
    await (await this.starting)?.destroy();
    await endExifTool();
  }

  /** Started lazily, since a run in which nothing has changed needs neither thread nor ExifTool. */
  private async start(): Promise<Threads> {
    exifTool(); // takes as long to start as the threads do
    askForShortestTables();
    setFlagsFromString(`--initial-old-space-size=${UNCOLLECTED}`);
    const { Piscina } = await import('piscina');
    // Threads start when they are needed and then stay.
    // Waiting with Atomics would stop a thread's event loop, and with it its messages.
    return new Piscina({ filename: this.thread.href, minThreads: 0, maxThreads: this.size, idleTimeout: Infinity, atomics: 'disabled' });
  }

  private async ask(task: Task, onProgress: (progress: Progress) => void = () => {}, signal?: AbortSignal): Promise<Done> {
    this.starting ??= this.start();
    const threads = await this.starting;
    const { port1, port2 } = new MessageChannel();
    port1.on('message', (message: Progress | TagCall) => {
      if (message.kind === 'read-tags' || message.kind === 'write-tags') void answerTagCall(message, exifTool(), port1);
      else onProgress(message);
    });
    const closed = new Promise((resolve) => port1.once('close', resolve));
    const stop = () => port1.postMessage({ kind: 'stop' } satisfies Order);
    signal?.addEventListener('abort', stop, { once: true });
    try {
      const answer = await threads.run({ task, port: port2 }, { transferList: [port2] });
      await closed; // messages still on their way arrive before the port closes
      if (!answer.ok) throw new ProblemError(answer.problem);
      return answer.value;
    } finally {
      signal?.removeEventListener('abort', stop);
      port1.close();
    }
  }
}
