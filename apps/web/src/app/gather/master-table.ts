import { CdkFixedSizeVirtualScroll, CdkVirtualForOf, CdkVirtualScrollableWindow, CdkVirtualScrollViewport } from '@angular/cdk/scrolling';
import { ChangeDetectionStrategy, Component, computed, input, output, signal } from '@angular/core';
import { type Master, sortedIds, type SortKey } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzIconModule } from 'ng-zorro-antd/icon';
import { thumbnailUrl } from '../api/api';
import { ProfileNamePipe, WeightPipe } from '../look/figures';
import { Stars } from '../look/stars';
import type { Click } from '../set/set.store';

interface Column {
  key: SortKey;
  head: string;
  /** As a sentence calls it. */
  name: string;
  isNumber?: boolean;
}

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
    <div role="table" [attr.aria-rowcount]="masters().length + 1" aria-label="Pictures of the set">
      <div role="row" class="row head">
        <span></span>
        @for (column of columns; track column.key) {
          <span
            role="columnheader"
            [class.number]="column.isNumber"
            [attr.aria-sort]="sorting()?.by === column ? (sorting()?.turned ? 'descending' : 'ascending') : 'none'"
          >
            <button type="button" [title]="'Sort by ' + column.name" (click)="sortBy(column)">
              @if (sorting()?.by === column) {
                <nz-icon [nzType]="sorting()?.turned ? 'arrow-up' : 'arrow-down'" aria-hidden="true" />
              }
              {{ column.head }}
            </button>
          </span>
        }
      </div>
      <cdk-virtual-scroll-viewport scrollWindow [itemSize]="40" [minBufferPx]="800" [maxBufferPx]="1600">
        <div
          *cdkVirtualFor="let master of shown(); trackBy: byId"
          role="row"
          class="row"
          tabindex="0"
          [class.selected]="selected().has(master.id)"
          [class.out]="master.choice === 'out'"
          [attr.aria-selected]="selected().has(master.id)"
          (click)="clicked(master.id, $event)"
          (keydown.enter)="opened.emit(master.id)"
          (dblclick)="opened.emit(master.id)"
        >
          <span class="thumb">
            @if (master.state === 'ready') {
              <img [src]="thumbnail(master)" alt="" loading="lazy" />
            }
          </span>
          <span role="cell" class="name" [title]="master.fileName">{{ master.fileName }}</span>
          @if (master.facts; as facts) {
            <span role="cell" class="number">{{ facts.width }} × {{ facts.height }}</span>
            <span role="cell" class="number">{{ master.bytes | weight }}</span>
            <span role="cell" [class.missing]="!facts.profile" [title]="facts.profile ?? ''">{{ facts.profile | profileName }}</span>
            <span role="cell" class="number">{{ facts.bits }}</span>
            <span role="cell" class="number">{{ facts.captured?.replace('T', ' ')?.slice(0, 16) }}</span>
          } @else {
            <span role="cell" class="problem" [title]="master.problem?.message">{{ master.problem?.message ?? 'being read' }}</span>
          }
          <span role="cell" class="stars"><rd-stars [rating]="master.stars" /></span>
          <span role="cell">{{ master.choice === 'pick' ? 'picked' : master.choice === 'out' ? 'left out' : '' }}</span>
          <span role="cell" class="tags">{{ master.tags.join(', ') }}</span>
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
export class MasterTable {
  /** In the order of the set. */
  readonly masters = input.required<readonly Master[]>();
  readonly selected = input.required<ReadonlySet<string>>();
  readonly picked = output<{ masterId: string; click: Click }>();
  readonly opened = output<string>();
  readonly ordered = output<{ ids: string[]; by: string }>();
  protected readonly columns = COLUMNS;
  protected readonly sorting = signal<{ by: Column; turned: boolean } | null>(null);
  protected readonly thumbnail = thumbnailUrl;
  protected readonly shown = computed(() => {
    const sort = this.sorting();
    const masters = this.masters();
    if (!sort) return masters;
    const byId = new Map(masters.map((master) => [master.id, master]));
    return sortedIds(masters, sort.by.key, sort.turned).flatMap((id) => byId.get(id) ?? []);
  });
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
