import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { presetInShort } from '@rundle/core';
import { NzSkeletonModule } from 'ng-zorro-antd/skeleton';
import { thumbnailUrl } from '../api/api';
import { counted, weight, WeightPipe } from '../look/figures';
import { RestOfRows } from '../look/rest-of-rows';
import { presetsActions, presetsFeature } from '../presets/presets.store';
import { setActions, setFeature } from '../set/set.store';
import { CreditLines } from './credit-lines';
import { type Cell, cellKey, planFeature, selectColumnIds, weightOf } from './plan.store';
import { RunCell } from './run-cell';
import { RunDock } from './run-dock';

/** Rows of the run sheet that are made at a time: a page of them, quickly enough not to be noticed. */
const ROWS = 30;

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

  protected readonly offers = computed(() =>
    this.presets().map(({ id, preset }) => ({
      id,
      title: preset.title,
      short: presetInShort(preset),
      chosen: this.columnIds().includes(id),
    })),
  );
  protected readonly columns = computed(() =>
    this.columnIds().flatMap((id) => {
      const stored = this.presets().find((preset) => preset.id === id);
      return stored ? [{ id, title: stored.preset.title, short: presetInShort(stored.preset), total: this.subtotal(id) }] : [];
    }),
  );

  constructor() {
    this.store.dispatch(presetsActions.wanted());
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
    const setId = this.set()?.id;
    const chosen = this.columnIds();
    const presetIds = chosen.includes(presetId) ? chosen.filter((id) => id !== presetId) : [...chosen, presetId];
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
