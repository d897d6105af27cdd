import { type ChildProcess, fork } from 'node:child_process';
import { mkdirSync, rmSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { setTimeout as wait } from 'node:timers/promises';
import type { SampleAnswer, SampleNotice, SampleOrder } from '@rundle/render';
import { SAMPLE_HEAP_MB, SAMPLE_RESTING_MB } from '@rundle/store';
import { internalProblem, requestProblem } from '../http/problem';

/** One looks at parts, which somebody waits for; one makes whole files. */
export type SampleKind = 'look' | 'finish';

/** Decoded masters and sizes that each of the two processes keeps, in bytes: 400 MB between them. */
const BYTES_KEPT = { look: 260_000_000, finish: 140_000_000 };
/** How far the one that makes whole files stands back behind the one that somebody waits for; see nice(2). */
const NICE = { look: 0, finish: 2 };
/** Threads that decode and scale: all there are for what somebody waits for. */
const THREADS = { look: availableParallelism(), finish: 1 };
/** After so long without a sample the processes end, and their memory is free, in ms. */
const IDLE = 10 * 60_000;
/** A process that works on one order for so long, or says nothing, is ended and started again, in ms: a file of many megapixels may take minutes. */
const OVERDUE = { look: 90_000, finish: 600_000 };
/** Before one is asked again, ms, and longer each time; and how often. */
const AGAIN_AFTER = 50;
const MOST_ENDS = 12;
/** So many processes may end while they work on an order; then it is given up, by name. */
const MOST_DEATHS = 2;

const nobodyWaits = () => requestProblem('no-sample', 'Nobody waits for this picture any more.');
const givenUp = (name: string) =>
  requestProblem(
    'no-sample',
    `${name} brought the program down that makes samples, ${MOST_DEATHS} times, and was given up. Its file may be damaged.`,
  );

interface Question {
  /** The process that was asked. */
  child: ChildProcess;
  /** Set while it is worked on: ends what takes too long. */
  overdue: NodeJS.Timeout | undefined;
  resolve: (answer: SampleAnswer) => void;
  reject: (error: Error) => void;
}

/** The process that was asked has ended before it answered. */
class ProcessEnded extends Error {
  /** @param isCause whether it worked on this question then */
  constructor(readonly isCause: boolean) {
    super('The process has ended.');
  }
}

/** One process, started when it is first needed, and again after it has ended. It works on one order at a time. */
export class SampleWorker {
  private child: ChildProcess | null = null;
  private readonly questions = new Map<number, Question>();
  private lastId = 0;
  private idle: NodeJS.Timeout | undefined;
  /** Ends a process that says nothing though it has been asked: it may stand still before it has begun. */
  private silent: NodeJS.Timeout | undefined;

  constructor(
    private readonly program: string,
    private readonly kind: SampleKind,
    private readonly folder: string,
  ) {}

  /**
   * Asks, and again when the process ends, however often, as long as it was working on something else.
   * @param name of what it is about, for messages
   * @throws HttpProblem
   */
  async ask(name: string, orderOf: (id: number) => SampleOrder, dropped: AbortSignal): Promise<SampleAnswer> {
    let deaths = 0;
    for (let ends = 1; ; ends++)
      try {
        return await this.askOnce(orderOf, dropped);
      } catch (error) {
        if (!(error instanceof ProcessEnded)) throw error;
        if (error.isCause && ++deaths === MOST_DEATHS) throw givenUp(name);
        // One that does not even start is not started without a pause, nor for ever.
        if (ends === MOST_ENDS) throw internalProblem();
        // A cause comes behind the others: what ends processes from outside must not meet the same one each time.
        await wait(AGAIN_AFTER * (2 * ends - (error.isCause ? 1 : 2)));
      }
  }

  private async askOnce(orderOf: (id: number) => SampleOrder, dropped: AbortSignal): Promise<SampleAnswer> {
    if (dropped.aborted) throw nobodyWaits();
    // One that has just ended is not known to be gone until its exit is told.
    const child = this.child?.connected ? this.child : (this.child = this.start());
    const id = ++this.lastId;
    clearTimeout(this.idle);
    const drop = () => child.connected && child.send({ kind: 'drop', id } satisfies SampleOrder);
    try {
      const answer = await new Promise<SampleAnswer>((resolve, reject) => {
        this.questions.set(id, { child, overdue: undefined, resolve, reject });
        if (this.questions.size === 1) this.waitFor(child);
        child.send(orderOf(id), (error) => {
          if (!error) return;
          this.forget(child); // its exit may be told later than this, and it must not be asked once more
          reject(new ProcessEnded(false));
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
      clearTimeout(this.questions.get(id)?.overdue);
      dropped.removeEventListener('abort', drop);
      this.questions.delete(id);
      if (this.questions.size === 0) {
        clearTimeout(this.silent);
        this.idle = setTimeout(() => void this.close(), IDLE).unref();
      }
    }
  }

  async close(): Promise<void> {
    const { child } = this;
    this.child = null;
    clearTimeout(this.idle);
    clearTimeout(this.silent);
    if (!child || child.exitCode !== null || child.signalCode !== null) return;
    const ended = new Promise((resolve) => child.once('exit', resolve));
    if (child.connected) child.disconnect();
    const overdue = setTimeout(() => child.kill('SIGKILL'), 3000);
    await ended;
    clearTimeout(overdue);
  }

  private waitFor(child: ChildProcess): void {
    clearTimeout(this.silent);
    this.silent = setTimeout(() => child.kill('SIGKILL'), OVERDUE[this.kind] + 5000).unref();
  }

  private hear(child: ChildProcess, message: SampleAnswer | SampleNotice): void {
    if (this.questions.size > 0) this.waitFor(child);
    if (message.kind === 'begun') return this.begun(child, message.id);
    if (message.kind !== 'resting') this.questions.get(message.id)?.resolve(message);
    else if (message.resident > SAMPLE_RESTING_MB[this.kind] * 1e6 && this.questions.size === 0 && this.child === child) void this.close();
  }

  /** Its time counts from now on: what stood before it in the line is none of its business. */
  private begun(child: ChildProcess, id: number): void {
    const question = this.questions.get(id);
    if (question)
      question.overdue = setTimeout(() => {
        question.reject(internalProblem()); // it would take as long once more
        child.kill('SIGKILL');
      }, OVERDUE[this.kind]);
  }

  private forget(child: ChildProcess): void {
    if (this.child === child) this.child = null;
  }

  private start(): ChildProcess {
    rmSync(this.folder, { recursive: true, force: true });
    mkdirSync(this.folder, { recursive: true, mode: 0o700 });
    const child = fork(this.program, {
      serialization: 'advanced',
      execArgv: [`--max-old-space-size=${SAMPLE_HEAP_MB}`],
      env: {
        ...process.env,
        RUNDLE_SAMPLE_BYTES: String(BYTES_KEPT[this.kind]),
        RUNDLE_SAMPLE_FOLDER: this.folder,
        RUNDLE_SAMPLE_NICE: String(NICE[this.kind]),
        RUNDLE_SAMPLE_THREADS: String(THREADS[this.kind]),
      },
    });
    child.on('message', (message: SampleAnswer | SampleNotice) => this.hear(child, message));
    const gone = () => {
      this.forget(child);
      // Those that a newer process has been asked since are none of its business.
      for (const question of this.questions.values())
        if (question.child === child) question.reject(new ProcessEnded(question.overdue !== undefined));
    };
    child.once('error', gone);
    child.once('exit', gone);
    return child;
  }
}
