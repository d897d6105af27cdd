import { signal } from '@angular/core';

/** Which of several things that can be unfolded are, by their ids. */
export class Unfolded {
  private readonly open = signal<ReadonlySet<string>>(new Set());
  readonly ids = this.open.asReadonly();

  /** Unfolds one, or folds it again. */
  toggle(id: string): void {
    this.open.update((open) => new Set(open.has(id) ? [...open].filter((one) => one !== id) : [...open, id]));
  }
}
