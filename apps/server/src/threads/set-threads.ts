import type { NewDelivery } from '@rundle/core';
import { SET_THREAD_HEAP_MB } from '@rundle/store';
import { Piscina } from 'piscina';
import type { GalleryView } from '../deliveries/gallery-views';
import type { StandingOutput } from '../hand-over/standing-outputs';
import { MadeJson } from '../http/handlers';
import { HttpProblem } from '../http/problem';
import type { SetAnswer, SetTask, SetThreadData } from './set-thread';

/**
 * What changes something: two such tasks are two, however alike they are. And a run, which is asked for again when there is news of it: what is being
 * answered already may be from before that.
 */
const NEVER_SHARED: readonly SetTask['kind'][] = ['run', 'remove-outputs', 'finish-set', 'run-detail'];

/** A thread that vets, plans and starts runs: over 2,000 pictures each takes a moment, in which requests are answered all the same. */
export class SetThreads {
  private readonly threads: Piscina<SetTask, SetAnswer>;

  /** @param thread URL of the bundled `set-thread` */
  constructor(thread: URL, { databaseUrl, data, writeRoots }: SetThreadData) {
    this.threads = new Piscina({
      filename: thread.href,
      workerData: { databaseUrl, data, writeRoots } satisfies SetThreadData,
      // Started with the server, so that the first request does not wait for it.
      minThreads: 1,
      maxThreads: 1,
      concurrentTasksPerWorker: 4,
      atomics: 'disabled',
      resourceLimits: { maxOldGenerationSizeMb: SET_THREAD_HEAP_MB },
    });
  }

  private readonly underWay = new Map<string, Promise<SetAnswer>>();

  /**
   * Does work over all pictures of a set. The same question of several pages, while it is being answered, is answered once.
   * @throws HttpProblem as the work itself would
   */
  async ask(task: SetTask): Promise<MadeJson> {
    return new MadeJson(await this.jsonOf(task));
  }

  /** The outputs of a set that are out, with what has become of their files on the disk. @throws HttpProblem */
  async outputs(setId: string): Promise<StandingOutput[]> {
    return JSON.parse(new TextDecoder().decode(await this.jsonOf({ kind: 'outputs', setId }))) as StandingOutput[];
  }

  /** A gallery as it will be. @throws HttpProblem */
  async viewGallery(setId: string, delivery: NewDelivery): Promise<GalleryView> {
    return JSON.parse(new TextDecoder().decode(await this.jsonOf({ kind: 'gallery', setId, delivery }))) as GalleryView;
  }

  private async jsonOf(task: SetTask): Promise<Uint8Array> {
    const answer = await this.answer(task);
    if (answer.ok) return answer.json;
    const { status, code, message, problems } = answer.problem;
    throw new HttpProblem(status, code, message, problems);
  }

  private answer(task: SetTask): Promise<SetAnswer> {
    if (NEVER_SHARED.includes(task.kind)) return this.threads.run(task);
    const key = JSON.stringify(task);
    const asked = this.underWay.get(key) ?? this.threads.run(task).finally(() => this.underWay.delete(key));
    this.underWay.set(key, asked);
    return asked;
  }

  /** Ends the thread, after what it has begun. */
  async close(): Promise<void> {
    await this.threads.close();
  }
}
