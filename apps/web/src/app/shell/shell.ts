import { ChangeDetectionStrategy, Component } from '@angular/core';
import { RouterLink, RouterLinkActive, RouterOutlet } from '@angular/router';

@Component({
  selector: 'rd-root',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [RouterLink, RouterLinkActive, RouterOutlet],
  template: `
    <header>
      <a class="wordmark" routerLink="/sets" aria-label="Rundle, to the sets">
        <svg viewBox="0 0 18 24" aria-hidden="true"><path d="M4 1v22M14 1v22M4 6h10M4 12h10M4 18h10" /></svg>
        Rundle
      </a>
      <nav aria-label="Main">
        <a routerLink="/sets" routerLinkActive="here" ariaCurrentWhenActive="page">Sets</a>
        <a routerLink="/presets" routerLinkActive="here" ariaCurrentWhenActive="page">Presets</a>
        <a routerLink="/studio" routerLinkActive="here" ariaCurrentWhenActive="page">Studio</a>
      </nav>
    </header>
    <main><router-outlet /></main>
  `,
  styles: `
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
export class Shell {}
