import type { Routes } from '@angular/router';

/**
 * Loads the pages that an address leads to while the application starts, not after it.
 * @param path without its query, such as `/sets/1/gather`
 */
export function loadAhead(routes: Routes, path: string): void {
  const parts = path.split('/').filter(Boolean);
  for (const { path: of = '', loadComponent, children = [] } of routes) {
    const own = of.split('/').filter(Boolean);
    if (own.length > parts.length || !own.every((part, at) => part.startsWith(':') || part === parts[at])) continue;
    const rest = parts.slice(own.length);
    if (own.length === 0 && !children.length) continue;
    // What cannot be loaded is told where it is opened.
    if (loadComponent && (rest.length === 0 || children.length)) void Promise.resolve(loadComponent()).catch(() => {});
    loadAhead(children, rest.join('/'));
  }
}
