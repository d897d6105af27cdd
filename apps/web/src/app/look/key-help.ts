import { ChangeDetectionStrategy, Component, DestroyRef, inject, input, signal } from '@angular/core';

/** How long keys are shown by themselves, ms. */
const SHOWN_MS = 5000;

/** Keys and what they do, on a picture: for a moment when it opens, and whenever they are asked for. */
@Component({
  selector: 'rd-key-help',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `@if (isShown()) {
    <dl aria-label="Keys">
      @for (row of keys(); track row[0]) {
        <div>
          <dt>{{ row[0] }}</dt>
          <dd>{{ row[1] }}</dd>
        </div>
      }
    </dl>
  }`,
  styles: `
    :host {
      position: absolute;
      bottom: 14px;
      left: 14px;
      z-index: 1;
      pointer-events: none;
    }
    dl {
      margin: 0;
      padding: 8px 14px;
      font-size: 13px;
      line-height: 21px;
      color: var(--ink);
      background: var(--sheet);
      border: 1px solid var(--line-strong);
      border-radius: var(--radius);
    }
    div {
      display: flex;
      gap: 12px;
    }
    dt {
      min-width: 52px;
      font-weight: 600;
    }
    dd {
      margin: 0;
    }
  `,
})
export class KeyHelp {
  readonly keys = input.required<readonly (readonly [keys: string, what: string])[]>();
  protected readonly isShown = signal(true);
  private readonly timer = setTimeout(() => this.isShown.set(false), SHOWN_MS);

  constructor() {
    inject(DestroyRef).onDestroy(() => clearTimeout(this.timer));
  }

  /** Shows them until they are asked for again, or hides them. */
  toggle(): void {
    clearTimeout(this.timer);
    this.isShown.update((shown) => !shown);
  }
}
