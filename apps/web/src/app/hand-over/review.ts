import { ChangeDetectionStrategy, Component, computed, effect, inject, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { listAsTable, type Master, type MarkChange } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzIconModule } from 'ng-zorro-antd/icon';
import { NzSelectModule } from 'ng-zorro-antd/select';
import { outputThumbnailUrl } from '../api/api';
import { MarksBar } from '../gather/marks-bar';
import { counted, CountedPipe, WeightPipe } from '../look/figures';
import { RestOfRows } from '../look/rest-of-rows';
import { SelectName } from '../look/select-name';
import { Stars } from '../look/stars';
import { ViewChoices } from '../look/view-choices';
import { planActions, planFeature } from '../plan/plan.store';
import { presetsFeature } from '../presets/presets.store';
import { markEdit } from '../set/edits';
import { setActions, setFeature } from '../set/set.store';
import { FileViewer } from './file-viewer';
import { type DeliverableOutput, handOverFeature } from './hand-over.store';
import { OutputsTable } from './outputs-table';

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
    FileViewer,
    MarksBar,
    OutputsTable,
    RestOfRows,
    SelectName,
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

  private readonly byMaster = computed(() => {
    const found = new Map<string, Map<string, DeliverableOutput>>();
    for (const output of this.outputs()) {
      const own = found.get(output.masterId) ?? new Map<string, DeliverableOutput>();
      found.set(output.masterId, own.set(output.presetId, output));
    }
    return found;
  });
  /** A row for each picture of which something came out, in set order. */
  private readonly allRows = computed(() => {
    const selected = new Set(this.selectedMasters().map(({ id }) => id));
    return this.masters().flatMap((master) => {
      const own = this.byMaster().get(master.id);
      if (!own) return [];
      return [
        {
          master,
          selected: selected.has(master.id),
          cells: this.presets().map(({ id, title }) => ({ id, title, output: own.get(id) ?? null })),
        },
      ];
    });
  });
  private readonly wanted = signal(ROWS);
  protected readonly rows = computed(() => this.allRows().slice(0, this.wanted()));
  protected readonly missing = computed(() => this.allRows().length - this.rows().length);
  protected readonly groups = computed(() =>
    this.presets().map((preset) => {
      const files = this.allRows().flatMap(({ cells }) => cells.flatMap(({ id, output }) => (id === preset.id && output ? [output] : [])));
      return {
        ...preset,
        files: files.slice(0, this.wanted()),
        count: files.length,
        bytes: files.reduce((sum, { bytes }) => sum + bytes, 0),
      };
    }),
  );

  /** What is looked at large. */
  protected readonly opened = signal<{ masterId: string; presetId: string } | null>(null);
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
  protected readonly others = this.allPresets;
  protected readonly isRunning = computed(() => this.progress()?.running ?? false);
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

  /** Runs another preset over the best; its files stand here when it has ended. */
  protected sendOn(presetId: string): void {
    const masterIds = this.best().map(({ id }) => id);
    this.store.dispatch(planActions.runPressed({ only: { masterIds }, presetIds: [presetId] }));
    const title = this.allPresets().find(({ id }) => id === presetId)?.preset.title ?? '';
    this.said.set(`${counted(masterIds.length, 'picture')} sent to “${title}”. What comes out will stand here.`);
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
                const root = path ?? (target.startsWith('/') ? target : '');
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
