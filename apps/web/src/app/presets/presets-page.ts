import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { Preset, presetInShort } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzSkeletonModule } from 'ng-zorro-antd/skeleton';
import { presetsActions, presetsFeature } from './presets.store';

@Component({
  selector: 'rd-presets-page',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [RouterLink, NzButtonModule, NzSkeletonModule],
  template: `
    <div class="page">
      <div class="head">
        <h1>Presets</h1>
        <button nz-button nzType="primary" (click)="make()">Make a preset</button>
      </div>
      @if (!loaded()) {
        <nz-skeleton [nzActive]="true" [nzParagraph]="{ rows: 4 }" />
      } @else {
        <ul>
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
                <span class="soft figures">version {{ item.version }}</span>
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
      grid-template-columns: 220px minmax(0, 1fr) minmax(150px, auto) 80px;
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
  protected readonly items = computed(() => this.presets().map((stored) => ({ ...stored, short: presetInShort(stored.preset) })));

  constructor() {
    this.store.dispatch(presetsActions.wanted());
  }

  protected make(): void {
    const preset = Preset.parse({ kind: 'rundle.preset', version: 1, title: 'New preset' });
    this.store.dispatch(presetsActions.newOneAskedFor({ preset }));
  }
}
