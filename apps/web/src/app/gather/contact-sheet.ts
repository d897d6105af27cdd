import { CdkFixedSizeVirtualScroll, CdkVirtualForOf, CdkVirtualScrollableWindow, CdkVirtualScrollViewport } from '@angular/cdk/scrolling';
import {
  type AfterViewInit,
  ChangeDetectionStrategy,
  Component,
  computed,
  type ElementRef,
  inject,
  input,
  NgZone,
  type OnDestroy,
  output,
  signal,
  viewChild,
} from '@angular/core';
import type { Master } from '@rundle/core';
import type { Click } from '../set/set.store';
import { focusOnceThere } from './focus';
import { band, type Band, gridOf, inBand } from './grid';
import { CARD_TEXT, MasterCard } from './master-card';
import { TabStop } from './tab-stop';

/** As the styles below have it. */
const GAPS = { gap: 12, rowGap: 16 };

/** Pixels of rows that exist beyond the window: few at a time come so while it is scrolled. */
const AHEAD = { least: 700, most: 900 };
/** They wait until the first screen has its pictures, ms. */
const AFTER_FIRST = 400;

/** The contact sheet: rows of cards, of which only those near the window exist. Pictures are dragged to another place in it. */
@Component({
  selector: 'rd-contact-sheet',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [CdkVirtualScrollViewport, CdkVirtualScrollableWindow, CdkFixedSizeVirtualScroll, CdkVirtualForOf, MasterCard],
  template: `
    <div
      #sheet
      class="sheet"
      role="grid"
      aria-label="Pictures of the set"
      aria-multiselectable="true"
      [attr.aria-rowcount]="rows().length"
      [attr.aria-colcount]="grid().columns"
      [attr.tabindex]="stop.isThere() ? -1 : 0"
      (focus)="focus()"
      (pointerdown)="pressed($event)"
      (pointermove)="moved($event)"
      (pointerup)="released()"
      (pointercancel)="released()"
    >
      <cdk-virtual-scroll-viewport scrollWindow [itemSize]="grid().rowHeight" [minBufferPx]="ahead().least" [maxBufferPx]="ahead().most">
        <div
          *cdkVirtualFor="let row of rows(); let index = index; trackBy: byPlace"
          class="row"
          role="row"
          [attr.aria-rowindex]="index + 1"
          [style.height.px]="grid().rowHeight"
        >
          @for (master of row; track master.id; let column = $index) {
            <rd-master-card
              [id]="'picture-' + master.id"
              role="gridcell"
              [attr.aria-colindex]="column + 1"
              [attr.aria-selected]="isSelected(master.id)"
              [attr.tabindex]="stop.id() === master.id ? 0 : -1"
              [class.before]="dropAt() === master.id"
              draggable="true"
              [master]="master"
              [selected]="isSelected(master.id)"
              [height]="thumbnail()"
              [style.width.px]="grid().cardWidth"
              (click)="clicked(master.id, $event)"
              (dblclick)="opened.emit(master.id)"
              (dragstart)="dragBegun(master.id, $event)"
              (dragover)="draggedOver(master.id, $event)"
              (drop)="dropped($event)"
              (dragend)="dropAt.set(null)"
            />
          }
        </div>
      </cdk-virtual-scroll-viewport>
      @if (rubber(); as area) {
        <div
          class="rubber"
          [style]="{ left: area.left + 'px', top: area.top + 'px', width: area.width + 'px', height: area.height + 'px' }"
        ></div>
      }
    </div>
  `,
  styles: `
    .sheet {
      position: relative;
      min-height: 60vh;
      user-select: none;
      &:focus {
        outline: none;
      }
      rd-master-card:focus {
        outline: none;
      }
      rd-master-card:focus-visible {
        background: var(--petrol-wash);
        box-shadow: inset 0 -2px 0 var(--petrol);
      }
    }
    .row {
      display: flex;
      gap: 12px;
      padding-bottom: 16px;
      box-sizing: border-box;
    }
    .before {
      box-shadow: -7px 0 0 -3px var(--petrol);
    }
    .rubber {
      position: absolute;
      z-index: 2;
      background: rgb(15 88 104 / 14%);
      border: 1px solid var(--petrol);
      pointer-events: none;
    }
  `,
})
export class ContactSheet implements AfterViewInit, OnDestroy {
  readonly masters = input.required<readonly Master[]>();
  readonly selected = input.required<ReadonlySet<string>>();
  readonly cursor = input<string | null>(null);
  /** Height of a thumbnail, px. */
  readonly thumbnail = input.required<number>();
  readonly picked = output<{ masterId: string; click: Click }>();
  readonly selectionMade = output<string[]>();
  readonly opened = output<string>();
  /** Some pictures, the selected ones or the one dragged, were dropped before another. */
  readonly movedBefore = output<{ moving: string[]; before: string | null }>();

  private readonly sheet = viewChild.required<ElementRef<HTMLElement>>('sheet');
  private readonly viewport = viewChild.required(CdkVirtualScrollViewport);
  private readonly width = signal(1200);
  protected readonly ahead = signal({ least: 0, most: 0 });
  protected readonly dropAt = signal<string | null>(null);
  protected readonly rubber = signal<Band | null>(null);
  private pressedAt: { x: number; y: number } | null = null;
  private dragging: string | null = null;

  readonly grid = computed(() => gridOf(this.width(), this.thumbnail(), CARD_TEXT, GAPS));
  protected readonly rows = computed(() => {
    const masters = this.masters();
    const { columns } = this.grid();
    return Array.from({ length: Math.ceil(masters.length / columns) }, (_, row) => masters.slice(row * columns, (row + 1) * columns));
  });
  protected readonly stop = new TabStop(this.masters, this.cursor, () => this.grid().columns);
  private readonly watcher = new ResizeObserver(([entry]) => this.zone.run(() => entry && this.width.set(entry.contentRect.width)));
  private readonly zone = inject(NgZone);

  protected readonly byPlace = (index: number): number => index;

  ngAfterViewInit(): void {
    this.watcher.observe(this.sheet().nativeElement);
    this.stop.follow(this.viewport());
    setTimeout(() => this.ahead.set(AHEAD), AFTER_FIRST);
  }

  ngOnDestroy(): void {
    this.watcher.disconnect();
  }

  /** Gives the focus to the picture that the keys act from. */
  focus(): void {
    const stop = this.stop.id();
    if (stop) this.show(stop);
  }

  /** Scrolls so that a picture can be seen, and gives it the focus. */
  show(masterId: string): void {
    const at = this.masters().findIndex(({ id }) => id === masterId);
    if (at < 0) return;
    const { columns, rowHeight } = this.grid();
    const top = this.sheet().nativeElement.getBoundingClientRect().top + Math.floor(at / columns) * rowHeight;
    if (top < 0 || top + rowHeight > innerHeight) this.viewport().scrollToIndex(Math.floor(at / columns), 'auto');
    focusOnceThere(`picture-${masterId}`);
  }

  protected isSelected(id: string): boolean {
    return this.selected().has(id);
  }

  protected clicked(masterId: string, event: MouseEvent): void {
    this.picked.emit({ masterId, click: event.shiftKey ? 'range' : event.ctrlKey || event.metaKey ? 'toggle' : 'only' });
  }

  protected dragBegun(masterId: string, event: DragEvent): void {
    this.dragging = masterId;
    event.dataTransfer?.setData('text/plain', masterId);
    if (event.dataTransfer) event.dataTransfer.effectAllowed = 'move';
    if (!this.isSelected(masterId)) this.picked.emit({ masterId, click: 'only' });
  }

  protected draggedOver(masterId: string, event: DragEvent): void {
    if (!this.dragging) return; // files from outside are handled by the page
    event.preventDefault();
    const card = (event.currentTarget as HTMLElement).getBoundingClientRect();
    this.dropAt.set(event.clientX < card.left + card.width / 2 ? masterId : this.next(masterId));
  }

  protected dropped(event: DragEvent): void {
    if (!this.dragging) return;
    event.preventDefault();
    const moving = this.isSelected(this.dragging) ? [...this.selected()] : [this.dragging];
    this.movedBefore.emit({ moving, before: this.dropAt() });
    this.dragging = null;
    this.dropAt.set(null);
  }

  private next(masterId: string): string | null {
    const masters = this.masters();
    return masters[masters.findIndex(({ id }) => id === masterId) + 1]?.id ?? null;
  }

  /** A band is drawn from between the cards. */
  protected pressed(event: PointerEvent): void {
    if (event.button !== 0 || (event.target as HTMLElement).closest('rd-master-card')) return;
    this.pressedAt = this.place(event);
    this.sheet().nativeElement.setPointerCapture(event.pointerId);
  }

  protected moved(event: PointerEvent): void {
    if (!this.pressedAt) return;
    const area = band(this.pressedAt, this.place(event));
    if (area.width + area.height < 6) return;
    this.rubber.set(area);
    this.selectionMade.emit(inBand(area, this.grid(), this.masters().length).flatMap((at) => this.masters()[at]?.id ?? []));
  }

  protected released(): void {
    if (this.pressedAt && !this.rubber()) this.selectionMade.emit([]); // a click beside all pictures
    this.pressedAt = null;
    this.rubber.set(null);
  }

  private place(event: PointerEvent): { x: number; y: number } {
    const { left, top } = this.sheet().nativeElement.getBoundingClientRect();
    return { x: event.clientX - left, y: event.clientY - top };
  }
}
