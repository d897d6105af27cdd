import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { NavigationEnd, Router, RouterLink, RouterOutlet } from '@angular/router';
import { Silence } from '../api/silence';
import { boundFor } from './bound-for';
import { NewVersion } from './new-version';
import { RunBar } from '../runs/run-bar';
import { distinctUntilChanged, filter, map, skip } from 'rxjs';

const PAGES = [
  { path: '/sets', name: 'Sets' },
  { path: '/presets', name: 'Presets' },
  { path: '/runs', name: 'Runs' },
  { path: '/standing-orders', name: 'Standing orders' },
  { path: '/watermarks', name: 'Watermarks' },
  { path: '/storage', name: 'Storage' },
  { path: '/workers', name: 'Workers' },
  { path: '/studio', name: 'Studio' },
];

@Component({
  selector: 'rd-root',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [RouterLink, RouterOutlet, RunBar],
  template: `
    <a class="skip" href="#main" (click)="$event.preventDefault(); main.focus()">Skip to the page</a>
    <header>
      <a class="wordmark" routerLink="/sets" aria-label="Rundle, to the sets">
        <svg viewBox="0 0 18 24" aria-hidden="true"><path d="M4 1v22M14 1v22M4 6h10M4 12h10M4 18h10" /></svg>
        Rundle
      </a>
      <nav aria-label="Main">
        @for (page of pages; track page.path) {
          <a [routerLink]="page.path" [class.here]="here() === page.path" [attr.aria-current]="here() === page.path ? 'page' : null">{{
            page.name
          }}</a>
        }
      </nav>
      <rd-run-bar />
    </header>
    @if (isSilent()) {
      <p class="silent" role="status">The server does not answer. What is shown may be out of date; it is tried again.</p>
    }
    @if (version.isThere()) {
      <p class="news" role="status">A new version of Rundle is there. <button type="button" (click)="version.take()">Take it</button></p>
    }
    <main #main id="main" tabindex="-1"><router-outlet /></main>
  `,
  styles: `
    .skip {
      position: absolute;
      top: 8px;
      left: 8px;
      z-index: 40;
      padding: 4px 12px;
      background: var(--sheet);
      border: 1px solid var(--petrol);
      &:not(:focus) {
        clip-path: inset(50%);
      }
    }
    main:focus {
      outline: none;
    }
    header {
      display: flex;
      align-items: center;
      gap: 34px;
      height: 46px;
      padding: 0 28px;
      background: var(--sheet);
      border-bottom: 1px solid var(--line);
    }
    .wordmark {
      display: inline-flex;
      align-items: center;
      gap: 9px;
      font-size: 18px;
      font-weight: 650;
      color: var(--ink);
      svg {
        width: 14px;
        height: 20px;
        fill: none;
        stroke: var(--petrol);
        stroke-width: 2.2;
        stroke-linecap: round;
      }
    }
    // Over the page, so that nothing moves when it comes and goes.
    .silent,
    .news {
      position: fixed;
      top: 46px;
      left: 50%;
      z-index: 30;
      padding: 3px 16px 4px;
      color: var(--ink);
      background: var(--amber-wash);
      border: 1px solid var(--amber);
      border-top: 0;
      border-radius: 0 0 var(--radius) var(--radius);
      transform: translateX(-50%);
    }
    .news {
      background: var(--petrol-wash);
      border-color: var(--petrol);
      button {
        padding: 0 4px;
        font: inherit;
        font-weight: 600;
        color: var(--petrol);
        background: none;
        border: 0;
        text-decoration: underline;
        cursor: pointer;
      }
    }
    nav {
      display: flex;
      gap: 22px;
      a {
        color: var(--ink-soft);
        line-height: 44px;
        border-bottom: 2px solid transparent;
        &:hover {
          color: var(--ink);
        }
        &.here {
          color: var(--ink);
          font-weight: 600;
          border-bottom-color: var(--petrol);
        }
      }
    }
  `,
})
export class Shell {
  protected readonly isSilent = inject(Silence).isSilent;
  protected readonly version = inject(NewVersion);
  protected readonly pages = PAGES;
  private readonly address = boundFor();
  /** The page that is open, or that was just pressed; those of sets and presets belong to their lists. */
  protected readonly here = computed(() => `/${this.address().split('/')[1]}`);

  constructor() {
    // Who cannot see that the page has changed hears its heading; at the first page the browser does so by itself.
    inject(Router)
      .events.pipe(
        filter((event) => event instanceof NavigationEnd),
        map(({ urlAfterRedirects }) => urlAfterRedirects.split(/[?#]/)[0]),
        distinctUntilChanged(),
        skip(1),
        takeUntilDestroyed(),
      )
      .subscribe(() => setTimeout(focusHeading));
  }
}

function focusHeading(): void {
  const heading = document.querySelector<HTMLElement>('main h1');
  if (!heading) return;
  heading.tabIndex = -1;
  heading.focus({ preventScroll: true });
}
