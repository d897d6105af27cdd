import {
  afterNextRender,
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  effect,
  type ElementRef,
  inject,
  Injector,
  input,
  linkedSignal,
  output,
  signal,
  untracked,
  viewChild,
} from '@angular/core';
import { type Master, outputKey } from '@rundle/core';
import { NzIconModule } from 'ng-zorro-antd/icon';
import { thumbnailUrl } from '../api/api';
import { WeightPipe } from '../look/figures';
import { ViewChoices } from '../look/view-choices';
import { type Cell, cellOfFiles } from './cells';
import { RunCell } from './run-cell';

/** A preset, or one of the files that it makes, as a column of the run sheet. */
export interface SheetColumn {
  id: string;
  presetId: string;
  title: string;
  /** The files of a picture that it tells of; one, unless the preset makes several and they are folded into one column. */
  parts: readonly string[];
  /** What its one of several files is called; null: it tells of all. */
  part: string | null;
  /** Whether it stands for several files, or is the first of their columns; null: neither. */
  fold: 'closed' | 'open' | null;
  /** What is varied of it this once; empty: nothing. */
  once: string;
  total: string;
}

/** Of a row of one line, and of one with the new names above the figures, px. */
const ROW_HEIGHT = { one: 38, two: 54 };
/** Widths of the first column, and of the others at least, px. */
const FIRST = 250;
const COLUMN = 184;
/** From this width on a column has room for a name beside the figures, and from this one on for what came out beside both, px. */
const WITH_NAME = 300;
const WITH_PICTURE = 380;
/** Rows that are made above and below those in sight. */
const AHEAD = 8;
/** How long the rows have to stand still until new thumbnails are shown, ms. */
const REST_MS = 90;
/** The rows that are made change only when so many have come into sight. */
const STEP = 6;

/** Where the keys act: row 0 is the head, column 0 the picture. */
interface Spot {
  row: number;
  column: number;
}

/** The run sheet: a grid of pictures by presets, of which only the rows in sight exist, with a fixed first column and head. */
@Component({
  selector: 'rd-run-sheet',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzIconModule, WeightPipe, RunCell],
  template: `
    <div
      #scroll
      class="scroll"
      [class.aside]="isAside()"
      [class.beside]="hasRoom()"
      [class.above]="isNamedAbove()"
      role="grid"
      aria-label="Run sheet"
      aria-multiselectable="true"
      tabindex="-1"
      [attr.aria-rowcount]="masters().length + 1"
      [attr.aria-colcount]="columns().length + 1"
      (scroll)="scrolled()"
      (keydown)="keyed($event)"
    >
      <div class="row head" role="row" aria-rowindex="1" [style.grid-template-columns]="template()" [style.width]="width()">
        <span role="columnheader" class="first">
          Picture
          @if (!hasRoom()) {
            <button
              type="button"
              class="names"
              data-spot="0 0"
              [tabindex]="isAt(0, 0) ? 0 : -1"
              [attr.aria-pressed]="views.newNames()"
              (click)="views.newNames.set(!views.newNames())"
              (focus)="spot.set({ row: 0, column: 0 })"
            >
              {{ views.newNames() ? 'without new names' : 'with new names' }}
            </button>
          }
        </span>
        @for (column of columns(); track column.id; let at = $index) {
          <span role="columnheader">
            <button
              type="button"
              [attr.data-spot]="'0 ' + (at + 1)"
              [tabindex]="isAt(0, at + 1) ? 0 : -1"
              [title]="'Vary ' + column.title + ' this once'"
              (click)="headed.emit(column.presetId)"
              (focus)="spot.set({ row: 0, column: at + 1 })"
            >
              <strong>{{ column.part ?? column.title }}</strong>
              @if (column.once) {
                <span class="once">{{ column.once }}</span>
              }
              <span class="soft figures">{{ column.total }}</span>
            </button>
            @if (column.fold; as fold) {
              <button
                type="button"
                class="fold"
                [attr.aria-expanded]="fold === 'open'"
                [attr.aria-label]="column.title + ': a column for each file'"
                [title]="fold === 'open' ? 'Fold into one column' : 'A column for each file'"
                (click)="folded.emit(column.presetId)"
              >
                {{ fold === 'open' ? 'fold' : 'unfold' }}
              </button>
            }
          </span>
        }
      </div>
      <div class="body" role="rowgroup" [style.height.px]="masters().length * rowHeight()" [style.width]="width()">
        @for (row of shown(); track row.slot) {
          <div
            class="row"
            role="row"
            [attr.aria-rowindex]="row.at + 2"
            [attr.aria-selected]="selected().has(row.master.id)"
            [class.selected]="selected().has(row.master.id)"
            [style.top.px]="row.at * rowHeight()"
            [style.height.px]="rowHeight()"
            [style.grid-template-columns]="template()"
          >
            <span
              role="rowheader"
              class="first"
              [attr.data-spot]="row.at + 1 + ' 0'"
              [tabindex]="isAt(row.at + 1, 0) ? 0 : -1"
              [title]="row.master.fileName"
              (click)="picked.emit({ masterId: row.master.id, range: $event.shiftKey })"
              (keydown.enter)="picked.emit({ masterId: row.master.id, range: false })"
              (focus)="spot.set({ row: row.at + 1, column: 0 })"
            >
              <span class="thumb">
                @if (selected().has(row.master.id)) {
                  <nz-icon nzType="check-square" aria-hidden="true" />
                } @else if (row.master.state === 'ready' && pictured().has(row.master.id)) {
                  <img [src]="thumbnail(row.master)" alt="" decoding="async" />
                }
              </span>
              <span class="name">{{ row.master.fileName }}</span>
              <span class="soft figures">{{ row.master.bytes | weight }}</span>
            </span>
            @for (cell of row.cells; track $index; let at = $index) {
              <span
                role="gridcell"
                [attr.data-spot]="row.at + 1 + ' ' + (at + 1)"
                [tabindex]="isAt(row.at + 1, at + 1) ? 0 : -1"
                (focus)="come(row.at + 1, at + 1, cell)"
                ><rd-run-cell [cell]="cell" [pictured]="showsPictures() && pictured().has(row.master.id)"
              /></span>
            }
          </div>
        }
      </div>
    </div>
  `,
  styleUrl: './run-sheet.less',
})
export class RunSheet {
  readonly masters = input.required<readonly Master[]>();
  readonly columns = input.required<readonly SheetColumn[]>();
  readonly cells = input.required<ReadonlyMap<string, Cell>>();
  readonly selected = input.required<ReadonlySet<string>>();
  /** The cell that has got the focus. */
  readonly came = output<Cell | null>();
  /** A column's head was pressed. */
  readonly headed = output<string>();
  /** Its files shall have a column each, or one together. */
  readonly folded = output<string>();
  readonly picked = output<{ masterId: string; range: boolean }>();

  protected readonly thumbnail = thumbnailUrl;
  private readonly injector = inject(Injector);
  private readonly scroll = viewChild.required<ElementRef<HTMLElement>>('scroll');
  protected readonly views = inject(ViewChoices);
  /** Room for the columns, px. */
  private readonly room = signal(0);
  private readonly columnWidth = computed(() => (this.room() - FIRST) / this.columns().length);
  protected readonly hasRoom = computed(() => this.columnWidth() >= WITH_NAME);
  protected readonly isNamedAbove = computed(() => !this.hasRoom() && this.views.newNames());
  protected readonly showsPictures = computed(() => this.columnWidth() >= WITH_PICTURE || this.isNamedAbove());
  protected readonly rowHeight = computed(() => (this.isNamedAbove() ? ROW_HEIGHT.two : ROW_HEIGHT.one));
  /** Whether the columns have been scrolled sideways. */
  protected readonly isAside = signal(false);
  private readonly range = signal({ from: 0, to: 2 * AHEAD + STEP });
  /** Masters whose thumbnails are shown: while rows fly past, none is fetched and decoded for the new ones. */
  protected readonly pictured = signal<ReadonlySet<string>>(new Set());
  private resting: ReturnType<typeof setTimeout> | null = null;
  /** Where the Tab key comes to; it stays where it is while rows come and go. */
  protected readonly spot = linkedSignal<number, Spot>({
    source: () => this.masters().length,
    computation: (rows, before) => {
      const { row, column } = before?.value ?? { row: 1, column: 1 };
      return { row: Math.min(row, Math.max(1, rows)), column };
    },
  });
  protected readonly template = computed(() => `${FIRST}px repeat(${this.columns().length}, minmax(0, 1fr))`);
  protected readonly width = computed(() => `max(100%, ${FIRST + COLUMN * this.columns().length}px)`);

  protected readonly shown = computed(() => {
    const { from, to } = this.range();
    const [columns, cells] = [this.columns(), this.cells()];
    return this.masters()
      .slice(from, to)
      .map((master, index) => ({
        master,
        at: from + index,
        // A row that has gone out at one end comes in at the other as it is, with other words: far cheaper than a new one.
        slot: (from + index) % (to - from),
        cells: columns.map(({ presetId, parts }) => {
          const own = parts.flatMap((part) => cells.get(outputKey({ masterId: master.id, presetId, part })) ?? []);
          return cellOfFiles(own);
        }),
      }));
  });

  constructor() {
    effect(() => {
      this.shown();
      if (this.resting) clearTimeout(this.resting);
      this.resting = setTimeout(() => this.pictured.set(new Set(this.shown().map(({ master }) => master.id))), REST_MS);
    });
    const observer = new ResizeObserver(([entry]) => entry && this.room.set(entry.contentRect.width));
    afterNextRender(() => observer.observe(this.scroll().nativeElement));
    inject(DestroyRef).onDestroy(() => {
      observer.disconnect();
      if (this.resting) clearTimeout(this.resting);
    });
    effect(() => {
      this.rowHeight();
      if (this.room()) untracked(() => this.scrolled());
    });
  }

  /** A stop that has been scrolled away does not exist: then the first row in sight is one. */
  protected isAt(row: number, column: number): boolean {
    const spot = this.spot();
    const { from, to } = this.range();
    const there = spot.row === 0 || (spot.row - 1 >= from && spot.row - 1 < to);
    return there ? spot.row === row && spot.column === column : row === from + 1 && column === spot.column;
  }

  protected scrolled(): void {
    const { scrollTop, scrollLeft, clientHeight } = this.scroll().nativeElement;
    this.isAside.set(scrollLeft > 0);
    const first = Math.floor(scrollTop / this.rowHeight() / STEP) * STEP;
    const from = Math.max(0, first - AHEAD);
    const to = first + Math.ceil(clientHeight / this.rowHeight()) + STEP + AHEAD;
    const now = this.range();
    if (now.from !== from || now.to !== to) this.range.set({ from, to });
  }

  protected come(row: number, column: number, cell: Cell | null): void {
    this.spot.set({ row, column });
    this.came.emit(cell);
  }

  protected keyed(event: KeyboardEvent): void {
    const { row, column } = this.spot();
    const page = Math.max(1, Math.floor(this.scroll().nativeElement.clientHeight / this.rowHeight()) - 2);
    const last = { row: this.masters().length, column: this.columns().length };
    const ways: Record<string, Spot> = {
      ArrowLeft: { row, column: column - 1 },
      ArrowRight: { row, column: column + 1 },
      ArrowUp: { row: row - 1, column },
      ArrowDown: { row: row + 1, column },
      PageUp: { row: Math.max(1, row - page), column },
      PageDown: { row: row + page, column },
      Home: { row: event.ctrlKey ? 1 : row, column: 0 },
      End: { row: event.ctrlKey ? last.row : row, column: last.column },
    };
    const to = ways[event.key];
    if (!to) return;
    event.preventDefault();
    const bounded = { row: Math.min(last.row, Math.max(0, to.row)), column: Math.min(last.column, Math.max(0, to.column)) };
    // The corner of the head has nothing to press where the names have room.
    this.go(this.hasRoom() && bounded.row === 0 && bounded.column === 0 ? { row: 0, column: 1 } : bounded);
  }

  /** Gives a cell the focus, also one whose row does not exist yet. */
  private go(spot: Spot): void {
    const { nativeElement: scroll } = this.scroll();
    const height = this.rowHeight();
    const top = (spot.row - 1) * height;
    const room = scroll.clientHeight - HEAD_HEIGHT;
    if (spot.row > 0 && top < scroll.scrollTop) scroll.scrollTop = top;
    else if (top + height > scroll.scrollTop + room) scroll.scrollTop = top + height - room;
    this.spot.set(spot);
    this.scrolled();
    afterNextRender(
      () => scroll.querySelector<HTMLElement>(`[data-spot="${spot.row} ${spot.column}"]`)?.focus({ preventScroll: spot.column === 0 }),
      { injector: this.injector },
    );
  }
}

/** As the styles have it, px. */
const HEAD_HEIGHT = 48;
