import { ChangeDetectionStrategy, Component, computed, effect, inject, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { listAsTable, type Master, type MarkChange, type OutputOf, outputKey } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzIconModule } from 'ng-zorro-antd/icon';
import { NzSelectModule } from 'ng-zorro-antd/select';
import { outputThumbnailUrl } from '../api/api';
import { MarksBar } from '../gather/marks-bar';
import { FileName } from '../look/file-name';
import { CountedPipe, WeightPipe } from '../look/figures';
import { RestOfRows } from '../look/rest-of-rows';
import { SelectName } from '../look/select-name';
import { Stars } from '../look/stars';
import { Unfolded } from '../look/unfolded';
import { ViewChoices } from '../look/view-choices';
import { planFeature } from '../plan/plan.store';
import { presetsFeature } from '../presets/presets.store';
import { markEdit } from '../set/edits';
import { setActions, setFeature } from '../set/set.store';
import { FileViewer } from './file-viewer';
import { columnsOf, type DeliverableOutput, handOverFeature } from './hand-over.store';
import { OutputsTable } from './outputs-table';
import { SendOn } from './send-on';

/** Rows that are made at once. */
const ROWS = 40;

/** What came out, as pictures or as a table, by picture or by preset; large at 1:1; marked, and the best sent on. */
@Component({
  selector: 'rd-review',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    FormsModule,
    RouterLink,
    NzButtonModule,
    NzIconModule,
    NzSelectModule,
    CountedPipe,
    WeightPipe,
    FileName,
    FileViewer,
    MarksBar,
    OutputsTable,
    RestOfRows,
    SelectName,
    SendOn,
    Stars,
  ],
  templateUrl: './review.html',
  styleUrl: './review.less',
})
export class Review {
  private readonly store = inject(Store);
  protected readonly view = inject(ViewChoices);
  private readonly outputs = computed(() => this.handOver()?.outputs ?? []);
  private readonly handOver = this.store.selectSignal(handOverFeature.selectView);
  private readonly set = this.store.selectSignal(setFeature.selectSet);
  private readonly masters = this.store.selectSignal(setFeature.selectMasters);
  protected readonly selectedMasters = this.store.selectSignal(setFeature.selectSelectedMasters);
  protected readonly tags = this.store.selectSignal(setFeature.selectTags);
  protected readonly presets = this.store.selectSignal(handOverFeature.selectPresets);
  private readonly allPresets = this.store.selectSignal(presetsFeature.selectList);
  private readonly progress = this.store.selectSignal(planFeature.selectProgress);
  protected readonly thumbnail = outputThumbnailUrl;
  protected readonly path = computed(() => this.handOver()?.path ?? null);
  protected readonly groupBy = signal<'picture' | 'preset'>('picture');
  protected readonly said = signal('');

  private readonly byKey = computed(() => new Map(this.outputs().map((output) => [outputKey(output), output])));
  /** A column for each file that the presets make of a picture. */
  protected readonly columns = computed(() => columnsOf(this.outputs(), this.allPresets()));
  /** Presets whose several files of a picture are shown one by one. */
  protected readonly unfolded = new Unfolded();
  /** A row for each picture of which something came out, in set order. */
  private readonly allRows = computed(() => {
    const selected = new Set(this.selectedMasters().map(({ id }) => id));
    const [columns, byKey] = [this.columns(), this.byKey()];
    return this.masters().flatMap((master) => {
      const cells = columns.map((column) => ({
        ...column,
        output: byKey.get(outputKey({ masterId: master.id, presetId: column.presetId, part: column.part })) ?? null,
      }));
      return cells.some(({ output }) => output) ? [{ master, selected: selected.has(master.id), cells }] : [];
    });
  });
  private readonly wanted = signal(ROWS);
  protected readonly rows = computed(() => {
    const unfolded = this.unfolded.ids();
    return this.allRows()
      .slice(0, this.wanted())
      .map(({ cells, ...row }) => ({ ...row, cells: shownCells(cells, unfolded) }));
  });
  /** How many files of a picture are shown side by side. */
  protected readonly most = computed(() => Math.max(1, ...this.rows().map(({ cells }) => cells.length)));
  protected readonly missing = computed(() => this.allRows().length - this.rows().length);
  protected readonly groups = computed(() =>
    this.presets().map((preset) => {
      const files = this.allRows().flatMap(({ cells }) =>
        cells.flatMap(({ presetId, output }) => (presetId === preset.id && output ? [output] : [])),
      );
      return {
        ...preset,
        files: files.slice(0, this.wanted()),
        count: files.length,
        bytes: files.reduce((sum, { bytes }) => sum + bytes, 0),
      };
    }),
  );

  /** What is looked at large. */
  protected readonly opened = signal<OutputOf | null>(null);
  /** Whether one file is looked at large. */
  readonly large = output<boolean>();
  protected readonly viewable = computed(() =>
    this.allRows().map(({ master, cells }) => ({ master, outputs: cells.map(({ output }) => output) })),
  );

  /** The pictures that can be sent on: those selected, else those picked, else those with the most stars. */
  protected readonly best = computed((): readonly Master[] => {
    if (this.selectedMasters().length) return this.selectedMasters();
    const there = this.allRows().map(({ master }) => master);
    const picked = there.filter(({ choice }) => choice === 'pick');
    if (picked.length) return picked;
    const most = Math.max(0, ...there.map(({ stars }) => stars));
    return most > 0 ? there.filter(({ stars }) => stars === most) : [];
  });
  protected readonly bestWords = computed(() => {
    const count = this.best().length;
    if (this.selectedMasters().length) return `${count} selected`;
    return count === 1 ? 'the best one' : `the ${count} best`;
  });
  /** The first of what came out, on paper; another can be chosen there. */
  protected readonly sheetOf = computed(() => {
    const [first] = this.columns();
    return { from: 'hand-over', of: first ? `${first.presetId} ${first.part}` : null };
  });
  protected readonly others = this.allPresets;
  protected readonly isRunning = computed(() => this.progress()?.isOpen ?? false);
  private readonly run = this.store.selectSignal(planFeature.selectRun);
  protected readonly lastRun = computed(() => this.run()?.id ?? null);

  constructor() {
    effect(() => this.large.emit(this.opened() !== null));
  }

  protected more(): void {
    this.wanted.update((rows) => rows + ROWS);
  }

  protected select(masterId: string, event: MouseEvent): void {
    this.store.dispatch(setActions.pictureClicked({ masterId, click: event.shiftKey ? 'range' : 'toggle' }));
  }

  protected mark(change: MarkChange, ids = new Set(this.selectedMasters().map(({ id }) => id))): void {
    const edit = markEdit(this.masters(), ids, change);
    if (edit) this.store.dispatch(setActions.edited({ edit }));
  }

  protected markOne({ masterId, change }: { masterId: string; change: MarkChange }): void {
    this.mark(change, new Set([masterId]));
  }

  protected clear(): void {
    this.store.dispatch(setActions.selectionMade({ masterIds: [] }));
  }

  /** What the best are to be made with, once it has been seen what that makes. */
  protected readonly sending = signal<{ setId: string; presetId: string; title: string; masterIds: readonly string[] } | null>(null);

  protected sendOn(presetId: string): void {
    const title = this.allPresets().find(({ id }) => id === presetId)?.preset.title ?? '';
    const setId = this.set()?.id;
    if (setId) this.sending.set({ setId, presetId, title, masterIds: this.best().map(({ id }) => id) });
  }

  protected sent(words: string): void {
    this.sending.set(null);
    this.said.set(words);
  }

  protected async copy(what: 'names' | 'paths' | 'table' | 'place'): Promise<void> {
    const outputs = this.allRows().flatMap(({ cells }) => cells.flatMap(({ output }) => (output ? [output] : [])));
    const path = this.path();
    const text =
      what === 'place'
        ? (path ?? '')
        : what === 'table'
          ? listAsTable(outputs)
          : outputs
              .map(({ folder, fileName, target }) => {
                if (what === 'names') return fileName;
                const root = target.startsWith('/') ? target : (path ?? '');
                return [root, folder, fileName].filter(Boolean).join('/');
              })
              .join('\n');
    await navigator.clipboard.writeText(text).then(
      () => this.said.set(COPIED[what]),
      () => this.said.set('The browser does not let this page copy.'),
    );
  }
}

const COPIED = {
  names: 'The names are copied.',
  paths: 'The paths are copied.',
  table: 'Copied as a table: paste it into a spreadsheet.',
  place: 'The path of the folder is copied.',
} as const;

/** A file of a picture, or several of one preset as one. */
interface ShownCell {
  key: string;
  presetId: string;
  title: string;
  output: DeliverableOutput | null;
  /** Of one that stands for several: how many, and what they weigh together; 0: it stands for itself. */
  files: number;
  bytes: number;
  /** Whether its preset makes several, of which it is the first that is shown. */
  isFirst: boolean;
}

/** Several files of one preset are shown by their largest, until they are wanted one by one. */
function shownCells(
  cells: readonly { presetId: string; part: string; title: string; presetTitle: string; output: DeliverableOutput | null }[],
  unfolded: ReadonlySet<string>,
): ShownCell[] {
  return [...new Set(cells.map(({ presetId }) => presetId))].flatMap((presetId): ShownCell[] => {
    const all = cells.filter((cell) => cell.presetId === presetId);
    const made = all.filter(({ output }) => output);
    // What a picture has none of is told once, by the preset's own name.
    const own = made.length ? made : all.slice(0, 1).map((cell) => ({ ...cell, title: cell.presetTitle }));
    const plain = own.map((cell, at) => ({
      ...cell,
      key: `${presetId} ${cell.part}`,
      files: 0,
      bytes: 0,
      isFirst: at === 0 && own.length > 1,
    }));
    if (own.length < 2 || unfolded.has(presetId)) return plain;
    const outputs = own.flatMap(({ output }) => output ?? []);
    const largest = outputs.reduce((best, output) => (output.width * output.height > best.width * best.height ? output : best));
    const bytes = outputs.reduce((sum, output) => sum + output.bytes, 0);
    return [{ key: presetId, presetId, title: own[0]!.presetTitle, output: largest, files: outputs.length, bytes, isFirst: true }];
  });
}
