import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { presetsFeature } from '../presets/presets.store';
import { setFeature } from '../set/set.store';

/** So many are named; the others are counted. */
const NAMED = 3;

/** What was marked in Proof as needing another look, each a way back there. */
@Component({
  selector: 'rd-looks-due',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [RouterLink],
  template: `
    @if (looks().length) {
      <p>
        <strong>Needs another look:</strong>
        @for (look of named(); track look.key) {
          <a routerLink="../proof" [queryParams]="{ way: 'close', picture: look.masterId, preset: look.presetId }">{{ look.words }}</a>
        }
        @if (more(); as count) {
          <span>and {{ count }} more</span>
        }
      </p>
    }
  `,
  styles: `
    p {
      display: flex;
      flex-wrap: wrap;
      gap: 4px 16px;
      margin: 0 0 8px;
      padding: 3px 10px;
      background: var(--amber-wash);
      border-left: 3px solid var(--amber);
    }
    strong {
      font-weight: 600;
    }
  `,
})
export class LooksDue {
  private readonly store = inject(Store);
  private readonly set = this.store.selectSignal(setFeature.selectSet);
  private readonly masters = this.store.selectSignal(setFeature.selectMasters);
  private readonly presets = this.store.selectSignal(presetsFeature.selectList);
  protected readonly looks = computed(() =>
    (this.set()?.secondLooks ?? []).flatMap(({ masterId, presetId, note }) => {
      const master = this.masters().find(({ id }) => id === masterId);
      const stored = this.presets().find(({ id }) => id === presetId);
      if (!master || !stored) return [];
      const words = `${master.fileName}, ${stored.preset.title}${note ? `: ${note}` : ''}`;
      return [{ key: `${masterId} ${presetId}`, masterId, presetId, words }];
    }),
  );
  protected readonly named = computed(() => this.looks().slice(0, NAMED));
  protected readonly more = computed(() => Math.max(0, this.looks().length - NAMED));
}
