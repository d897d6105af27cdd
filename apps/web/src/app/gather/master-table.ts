import { CdkFixedSizeVirtualScroll, CdkVirtualForOf, CdkVirtualScrollableWindow, CdkVirtualScrollViewport } from '@angular/cdk/scrolling';
import {
  type AfterViewInit,
  ChangeDetectionStrategy,
  Component,
  computed,
  type ElementRef,
  input,
  output,
  signal,
  viewChild,
} from '@angular/core';
import { type Master, sortedIds, type SortKey } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzIconModule } from 'ng-zorro-antd/icon';
import { thumbnailUrl } from '../api/api';
import { ProfileNamePipe, WeightPipe } from '../look/figures';
import { Stars } from '../look/stars';
import type { Click } from '../set/set.store';
import { focusOnceThere } from './focus';
import { TabStop } from './tab-stop';

interface Column {
  key: SortKey;
  head: string;
  /** As a sentence calls it. */
  name: string;
  isNumber?: boolean;
}

/** As the styles below have it, px. */
const ROW_HEIGHT = 40;

const COLUMNS: Column[] = [
  { key: 'name', head: 'Name', name: 'name' },
  { key: 'size', head: 'Size', name: 'pixel size', isNumber: true },
  { key: 'weight', head: 'Weight', name: 'weight', isNumber: true },
  { key: 'profile', head: 'Profile', name: 'profile' },
  { key: 'bits', head: 'Bits', name: 'bits per channel', isNumber: true },
  { key: 'captured', head: 'Captured', name: 'capture time', isNumber: true },
  { key: 'stars', head: 'Stars', name: 'stars' },
  { key: 'choice', head: 'Choice', name: 'choice' },
  { key: 'tags', head: 'Tags', name: 'tags' },
];

/** The pictures of a set as a table; a head that can be pressed sorts what is shown, and that can become the set's order. */
@Component({
  selector: 'rd-master-table',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    CdkVirtualScrollViewport,
    CdkVirtualScrollableWindow,
    CdkFixedSizeVirtualScroll,
    CdkVirtualForOf,
    NzButtonModule,
    NzIconModule,
    ProfileNamePipe,
    WeightPipe,
    Stars,
  ],
  template: `
    @if (sorting(); as sort) {
      <p class="sorted">
        Sorted by {{ sort.by.name }}{{ sort.turned ? ', turned round' : '' }}; the set keeps its own order.
        <button nz-button nzSize="small" (click)="keep()">Make this the order of the set</button>
        <button nz-button nzSize="small" (click)="sorting.set(null)">Back to the order of the set</button>
      </p>
    }
    <div
      role="grid"
      aria-label="Pictures of the set"
      aria-multiselectable="true"
      [attr.aria-rowcount]="masters().length + 1"
      [attr.aria-colcount]="columns.length + 1"
      [attr.tabindex]="stop.isThere() ? -1 : 0"
      (focus)="focus()"
    >
      <div #head role="row" class="row head" tabindex="-1" aria-rowindex="1" (keydown)="inHead($event)">
        <span role="columnheader"><span class="quiet">Picture</span></span>
        @for (column of columns; track column.key) {
          <span
            role="columnheader"
            [class.number]="column.isNumber"
            [attr.aria-sort]="sorting()?.by === column ? (sorting()?.turned ? 'descending' : 'ascending') : 'none'"
          >
            <button type="button" tabindex="-1" [title]="'Sort by ' + column.name" (click)="sortBy(column)">
              @if (sorting()?.by === column) {
                <nz-icon [nzType]="sorting()?.turned ? 'arrow-up' : 'arrow-down'" aria-hidden="true" />
              }
              {{ column.head }}
            </button>
          </span>
        }
      </div>
      <cdk-virtual-scroll-viewport scrollWindow [itemSize]="rowHeight" [minBufferPx]="800" [maxBufferPx]="1600">
        <div
          *cdkVirtualFor="let master of shown(); let index = index; trackBy: byId"
          role="row"
          class="row"
          [id]="'row-' + master.id"
          [attr.aria-rowindex]="index + 2"
          [attr.tabindex]="stop.id() === master.id ? 0 : -1"
          [class.selected]="selected().has(master.id)"
          [class.out]="master.choice === 'out'"
          [attr.aria-selected]="selected().has(master.id)"
          (click)="clicked(master.id, $event)"
          (keydown.enter)="opened.emit(master.id)"
          (dblclick)="opened.emit(master.id)"
        >
          <span role="gridcell" class="thumb">
            @if (master.state === 'ready') {
              <img [src]="thumbnail(master)" alt="" loading="lazy" />
            }
          </span>
          <span role="gridcell" class="name" [title]="master.fileName">{{ master.fileName }}</span>
          @if (master.facts; as facts) {
            <span role="gridcell" class="number">{{ facts.width }} × {{ facts.height }}</span>
            <span role="gridcell" class="number">{{ master.bytes | weight }}</span>
            <span role="gridcell" [class.missing]="!facts.profile" [title]="facts.profile ?? ''">{{ facts.profile | profileName }}</span>
            <span role="gridcell" class="number">{{ facts.bits }}</span>
            <span role="gridcell" class="number">{{ facts.captured?.replace('T', ' ')?.slice(0, 16) }}</span>
          } @else {
            <span role="gridcell" class="problem" aria-colspan="5" [title]="master.problem?.message">{{
              master.problem?.message ?? 'being read'
            }}</span>
          }
          <span role="gridcell" class="stars"><rd-stars [rating]="master.stars" /></span>
          <span role="gridcell">{{ master.choice === 'pick' ? 'picked' : master.choice === 'out' ? 'left out' : '' }}</span>
          <span role="gridcell" class="tags">{{ master.tags.join(', ') }}</span>
        </div>
      </cdk-virtual-scroll-viewport>
    </div>
  `,
  styles: `
    .sorted {
      display: flex;
      align-items: center;
      gap: 10px;
      margin-bottom: 8px;
    }
    .row {
      display: grid;
      grid-template-columns: 56px minmax(150px, 2fr) 110px 78px minmax(90px, 1.2fr) 40px 136px 70px 70px minmax(80px, 1fr);
      gap: 12px;
      align-items: center;
      height: 40px;
      padding: 0 8px;
      font-size: 14px;
      border-bottom: 1px solid var(--line);
      user-select: none;
      > span {
        overflow: hidden;
        text-overflow: ellipsis;
        white-space: nowrap;
      }
      &.selected {
        background: var(--petrol-wash);
      }
      &.out {
        color: var(--ink-soft);
      }
      &:focus-visible {
        outline-offset: -2px;
      }
    }
    .head {
      font-weight: 600;
      height: 34px;
      border-bottom-color: var(--line-strong);
      button {
        padding: 0;
        font: inherit;
        color: inherit;
        background: none;
        border: 0;
        cursor: pointer;
        &:hover {
          color: var(--petrol);
        }
      }
    }
    .thumb {
      display: grid;
      place-items: center;
      height: 36px;
      background: var(--surround);
      img {
        max-height: 34px;
        max-width: 54px;
      }
    }
    .name {
      font-weight: 600;
    }
    .number {
      text-align: right;
    }
    .missing {
      color: var(--amber);
    }
    .problem {
      grid-column: span 5;
      color: var(--brick);
    }
    .tags {
      color: var(--petrol);
    }
  `,
})
export class MasterTable implements AfterViewInit {
  /** In the order of the set. */
  readonly masters = input.required<readonly Master[]>();
  readonly selected = input.required<ReadonlySet<string>>();
  readonly cursor = input<string | null>(null);
  readonly picked = output<{ masterId: string; click: Click }>();
  readonly opened = output<string>();
  readonly ordered = output<{ ids: string[]; by: string }>();
  protected readonly columns = COLUMNS;
  protected readonly rowHeight = ROW_HEIGHT;
  protected readonly sorting = signal<{ by: Column; turned: boolean } | null>(null);
  protected readonly thumbnail = thumbnailUrl;
  /** In the order in which they stand here. */
  readonly shown = computed(() => {
    const sort = this.sorting();
    const masters = this.masters();
    if (!sort) return masters;
    const byId = new Map(masters.map((master) => [master.id, master]));
    return sortedIds(masters, sort.by.key, sort.turned).flatMap((id) => byId.get(id) ?? []);
  });
  private readonly head = viewChild.required<ElementRef<HTMLElement>>('head');
  private readonly viewport = viewChild.required(CdkVirtualScrollViewport);
  protected readonly stop = new TabStop(this.shown, this.cursor, () => 1);

  ngAfterViewInit(): void {
    this.stop.follow(this.viewport());
  }

  /** Gives the focus to the row that the keys act from. */
  focus(): void {
    const stop = this.stop.id();
    if (stop) this.show(stop);
  }

  /** Scrolls so that a picture can be seen, and gives its row the focus. */
  show(masterId: string): void {
    const at = this.shown().findIndex(({ id }) => id === masterId);
    if (at < 0) return;
    const top = this.viewport().elementRef.nativeElement.getBoundingClientRect().top + at * ROW_HEIGHT;
    if (top < 0 || top + ROW_HEIGHT > innerHeight) this.viewport().scrollToIndex(at, 'auto');
    focusOnceThere(`row-${masterId}`);
  }

  /** From the first row the arrow up leads to the heads, which are gone through by arrows as well. */
  focusHead(): void {
    this.heads()[0]?.focus();
  }

  private heads(): HTMLButtonElement[] {
    return [...this.head().nativeElement.querySelectorAll('button')];
  }

  protected inHead(event: KeyboardEvent): void {
    const heads = this.heads();
    const at = heads.findIndex((head) => head === event.target);
    const to = event.key === 'ArrowRight' ? heads[at + 1] : event.key === 'ArrowLeft' ? heads[at - 1] : null;
    if (to) to.focus();
    else if (event.key === 'ArrowDown') this.focus();
    if (event.key.startsWith('Arrow')) {
      event.preventDefault();
      event.stopPropagation(); // here they move no picture
    }
  }

  protected readonly byId = (_index: number, { id }: Master): string => id;

  protected sortBy(by: Column): void {
    const now = this.sorting();
    this.sorting.set({ by, turned: now?.by === by && !now.turned });
  }

  protected keep(): void {
    const sort = this.sorting();
    if (!sort) return;
    this.ordered.emit({ ids: this.shown().map(({ id }) => id), by: sort.by.name });
    this.sorting.set(null);
  }

  protected clicked(masterId: string, event: MouseEvent): void {
    this.picked.emit({ masterId, click: event.shiftKey ? 'range' : event.ctrlKey || event.metaKey ? 'toggle' : 'only' });
  }
}
