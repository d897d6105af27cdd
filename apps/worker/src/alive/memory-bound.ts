import type { Task, TaskList } from 'graphile-worker';
import * as z from 'zod';

/** The exit code by which the supervisor knows that this worker only gives its memory back; see scripts/setup/programs.mjs. */
export const RENEWED = 75;

/** How long a worker rests before it is looked what it holds, ms: a collector may still be at work. */
const RESTS_AFTER = 5000;

const Bounds = z.object({ resting: z.number(), between: z.number() });

/**
 * Sees to it that a worker holds no more memory than it may: large pictures leave heaps behind that no allocator gives back. Without a supervisor,
 * which would start another, it does nothing.
 */
export class MemoryBound {
  private readonly bounds: z.infer<typeof Bounds> | null;
  private timer: NodeJS.Timeout | undefined;
  private underWay = 0;

  /**
   * @param bounds in MB, as JSON, from the supervisor
   * @param renew ends this worker in order
   */
  constructor(
    bounds: string | undefined,
    private readonly renew: () => void,
  ) {
    this.bounds = bounds === undefined ? null : Bounds.parse(JSON.parse(bounds));
  }

  /** The same tasks; after each it is looked what is held. */
  watched(tasks: TaskList): TaskList {
    const watched = Object.entries(tasks).map(([name, task]) => [name, this.around(task as Task)] as const);
    return Object.fromEntries(watched);
  }

  end(): void {
    clearTimeout(this.timer);
  }

  private around(task: Task): Task {
    return async (...call) => {
      clearTimeout(this.timer);
      this.underWay++;
      try {
        return await task(...call);
      } finally {
        this.underWay--;
        this.look();
      }
    };
  }

  private look(): void {
    const { bounds } = this;
    if (!bounds || this.underWay > 0) return;
    // After the task's own end: the queue has to hear of it first.
    setImmediate(() => this.holdsMore(bounds.between) && this.underWay === 0 && this.renew());
    this.timer = setTimeout(() => this.underWay === 0 && this.holdsMore(bounds.resting) && this.renew(), RESTS_AFTER);
  }

  private holdsMore(megabytes: number): boolean {
    return process.memoryUsage.rss() > megabytes * 1e6;
  }
}
