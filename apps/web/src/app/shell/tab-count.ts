import { inject, Injectable } from '@angular/core';
import { PageTitle } from './page-title';

/** How far a run is, in the title and the icon of the browser's tab, for who looks at something else. */
@Injectable({ providedIn: 'root' })
export class TabCount {
  private readonly title = inject(PageTitle);
  private readonly icon = document.querySelector<HTMLLinkElement>('link[rel="icon"]');
  private readonly plain = this.icon?.getAttribute('href') ?? '';

  /** @param run how many files are past, and of how many; null: none is under way */
  show(run: { past: number; of: number } | null): void {
    this.title.setProgress(run ? `${run.past} of ${run.of}` : '');
    this.icon?.setAttribute('href', run ? iconOf(run.of ? run.past / run.of : 0) : this.plain);
  }
}

/** The icon with a bar that fills. @param share 0-1 */
function iconOf(share: number): string {
  const rungs = `<path d="M10 3v18M22 3v18M10 8h12M10 14h12" fill="none" stroke="#f7f5f0" stroke-width="2.6" stroke-linecap="round"/>`;
  const bar = `<rect x="4" y="25" width="24" height="4" fill="#3f7d8b"/><rect x="4" y="25" width="${Math.round(24 * share)}" height="4" fill="#f7f5f0"/>`;
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 32 32"><rect width="32" height="32" rx="5" fill="#0f5868"/>${rungs}${bar}</svg>`;
  return `data:image/svg+xml,${encodeURIComponent(svg)}`;
}
