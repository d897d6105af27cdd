import { inject, Injectable, signal } from '@angular/core';
import { ServerEvents } from '../api/stream/server-events';

/** The program that a page of the application loads: every build gives it another name. */
export const programOf = (html: string): string | null => /<script[^>]+src="(main[^"]*\.js)"/.exec(html)?.[1] ?? null;

/** Whether the server has come back with another version than the one that this page runs. */
@Injectable({ providedIn: 'root' })
export class NewVersion {
  private readonly found = signal(false);
  readonly isThere = this.found.asReadonly();

  constructor() {
    const own = programOf(document.documentElement.outerHTML);
    inject(ServerEvents).back.subscribe(() => {
      fetch('/', { cache: 'no-store' })
        .then((answer) => (answer.ok ? answer.text() : ''))
        .then((html) => this.found.set(own !== null && programOf(html) !== null && programOf(html) !== own))
        .catch(() => {}); // away once more: it is looked again when it is back
    });
  }

  /** What has been changed and not been saved is kept as a draft. */
  take(): void {
    location.reload();
  }
}
