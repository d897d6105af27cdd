import { createHash } from 'node:crypto';
import type { Problem, Watermark } from '@rundle/core';
import { markProblem } from '@rundle/store';
import { requestProblem } from '../http/problem';

/** Logos that are remembered. */
const KEPT = 100;

/** Logos that may be drawn beside what others wait for: each content is checked once, by a program that is bounded. */
export class CheckedMarks {
  private readonly checked = new Map<string, Promise<Problem | null>>();

  /** @param program path of the bundled `mark-check` */
  constructor(private readonly program: string) {}

  /** @throws HttpProblem when it cannot be drawn */
  async ensure(watermark: Watermark): Promise<void> {
    if (watermark.kind === 'text') return;
    const key = createHash('sha256')
      .update(watermark.kind)
      .update(watermark.data)
      .update('|')
      .update(watermark.dark ?? '')
      .digest('hex');
    const problem = await (this.checked.get(key) ?? this.check(key, watermark));
    if (problem) throw requestProblem('no-sample', problem.message, [problem]);
  }

  private check(key: string, watermark: Watermark): Promise<Problem | null> {
    const checking = markProblem(this.program, watermark);
    this.checked.set(key, checking);
    for (const oldest of this.checked.keys()) if (this.checked.size > KEPT) this.checked.delete(oldest);
    return checking;
  }
}
