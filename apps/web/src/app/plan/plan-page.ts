import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { onlyForSome, presetInShort, type StoredBundle } from '@rundle/core';
import { NzSkeletonModule } from 'ng-zorro-antd/skeleton';
import { catchError, of, switchMap } from 'rxjs';
import { Api, thumbnailUrl } from '../api/api';
import { counted, weight, WeightPipe } from '../look/figures';
import { RestOfRows } from '../look/rest-of-rows';
import { presetsActions, presetsFeature } from '../presets/presets.store';
import { listOf } from '../shell/list-of';
import { setActions, setFeature } from '../set/set.store';
import { CreditLines } from './credit-lines';
import { type Cell, cellKey, planFeature, selectColumnIds, weightOf } from './plan.store';
import { RunCell } from './run-cell';
import { RunDock } from './run-dock';

/** Rows of the run sheet that are made at a time: a page of them, quickly enough not to be noticed. */
const ROWS = 30;
/** So many presets are all offered in one line. */
const FEW = 6;

/** Plan: the run sheet. Rows are masters, columns the chosen presets; below, what pressing Run does. */
@Component({
  selector: 'rd-plan-page',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [RouterLink, NzSkeletonModule, WeightPipe, RestOfRows, CreditLines, RunCell, RunDock],
  templateUrl: './plan-page.html',
  styleUrl: './plan-page.less',
})
export class PlanPage {
  private readonly store = inject(Store);
  protected readonly set = this.store.selectSignal(setFeature.selectSet);
  protected readonly masters = this.store.selectSignal(setFeature.selectMasters);
  private readonly presets = this.store.selectSignal(presetsFeature.selectList);
  protected readonly presetsLoaded = this.store.selectSignal(presetsFeature.selectLoaded);
  private readonly columnIds = this.store.selectSignal(selectColumnIds);
  private readonly cells = this.store.selectSignal(planFeature.selectCells);
  protected readonly sentence = this.store.selectSignal(planFeature.selectSentence);
  protected readonly notices = this.store.selectSignal(planFeature.selectNotices);
  protected readonly progress = this.store.selectSignal(planFeature.selectProgress);
  private readonly run = this.store.selectSignal(planFeature.selectRun);

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
  protected readonly showsAll = signal(false);
  protected readonly bundles = signal<readonly (StoredBundle & { titles: string })[]>([]);
  protected readonly isRunning = computed(() => this.progress()?.running ?? false);
  protected readonly columns = computed(() =>
    this.columnIds().flatMap((id) => {
      const stored = this.presets().find((preset) => preset.id === id);
      return stored ? [{ id, title: stored.preset.title, short: presetInShort(stored.preset), total: this.subtotal(id) }] : [];
    }),
  );

  constructor() {
    this.store.dispatch(presetsActions.wanted());
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

  protected readonly thumbnail = thumbnailUrl;
  /** Of a row without remarks, px. */
  protected readonly rowHeight = 59;
  private readonly count = signal(ROWS);
  protected readonly rows = computed(() => this.masters().slice(0, this.count()));

  protected moreRows(): void {
    this.count.update((count) => count + ROWS);
  }

  protected cell(masterId: string, presetId: string): Cell | null {
    return this.cells()[cellKey(masterId, presetId)] ?? null;
  }

  protected toggle(presetId: string): void {
    const chosen = this.columnIds();
    this.choose(chosen.includes(presetId) ? chosen.filter((id) => id !== presetId) : [...chosen, presetId]);
  }

  private choose(presetIds: string[]): void {
    const setId = this.set()?.id;
    if (setId) this.store.dispatch(setActions.changedByHand({ setId, change: { presetIds } }));
  }

  private subtotal(presetId: string): string {
    const cells = Object.values(this.cells()).filter((cell) => cell.presetId === presetId);
    const files = cells.filter((cell) => weightOf(cell) > 0);
    const bytes = files.reduce((sum, cell) => sum + weightOf(cell), 0);
    const settled = this.run() !== null && this.run()?.state !== 'running';
    return files.length ? `${counted(files.length, 'file')}, ${settled ? '' : 'about '}${weight(bytes)}` : 'nothing';
  }
}
