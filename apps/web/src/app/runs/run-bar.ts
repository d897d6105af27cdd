import { ChangeDetectionStrategy, Component, computed, DestroyRef, effect, inject, signal } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { runStatus } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzIconModule } from 'ng-zorro-antd/icon';
import { TabCount } from '../shell/tab-count';
import { canNotice, switchNotices } from './notices';
import { runsActions, runsFeature } from './runs.store';

/** From when on a run is a long one, and how often it is looked, ms. */
const LONG_MS = 60_000;
const TICK_MS = 5000;

/** In the header of every page: what is running, how far, and when it has ended. */
@Component({
  selector: 'rd-run-bar',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [RouterLink, NzButtonModule, NzIconModule],
  host: { 'aria-live': 'polite' },
  template: `
    @if (going(); as run) {
      <a [routerLink]="['/sets', run.setId, 'plan']" class="figures" [title]="run.setTitle">
        <span class="track" aria-hidden="true"><span [style.width.%]="run.percent"></span></span>
        <span class="name">{{ run.setTitle }}</span> {{ run.words }}
      </a>
      @if (asksForNotice()) {
        <button nz-button nzType="text" nzSize="small" (click)="tellAtEnd()">Tell me when it ends</button>
      }
      @if (more(); as waiting) {
        <a routerLink="/runs" class="soft">{{ waiting }} more</a>
      }
    } @else if (ended(); as run) {
      <a [routerLink]="['/runs', run.id]" class="figures" [class.bad]="run.hasFailed" [title]="run.setTitle + ': ' + run.sentence">
        <nz-icon [nzType]="run.hasFailed ? 'exclamation-circle' : 'check'" aria-hidden="true" />
        <span class="name">{{ run.setTitle }}</span> <span class="words">{{ run.sentence }}</span>
      </a>
      <button nz-button nzType="text" nzSize="small" aria-label="Put away" (click)="putAway(run.id)"><nz-icon nzType="close" /></button>
    }
  `,
  styles: `
    :host {
      display: flex;
      flex: 1;
      gap: 10px;
      align-items: center;
      justify-content: flex-end;
      min-width: 0;
      font-size: 14px;
    }
    a {
      display: flex;
      gap: 8px;
      align-items: center;
      min-width: 0;
      color: var(--ink);
      white-space: nowrap;
      &:hover {
        color: var(--petrol);
      }
    }
    .name,
    .words {
      overflow: hidden;
      text-overflow: ellipsis;
    }
    .name {
      flex: none;
      max-width: 180px;
      font-weight: 600;
    }
    button,
    nz-icon {
      flex: none;
    }
    .track {
      flex: none;
      width: 90px;
      height: 6px;
      background: var(--line);
      span {
        display: block;
        height: 100%;
        background: var(--petrol);
      }
    }
    .bad {
      color: var(--brick);
    }
    nz-icon {
      color: var(--moss);
    }
    .bad nz-icon {
      color: var(--brick);
    }
    @media (max-width: 1100px) {
      .track {
        width: 50px;
      }
    }
  `,
})
export class RunBar {
  private readonly store = inject(Store);
  private readonly open = this.store.selectSignal(runsFeature.selectOpen);
  private readonly ahead = this.store.selectSignal(runsFeature.selectAhead);
  private readonly justEnded = this.store.selectSignal(runsFeature.selectJustEnded);

  /** The one that is worked on: the first in the line that is not paused, else the first. */
  protected readonly going = computed(() => {
    const run = this.open().find(({ state }) => state === 'running') ?? this.open()[0];
    if (!run) return null;
    const { share, words, past, of } = runStatus(run, this.ahead().get(run.id));
    return { ...run, percent: 100 * share, words, past, of };
  });
  protected readonly more = computed(() => this.open().length - 1);
  protected readonly ended = computed(() => {
    const run = this.justEnded();
    return run && { ...run, sentence: runStatus(run).words, hasFailed: runStatus(run).failed > 0 };
  });

  private readonly now = signal(Date.now());
  private readonly canAsk = signal(canNotice() && Notification.permission === 'default');

  constructor() {
    const ticking = setInterval(() => this.now.set(Date.now()), TICK_MS);
    inject(DestroyRef).onDestroy(() => clearInterval(ticking));
    this.store.dispatch(runsActions.wanted());
    const tab = inject(TabCount);
    effect(() => tab.show(this.going()));
  }

  /** A run that takes long is one whose end is waited for elsewhere; whoever has answered the browser is not asked again. */
  protected readonly asksForNotice = computed(() => {
    const run = this.going();
    return run !== null && this.canAsk() && this.now() - Date.parse(run.startedAt) > LONG_MS;
  });

  protected tellAtEnd(): void {
    void switchNotices(true).then(() => this.canAsk.set(false));
  }

  protected putAway(runId: string): void {
    this.store.dispatch(runsActions.endPutAway({ runId }));
  }
}
