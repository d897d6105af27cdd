import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import type { CreditLine, StudioDetails } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { Api } from '../api/api';
import { counted } from '../look/figures';
import { setActions, setFeature } from '../set/set.store';
import { RightsForm } from '../studio/rights-form';
import { planFeature } from './plan.store';

/** Lines that are told one by one; the rest is counted. */
const MOST = 3;

/** Above the run sheet: whose name the pictures go out with, and the details that a set has of its own. */
@Component({
  selector: 'rd-credit-lines',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzButtonModule, RightsForm],
  template: `
    @if (lines().length) {
      <p class="lines" [class.nobody]="nobody()">
        <strong>Credit</strong>
        @for (line of lines(); track $index) {
          <span>{{ line }}</span>
        }
        <button nz-button nzType="link" nzSize="small" [attr.aria-expanded]="open()" (click)="toggle()">
          {{ open() ? 'Close' : 'Details of this set' }}
        </button>
      </p>
    }
    @if (open()) {
      <section class="own" aria-label="Rights details of this set">
        <p class="soft">
          They fill what a master leaves empty, before the studio’s details; a field that is empty here is filled from the studio, shown in
          grey.
        </p>
        <rd-rights-form prefix="set-" [details]="own()" [fallback]="studio()" (saved)="save($event)" />
      </section>
    }
  `,
  styles: `
    .lines {
      display: flex;
      flex-wrap: wrap;
      align-items: baseline;
      column-gap: 14px;
      margin-bottom: 10px;
      font-size: 13px;
    }
    strong {
      font-weight: 600;
    }
    .nobody span:first-of-type {
      color: var(--amber);
    }
    button {
      padding: 0 2px;
    }
    .own {
      max-width: 760px;
      margin-bottom: 14px;
      padding: 14px 20px 18px;
      background: var(--sheet);
      border: 1px solid var(--line);
      border-radius: var(--radius);
      p {
        margin-bottom: 12px;
      }
    }
  `,
})
export class CreditLines {
  private readonly store = inject(Store);
  private readonly api = inject(Api);
  private readonly credits = this.store.selectSignal(planFeature.selectCredits);
  private readonly set = this.store.selectSignal(setFeature.selectSet);
  protected readonly open = signal(false);
  protected readonly studio = signal<StudioDetails | null>(null);
  protected readonly own = computed(() => this.set()?.rights ?? null);
  protected readonly nobody = computed(() => this.credits()[0]?.from === 'nobody');
  protected readonly lines = computed(() => {
    const credits = this.credits();
    const told = credits.slice(0, MOST).map(sentence);
    const rest = credits.slice(MOST).reduce((sum, { pictures }) => sum + pictures, 0);
    return rest ? [...told, `${counted(rest, 'picture')} with others`] : told;
  });

  protected toggle(): void {
    this.open.update((open) => !open);
    if (this.open() && !this.studio()) this.api.getStudio().subscribe({ next: (studio) => this.studio.set(studio), error: () => {} });
  }

  protected save(rights: StudioDetails): void {
    const setId = this.set()?.id;
    if (setId) this.store.dispatch(setActions.changedByHand({ setId, change: { rights } }));
    this.open.set(false);
  }
}

/** "22 pictures keep their own: © 2026 ..." */
function sentence({ text, from, pictures }: CreditLine): string {
  const many = pictures !== 1;
  const subject = counted(pictures, 'picture');
  switch (from) {
    case 'file':
      return `${subject} ${many ? 'keep' : 'keeps'} “${text}”`;
    case 'set':
      return `${subject} ${many ? 'get' : 'gets'} “${text}” from this set`;
    case 'studio':
      return `${subject} ${many ? 'get' : 'gets'} “${text}” from the studio`;
    case 'nobody':
      return `${subject} ${many ? 'go' : 'goes'} out without a name`;
  }
}
