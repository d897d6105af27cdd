import { type MasterFacts, type Problem, ProblemError, type Watermark } from '@rundle/core';
import { setFlagsFromString } from 'node:v8';
import { MessageChannel, type MessagePort } from 'node:worker_threads';
import { Piscina } from 'piscina';
import type { MasterJob, OutputResult } from '../render-master';
import type { Progress, Task } from './messages';

/**
 * Decoded pixels that wait for the collector, in MB per thread, before it runs. By itself it runs with every picture and looks
 * through the whole of a small heap each time, which takes a twentieth of the work.
 */
const UNCOLLECTED = 160;

type Answer = { ok: true; value: MasterFacts | null } | { ok: false; problem: Problem };

/** Threads that read and render pictures, one picture each, away from the caller's own thread. */
export class RenderPool {
  private readonly threads: Piscina<Task, Answer>;

  /**
   * @param thread URL of the bundled `pool/thread`
   * @param size how many threads; as many as cores is best
   */
  constructor(
    thread: URL,
    readonly size: number,
  ) {
    setFlagsFromString(`--initial-old-space-size=${UNCOLLECTED}`);
    // Threads start when they are needed and then stay.
    // Waiting with Atomics would stop a thread's event loop, and with it its ExifTool process and its messages.
    this.threads = new Piscina({ filename: thread.href, minThreads: 0, maxThreads: size, idleTimeout: Infinity, atomics: 'disabled' });
  }

  /**
   * Reads the facts of a master and, when asked, makes its proxy.
   * @throws ProblemError with what is wrong and what to do
   */
  async facts(path: string, proxyTo: string | null): Promise<MasterFacts> {
    return (await this.ask({ kind: 'facts', path, proxyTo }))!;
  }

  /**
   * Checks a watermark by drawing it once.
   * @throws ProblemError when it cannot be read or is refused
   */
  async checkWatermark(watermark: Watermark): Promise<void> {
    await this.ask({ kind: 'watermark', watermark });
  }

  /** Renders all outputs of one master; results come one by one. See `renderMaster`. */
  async render(
    job: MasterJob,
    onStart: (id: string) => void,
    onResult: (result: OutputResult) => void,
    signal?: AbortSignal,
  ): Promise<void> {
    const { port1, port2 } = new MessageChannel();
    port1.on('message', (progress: Progress) => (progress.kind === 'started' ? onStart(progress.id) : onResult(progress.result)));
    const closed = new Promise((resolve) => port1.once('close', resolve));
    const stop = () => port1.postMessage('stop');
    signal?.addEventListener('abort', stop, { once: true });
    try {
      await this.ask({ kind: 'render', job, port: port2 }, [port2]);
      await closed; // messages still on their way arrive before the port closes
    } finally {
      signal?.removeEventListener('abort', stop);
      port1.close();
    }
  }

  async close(): Promise<void> {
    await this.threads.destroy();
  }

  private async ask(task: Task, transferList: MessagePort[] = []): Promise<MasterFacts | null> {
    const answer = await this.threads.run(task, { transferList });
    if (!answer.ok) throw new ProblemError(answer.problem);
    return answer.value;
  }
}
