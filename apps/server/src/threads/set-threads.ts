import { Piscina } from 'piscina';
import { MadeJson } from '../http/api';
import { HttpProblem } from '../http/problem';
import type { SetAnswer, SetTask, SetThreadData } from './set-thread';

/** A thread that vets, plans and starts runs: over 2,000 pictures each takes a moment, in which requests are answered all the same. */
export class SetThreads {
  private readonly threads: Piscina<SetTask, SetAnswer>;

  /** @param thread URL of the bundled `set-thread` */
  constructor(thread: URL, { databaseUrl, data }: SetThreadData) {
    this.threads = new Piscina({
      ...{ filename: thread.href, workerData: { databaseUrl, data } satisfies SetThreadData },
      // Started with the server, since the first question should not wait for it.
      ...{ minThreads: 1, maxThreads: 1, concurrentTasksPerWorker: 4, atomics: 'disabled' },
    });
  }

  /**
   * Does work over all pictures of a set.
   * @throws HttpProblem as the work itself would
   */
  async ask(task: SetTask): Promise<MadeJson> {
    const answer = await this.threads.run(task);
    if (answer.ok) return new MadeJson(answer.json);
    const { status, code, message, problems } = answer.problem;
    throw new HttpProblem(status, code, message, problems);
  }

  /** Ends the thread, after what it has begun. */
  async close(): Promise<void> {
    await this.threads.close();
  }
}
