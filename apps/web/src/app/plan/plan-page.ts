import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { isVaried, type Once, outputKey, partTitle, type RemarkGroup, variedInWords } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzSkeletonModule } from 'ng-zorro-antd/skeleton';
import { counted, CountedPipe, weight } from '../look/figures';
import { Unfolded } from '../look/unfolded';
import { whenLookedAt } from '../look/when-looked-at';
import { presetsActions, presetsFeature } from '../presets/presets.store';
import { setActions, setFeature } from '../set/set.store';
import { CellDetails } from './cell-details';
import { type Cell, cellOfFiles, totalsOf } from './cells';
import { CreditLines } from './credit-lines';
import { LooksDue } from './looks-due';
import { OncePanel } from './once-panel';
import { PlaceChoice } from './place-choice';
import { PlanNotices } from './plan-notices';
import { planActions, planFeature, selectColumnIds } from './plan.store';
import { PresetBar } from './preset-bar';
import { RemarkGroups } from './remark-groups';
import { RunDock } from './run-dock';
import { RunSheet, type SheetColumn } from './run-sheet';

/** Plan: every file that will come out, before it does; then what is being done, and what came out. */
@Component({
  selector: 'rd-plan-page',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    RouterLink,
    NzButtonModule,
    NzSkeletonModule,
    CountedPipe,
    CellDetails,
    CreditLines,
    LooksDue,
    OncePanel,
    PlanNotices,
    PlaceChoice,
    PresetBar,
    RemarkGroups,
    RunDock,
    RunSheet,
  ],
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
  protected readonly cells = this.store.selectSignal(planFeature.selectCells);
  protected readonly sentence = this.store.selectSignal(planFeature.selectSentence);
  protected readonly isWhole = this.store.selectSignal(setFeature.selectIsWhole);
  private readonly progress = this.store.selectSignal(planFeature.selectProgress);
  private readonly selectedIds = this.store.selectSignal(setFeature.selectSelected);

  protected readonly running = computed(() => this.progress()?.isOpen ?? false);
  protected readonly selected = computed(() => new Set(this.selectedIds()));
  /** Remarks whose pictures are shown alone. */
  protected readonly group = signal<RemarkGroup | null>(null);
  protected readonly rows = computed(() => {
    const only = this.group()?.masterIds;
    return only ? this.masters().filter(({ id }) => only.has(id)) : this.masters();
  });

  protected readonly varyingId = signal<string | null>(null);
  protected readonly varying = computed(() => (this.running() ? null : (this.presets().find(({ id }) => id === this.varyingId()) ?? null)));

  protected readonly columns = computed((): SheetColumn[] => {
    const byPreset = new Map<string, Cell[]>();
    for (const cell of this.cells().values()) {
      const own = byPreset.get(cell.presetId);
      if (own) own.push(cell);
      else byPreset.set(cell.presetId, [cell]);
    }
    return this.columnIds().flatMap((id): SheetColumn[] => {
      const stored = this.presets().find((preset) => preset.id === id);
      if (!stored) return [];
      const cells = byPreset.get(id) ?? [];
      const about = { presetId: id, title: stored.preset.title, once: onceInShort(this.set()?.once[id]) };
      const parts = [...new Set(cells.map(({ part }) => part))];
      if (parts.length < 2) return [{ ...about, id, parts: [parts[0] ?? ''], part: null, total: subtotal(cells), fold: null }];
      if (!this.unfolded.ids().has(id)) return [{ ...about, id, parts, part: null, total: subtotal(cells), fold: 'closed' }];
      return parts.map((part, at) => ({
        ...about,
        id: `${id} ${part}`,
        parts: [part],
        part: partTitle(stored.preset, part),
        total: subtotal(cells.filter((cell) => cell.part === part)),
        fold: at === 0 ? 'open' : null,
      }));
    });
  });

  /** Presets that make several files of a picture and whose files have a column each. */
  protected readonly unfolded = new Unfolded();

  /** The cell that had the focus last, as it was then and as it is now. */
  protected readonly spot = signal<Cell | null>(null);
  protected readonly spotNow = computed(() => {
    const spot = this.spot();
    if (!spot?.files.length) return spot && (this.cells().get(outputKey(spot)) ?? null);
    return cellOfFiles(spot.files.flatMap((file) => this.cells().get(outputKey(file)) ?? []));
  });
  protected readonly spotMaster = computed(() => this.masters().find(({ id }) => id === this.spot()?.masterId)?.fileName ?? '');

  constructor() {
    this.store.dispatch(presetsActions.wanted());
    whenLookedAt(() => this.store.dispatch(planActions.lookedAt()));
  }

  protected pick({ masterId, range }: { masterId: string; range: boolean }): void {
    this.store.dispatch(setActions.pictureClicked({ masterId, click: range ? 'range' : 'toggle' }));
  }

  protected retry(): void {
    const spot = this.spot();
    if (!spot) return;
    const { masterId, presetId, part, files } = spot;
    const pair = files.length ? { masterId, presetId } : { masterId, presetId, part };
    this.store.dispatch(planActions.runPressed({ only: { pairs: [pair] } }));
  }
}

/** "1600 px, quality 70, into “tuesday”, this once" */
function onceInShort(once: Once | undefined): string {
  if (!once || !isVaried(once)) return '';
  const { folder } = once;
  const parts = [...variedInWords(once), folder ? `into “${folder}”` : ''];
  return `${parts.filter(Boolean).join(', ')} this once`;
}

function subtotal(cells: readonly Cell[]): string {
  // Not planned yet.
  if (!cells.length) return '…';
  const { files, bytes, upToDate, upToDateBytes } = totalsOf(cells);
  const parts = [
    files ? `${counted(files, 'file')}, about ${weight(bytes)}` : '',
    upToDate ? `${upToDate} done, ${weight(upToDateBytes)}` : '',
  ].filter(Boolean);
  return parts.join('; ') || 'nothing';
}
