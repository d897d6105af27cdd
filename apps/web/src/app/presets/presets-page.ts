import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { presetInShort } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzSkeletonModule } from 'ng-zorro-antd/skeleton';
import { Drafts, NEW } from './drafts';
import { presetsActions, presetsFeature } from './presets.store';

@Component({
  selector: 'rd-presets-page',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [RouterLink, NzButtonModule, NzSkeletonModule],
  template: `
    <div class="page">
      <div class="head">
        <h1>Presets</h1>
        <a nz-button nzType="primary" routerLink="/presets/new">Make a preset</a>
      </div>
      @if (!loaded()) {
        <nz-skeleton [nzActive]="true" [nzParagraph]="{ rows: 4 }" />
      } @else {
        <ul>
          @if (newOne(); as draft) {
            <li>
              <a routerLink="/presets/new">
                <strong>{{ draft.title }}</strong>
                <span>{{ inShort(draft) }}</span>
                <span class="soft figures">folder {{ draft.folder || 'none' }}</span>
                <span class="draft">not saved</span>
              </a>
            </li>
          }
          @for (item of items(); track item.id) {
            <li>
              <a [routerLink]="['/presets', item.id]">
                <strong>{{ item.preset.title }}</strong>
                <span>
                  {{ item.short }}
                  @if (item.preset.notes) {
                    <span class="soft notes">{{ item.preset.notes }}</span>
                  }
                </span>
                <span class="soft figures">folder {{ item.preset.folder || 'none' }}</span>
                @if (item.hasDraft) {
                  <span class="draft">changed, not saved</span>
                } @else {
                  <span class="soft figures">version {{ item.version }}</span>
                }
              </a>
            </li>
          } @empty {
            <li class="empty">
              <h2>No presets yet</h2>
              <p>A preset holds everything that makes one kind of output: size, colour, sharpness, file, metadata, name and folder.</p>
            </li>
          }
        </ul>
      }
    </div>
  `,
  styles: `
    .head {
      display: flex;
      justify-content: space-between;
      margin-bottom: 18px;
    }
    ul {
      margin: 0;
      padding: 0;
      list-style: none;
      border-top: 1px solid var(--line);
    }
    li a {
      display: grid;
      grid-template-columns: 220px minmax(0, 1fr) minmax(150px, auto) 130px;
      gap: 28px;
      align-items: baseline;
      padding: 13px 8px;
      color: var(--ink);
      border-bottom: 1px solid var(--line);
      &:hover {
        background: var(--sheet);
      }
    }
    strong {
      font-size: 17px;
      font-weight: 600;
    }
    .draft {
      color: var(--amber);
    }
    .notes {
      display: block;
      font-size: 14px;
    }
  `,
})
export class PresetsPage {
  private readonly store = inject(Store);
  private readonly presets = this.store.selectSignal(presetsFeature.selectList);
  protected readonly loaded = this.store.selectSignal(presetsFeature.selectLoaded);
  private readonly drafts = inject(Drafts).all;
  protected readonly items = computed(() =>
    this.presets().map((stored) => ({ ...stored, short: presetInShort(stored.preset), hasDraft: stored.id in this.drafts() })),
  );
  protected readonly newOne = computed(() => this.drafts()[NEW]?.draft ?? null);
  protected readonly inShort = presetInShort;

  constructor() {
    this.store.dispatch(presetsActions.wanted());
  }
}
