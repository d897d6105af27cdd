import { DestroyRef, DOCUMENT, inject } from '@angular/core';

/**
 * Does something when a page is opened, and whenever somebody comes back to its window: files may have been changed by another program meanwhile.
 * To be called where things can be injected.
 */
export function whenLookedAt(act: () => void): void {
  const view = inject(DOCUMENT).defaultView;
  act();
  view?.addEventListener('focus', act);
  inject(DestroyRef).onDestroy(() => view?.removeEventListener('focus', act));
}
