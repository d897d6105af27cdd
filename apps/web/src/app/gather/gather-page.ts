import { ChangeDetectionStrategy, ChangeDetectorRef, Component, computed, inject, signal, viewChild } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { ActivatedRoute, Router, RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import {
  extensionsOf,
  type Filter,
  isOpen,
  KINDS_IN_ORDER,
  MASTER_FORMATS,
  type MarkChange,
  movedIds,
  sortedIds,
  type SortKey,
} from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzIconModule } from 'ng-zorro-antd/icon';
import { NzSelectModule } from 'ng-zorro-antd/select';
import { NzSkeletonModule } from 'ng-zorro-antd/skeleton';
import { Arrivals } from '../arrive/arrivals';
import { arriveActions, arriveFeature } from '../arrive/arrive.store';
import { pickedFiles } from '../arrive/dropped-files';
import { MachineFolderChoice } from '../arrive/machine-folder';
import { CountedPipe, WeightPipe } from '../look/figures';
import { takesKeys } from '../look/takes-keys';
import { SelectName } from '../look/select-name';
import { SURROUNDS, ViewChoices } from '../look/view-choices';
import { type Edit, markEdit } from '../set/edits';
import { type Click, setActions, setFeature } from '../set/set.store';
import { ClearPictures } from './clear-pictures';
import { ContactSheet } from './contact-sheet';
import { FactsPanel } from './facts-panel';
import { FilterBar } from './filter-bar';
import { step } from './grid';
import { type KeyCommand, SHORTCUTS, commandFor } from './keys';
import { MarksBar } from './marks-bar';
import { MasterTable } from './master-table';
import { RemovedFiles } from './removed-files';

const ORDERS: [SortKey, string][] = [
  ['name', 'by name'],
  ['captured', 'by capture time'],
  ['weight', 'by weight'],
  ['stars', 'by stars'],
];

/** Gather: the pictures of the set in set order, what is decided about them, and which of them are shown. */
@Component({
  selector: 'rd-gather-page',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    FormsModule,
    RouterLink,
    NzButtonModule,
    NzIconModule,
    NzSelectModule,
    NzSkeletonModule,
    CountedPipe,
    WeightPipe,
    Arrivals,
    MachineFolderChoice,
    ClearPictures,
    ContactSheet,
    FactsPanel,
    FilterBar,
    MarksBar,
    MasterTable,
    RemovedFiles,
    SelectName,
  ],
  host: { '(document:keydown)': 'pressed($event)' },
  templateUrl: './gather-page.html',
  styleUrl: './gather-page.less',
})
export class GatherPage {
  private readonly store = inject(Store);
  private readonly router = inject(Router);
  private readonly changes = inject(ChangeDetectorRef);
  protected readonly view = inject(ViewChoices);
  /** Extensions of pictures that can come in, for the chooser of files. */
  protected readonly readable = MASTER_FORMATS.flatMap(extensionsOf)
    .map((extension) => `.${extension}`)
    .join(',');
  protected readonly surrounds = SURROUNDS;
  protected readonly shortcuts = SHORTCUTS;
  protected readonly orders = ORDERS;
  protected readonly set = this.store.selectSignal(setFeature.selectSet);
  protected readonly masters = this.store.selectSignal(setFeature.selectMasters);
  protected readonly isWhole = this.store.selectSignal(setFeature.selectIsWhole);
  private readonly arrival = this.store.selectSignal(arriveFeature.selectFiles);
  private readonly arrivalSetId = this.store.selectSignal(arriveFeature.selectSetId);
  /** Files that are being sent into this set. */
  protected readonly onTheirWay = computed(() => (this.arrivalSetId() === this.set()?.id ? this.arrival() : 0));
  protected readonly total = this.store.selectSignal(setFeature.selectTotal);
  protected readonly shown = this.store.selectSignal(setFeature.selectShown);
  protected readonly filter = this.store.selectSignal(setFeature.selectFilter);
  protected readonly tags = this.store.selectSignal(setFeature.selectTags);
  protected readonly bytes = this.store.selectSignal(setFeature.selectBytes);
  protected readonly selectedMasters = this.store.selectSignal(setFeature.selectSelectedMasters);
  protected readonly selectedBytes = this.store.selectSignal(setFeature.selectSelectedBytes);
  protected readonly cursor = this.store.selectSignal(setFeature.selectCursor);
  private readonly undos = this.store.selectSignal(setFeature.selectUndo);
  private readonly redos = this.store.selectSignal(setFeature.selectRedo);
  protected readonly undo = computed(() => this.undos().at(-1)?.label ?? null);
  protected readonly redo = computed(() => this.redos().at(-1)?.label ?? null);
  protected readonly arriving = computed(() => this.masters().filter(({ state }) => state === 'arriving').length);
  private readonly selected = this.store.selectSignal(setFeature.selectSelected);
  protected readonly selection = computed(() => new Set(this.selected()));
  protected readonly narrowed = computed(() => !isOpen(this.filter()));
  protected readonly codes = computed(() => {
    const found = new Set(this.masters().flatMap(({ codes }) => codes));
    return KINDS_IN_ORDER.filter((code) => found.has(code));
  });
  protected readonly facts = signal<string | null>(null);
  protected readonly help = signal(false);
  /** Whether pictures are to be cleared away; from Storage it is opened so. */
  protected readonly clearing = signal(inject(ActivatedRoute).snapshot.queryParamMap.has('clear'));
  /** Whether a folder of the machine is being chosen. */
  protected readonly machine = signal(false);
  private readonly sheet = viewChild(ContactSheet);
  private readonly table = viewChild(MasterTable);
  private readonly marksBar = viewChild(MarksBar);

  protected click(masterId: string, click: Click): void {
    this.store.dispatch(setActions.pictureClicked({ masterId, click }));
  }

  protected select(masterIds: string[]): void {
    this.store.dispatch(setActions.selectionMade({ masterIds }));
  }

  protected selectAll(): void {
    this.select(this.shown().map(({ id }) => id));
  }

  protected invert(): void {
    const { selection } = this;
    this.select(this.shown().flatMap(({ id }) => (selection().has(id) ? [] : [id])));
  }

  protected mark(change: MarkChange): void {
    this.edit(markEdit(this.masters(), this.selection(), change));
  }

  protected takeOut(): void {
    const gone = this.selectedMasters();
    if (gone.length) this.edit({ kind: 'removal', label: `${gone.length} taken out`, gone, back: false });
  }

  protected sort(by: SortKey): void {
    this.reorder(sortedIds(this.masters(), by), `sorted ${ORDERS.find(([key]) => key === by)?.[1]}`);
  }

  protected moveBefore(moving: readonly string[], before: string | null): void {
    const ids = this.masters().map(({ id }) => id);
    this.reorder(movedIds(ids, new Set(moving), before), `${moving.length} moved`);
  }

  protected reorder(after: string[], label: string): void {
    const before = this.masters().map(({ id }) => id);
    // What a filter hides keeps its place behind what is named.
    const named = new Set(after);
    const all = [...after, ...before.filter((id) => !named.has(id))];
    if (all.some((id, at) => id !== before[at])) this.edit({ kind: 'order', label, before, after: all });
  }

  protected narrow(filter: Filter): void {
    const setId = this.set()?.id;
    if (setId) this.store.dispatch(setActions.changedByHand({ setId, change: { filter } }));
  }

  protected undoLast(): void {
    this.store.dispatch(setActions.undoPressed());
  }

  protected redoLast(): void {
    this.store.dispatch(setActions.redoPressed());
  }

  protected goOn(by: number): void {
    const at = this.shown().findIndex(({ id }) => id === this.facts());
    const next = this.shown()[at + by];
    if (next) this.facts.set(next.id);
  }

  protected crop(picture: string | null): void {
    // Of a picture that could not be read nothing is made.
    const isReady = this.masters().some(({ id, state }) => id === picture && state === 'ready');
    if (isReady) void this.router.navigate(['/sets', this.set()?.id, 'crop'], { queryParams: { picture, from: 'gather' } });
  }

  protected backToSheet(): void {
    this.facts.set(null);
    (this.table() ?? this.sheet())?.focus();
  }

  protected bringIn(event: Event): void {
    const field = event.target as HTMLInputElement;
    const setId = this.set()?.id;
    const files = pickedFiles(field.files ?? []);
    if (setId && files.length) this.store.dispatch(arriveActions.dropped({ setId, files }));
    field.value = ''; // so that the same file can be chosen again
  }

  protected bringFolder(setId: string, { path, deeper }: { path: string; deeper: boolean }): void {
    this.store.dispatch(arriveActions.machineFolderChosen({ setId, path, deeper }));
    this.machine.set(false);
  }

  protected pressed(event: KeyboardEvent): void {
    const target = event.target as HTMLElement;
    if (this.facts()) return this.inFacts(event);
    if (target.closest('input, textarea, select, nz-select')) return;
    // A button that has the focus keeps its own keys.
    if (target.closest('button, a') && (event.key === 'Enter' || event.key === ' ')) return;
    const command = commandFor(event, this.view.singleKeys());
    if (!command) return;
    event.preventDefault();
    this.execute(command);
  }

  private inFacts(event: KeyboardEvent): void {
    if (takesKeys(event.target)) return;
    if (event.key === 'ArrowRight' || event.key === 'ArrowLeft') this.goOn(event.key === 'ArrowRight' ? 1 : -1);
    else if (event.key === 'Escape') this.backToSheet();
    else if (event.key === 'c' && this.view.singleKeys() && !event.ctrlKey && !event.metaKey) this.crop(this.facts());
  }

  private execute(command: KeyCommand): void {
    switch (command.do) {
      case 'mark':
        return this.mark(command.change);
      case 'toggle-choice': {
        const all = this.selectedMasters().every(({ choice }) => choice === command.choice);
        return this.mark({ kind: 'choice', choice: all ? null : command.choice });
      }
      case 'move':
        return this.moveCursor(command.key, command.extend);
      case 'carry':
        return this.carry(command.key);
      case 'tag':
        return this.toTags();
      case 'undo':
        return this.undoLast();
      case 'redo':
        return this.redoLast();
      case 'all':
        return this.selectAll();
      case 'none':
        this.help.set(false);
        return this.select([]);
      case 'invert':
        return this.invert();
      case 'take-out':
        return this.takeOut();
      case 'facts':
        return this.facts.set(this.cursor() ?? this.shown()[0]?.id ?? null);
      case 'crop':
        return this.crop(this.cursor() ?? this.shown()[0]?.id ?? null);
      case 'toggle': {
        const cursor = this.cursor();
        return cursor ? this.click(cursor, 'toggle') : undefined;
      }
      case 'help':
        return this.help.update((is) => !is);
    }
  }

  /** At once, so that what is typed next goes into the field: under load the bar may not have been drawn yet. */
  private toTags(): void {
    this.changes.detectChanges();
    this.marksBar()?.focus();
  }

  private moveCursor(key: string, extend: boolean): void {
    const table = this.table();
    const shown = table?.shown() ?? this.shown();
    const selected = this.selected();
    const from = shown.findIndex(({ id }) => id === (extend ? (selected.at(-1) ?? this.cursor()) : this.cursor()));
    if (table && key === 'ArrowUp' && from <= 0) return table.focusHead();
    const to = shown[from < 0 ? 0 : step(from, key, this.sheet()?.grid().columns ?? 1, shown.length)];
    if (!to) return;
    this.click(to.id, extend ? 'range' : 'only');
    (table ?? this.sheet())?.show(to.id);
  }

  /** Carries the selected pictures past one of their neighbours. */
  private carry(key: string): void {
    const ids = this.masters().map(({ id }) => id);
    const moving = this.selection();
    const places = ids.flatMap((id, at) => (moving.has(id) ? [at] : []));
    if (places.length === 0) return;
    if (key === 'ArrowLeft') {
      const before = ids[Math.max(0, places[0]! - 1)] ?? null;
      this.moveBefore([...moving], before);
    } else if (key === 'ArrowRight') {
      const behind = ids.slice(places.at(-1)! + 1).find((id) => !moving.has(id));
      if (behind) this.moveBefore([...moving], ids[ids.indexOf(behind) + 1] ?? null);
    }
  }

  private edit(edit: Edit | null): void {
    if (edit) this.store.dispatch(setActions.edited({ edit }));
  }
}
