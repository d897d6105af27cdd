import { afterRenderEffect, ChangeDetectionStrategy, Component, ElementRef, inject, input, type OnDestroy, output } from '@angular/core';

/** How far from the window rows are wanted, in px. */
const AHEAD = '1200px 0px';

/**
 * Stands below a table for its rows that are not there yet, as high as they will be, and asks for more of them when it comes near
 * the window: thousands of rows at once would hold the page up, and rows of unlike heights cannot be scrolled virtually.
 */
@Component({
  selector: 'rd-rest-of-rows',
  changeDetection: ChangeDetectionStrategy.OnPush,
  host: { '[style.height.px]': 'missing() * rowHeight()', 'aria-hidden': 'true' },
  template: '',
  styles: `
    :host {
      display: block;
    }
  `,
})
export class RestOfRows implements OnDestroy {
  /** Rows that are not there. */
  readonly missing = input.required<number>();
  /** Of an ordinary row, px. */
  readonly rowHeight = input.required<number>();
  readonly wanted = output();
  private readonly element = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
  private readonly watcher = new IntersectionObserver(([entry]) => entry?.isIntersecting && this.missing() && this.wanted.emit(), {
    rootMargin: AHEAD,
  });

  constructor() {
    // It may still be near after more rows have come: only a new look tells.
    afterRenderEffect(() => {
      this.missing();
      this.watcher.unobserve(this.element);
      this.watcher.observe(this.element);
    });
  }

  ngOnDestroy(): void {
    this.watcher.disconnect();
  }
}
