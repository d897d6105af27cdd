import { computed, Directive, input, linkedSignal } from '@angular/core';

/**
 * A picture by its address that never shows the one before in its place: until it has come, it is away, and its host has the class `awaited`.
 * Browsers keep the old picture on the screen until a new address has been loaded.
 */
@Directive({
  selector: 'img[rdAwaited]',
  exportAs: 'rdAwaited',
  host: {
    '[attr.src]': 'rdAwaited()',
    '[class.awaited]': '!isThere()',
    '(load)': 'loaded.set(rdAwaited())',
    '(error)': 'failed.set(rdAwaited())',
  },
})
export class AwaitedPicture {
  /** The address. */
  readonly rdAwaited = input.required<string>();
  protected readonly loaded = linkedSignal<string, string | null>({ source: this.rdAwaited, computation: () => null });
  protected readonly failed = linkedSignal<string, string | null>({ source: this.rdAwaited, computation: () => null });
  readonly isThere = computed(() => this.loaded() === this.rdAwaited());
  /** It cannot be had. */
  readonly hasFailed = computed(() => this.failed() === this.rdAwaited());
}
