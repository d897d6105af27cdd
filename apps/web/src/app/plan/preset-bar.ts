import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { onlyForSome, presetInShort, type StoredBundle } from '@rundle/core';
import { catchError, of, switchMap } from 'rxjs';
import { Api } from '../api/api';
import { presetsFeature } from '../presets/presets.store';
import { setActions, setFeature } from '../set/set.store';
import { listOf } from '../shell/list-of';
import { planFeature, selectColumnIds } from './plan.store';

/** So many presets are all offered in one line. */
const FEW = 6;

/** Chooses the presets of a set: what is chosen and the favourites at once, bundles, and the rest behind one press. */
@Component({
  selector: 'rd-preset-bar',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [RouterLink],
  templateUrl: './preset-bar.html',
  styleUrl: './preset-bar.less',
})
export class PresetBar {
  private readonly store = inject(Store);
  private readonly set = this.store.selectSignal(setFeature.selectSet);
  private readonly presets = this.store.selectSignal(presetsFeature.selectList);
  private readonly columnIds = this.store.selectSignal(selectColumnIds);
  private readonly progress = this.store.selectSignal(planFeature.selectProgress);
  protected readonly isRunning = computed(() => this.progress()?.isOpen ?? false);
  protected readonly showsAll = signal(false);
  protected readonly bundles = signal<readonly (StoredBundle & { titles: string })[]>([]);

  private readonly offers = computed(() =>
    this.presets().map(({ id, preset, favourite, group }) => ({
      id,
      title: preset.title,
      short: presetInShort(preset),
      only: onlyForSome(preset),
      group,
      favourite,
      chosen: this.columnIds().includes(id),
    })),
  );
  /** What is chosen and the favourites; all of them where there are few. */
  protected readonly near = computed(() => {
    const offers = this.offers();
    return offers.length <= FEW ? offers : offers.filter(({ chosen, favourite }) => chosen || favourite);
  });
  protected readonly far = computed(() => this.offers().filter((offer) => !this.near().includes(offer)));
  protected readonly farGroups = computed(() =>
    [...new Set(this.far().map(({ group }) => group))].map((title) => ({
      title,
      offers: this.far().filter(({ group }) => group === title),
    })),
  );

  constructor() {
    const api = inject(Api);
    listOf('presets')
      .pipe(switchMap(() => api.listBundles().pipe(catchError(() => of([])))))
      .subscribe((bundles) => this.bundles.set(bundles.map((bundle) => ({ ...bundle, titles: this.titlesOf(bundle) }))));
  }

  private titlesOf({ presetIds }: StoredBundle): string {
    return presetIds.flatMap((id) => this.presets().find((stored) => stored.id === id)?.preset.title ?? []).join(', ');
  }

  /** Chooses the presets of a bundle beside what is chosen already. */
  protected chooseAll(ids: readonly string[]): void {
    const known = ids.filter((id) => this.presets().some((stored) => stored.id === id));
    this.choose([...new Set([...this.columnIds(), ...known])]);
  }

  protected toggle(presetId: string): void {
    const chosen = this.columnIds();
    this.choose(chosen.includes(presetId) ? chosen.filter((id) => id !== presetId) : [...chosen, presetId]);
  }

  private choose(presetIds: string[]): void {
    const setId = this.set()?.id;
    if (setId) this.store.dispatch(setActions.changedByHand({ setId, change: { presetIds } }));
  }
}
