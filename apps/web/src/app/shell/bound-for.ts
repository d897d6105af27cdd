import { computed, inject, type Signal } from '@angular/core';
import { type CanActivateFn, Router } from '@angular/router';

/** Where the application is, or is on its way to: an address without its query. */
export function boundFor(): Signal<string> {
  const router = inject(Router);
  return computed(() => (router.currentNavigation()?.extractedUrl.toString() ?? router.url).split(/[?#]/)[0]!);
}

/** Browsers draw nothing in a tab that is not seen, so that this is not waited for longer, in ms. */
const UNSEEN = 100;

/** Lets the page show what was pressed before the next one is built, which takes longer than a press may wait for its answer. */
export const oncePainted: CanActivateFn = () => {
  if (!inject(Router).navigated) return true;
  return new Promise((resolve) => {
    const go = () => resolve(true);
    const late = setTimeout(go, UNSEEN);
    requestAnimationFrame(() => {
      clearTimeout(late);
      setTimeout(go);
    });
  });
};
