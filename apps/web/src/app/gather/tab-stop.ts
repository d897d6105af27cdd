import type { CdkVirtualScrollViewport } from '@angular/cdk/scrolling';
import { computed, DestroyRef, inject, signal, type Signal } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import type { Master } from '@rundle/core';

/**
 * The one picture of a grid that the Tab key comes to: where the keys act from, else the first. To be made where injection is possible.
 */
export class TabStop {
  private readonly rendered = signal({ start: 0, end: 0 });
  private readonly destroyed = inject(DestroyRef);

  readonly id: Signal<string | null> = computed(() => {
    const cursor = this.cursor();
    const masters = this.masters();
    return cursor !== null && masters.some(({ id }) => id === cursor) ? cursor : (masters[0]?.id ?? null);
  });

  /** Scrolled far away it does not exist; then the grid itself is the stop, and leads back to it. */
  readonly isThere: Signal<boolean> = computed(() => {
    const row = Math.floor(this.masters().findIndex(({ id }) => id === this.id()) / this.columns());
    return row >= this.rendered().start && row < this.rendered().end;
  });

  /** @param columns how many pictures are in a row */
  constructor(
    private readonly masters: () => readonly Master[],
    private readonly cursor: () => string | null,
    private readonly columns: () => number,
  ) {}

  /** Goes by the rows that the viewport has made. */
  follow(viewport: CdkVirtualScrollViewport): void {
    viewport.renderedRangeStream.pipe(takeUntilDestroyed(this.destroyed)).subscribe((range) => this.rendered.set(range));
  }
}
