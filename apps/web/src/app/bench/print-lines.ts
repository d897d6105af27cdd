import { ChangeDetectionStrategy, Component, computed, input, output, signal } from '@angular/core';
import { lengthFromPixels, type Panel, type PanelsRung, type Rectangle } from '@rundle/core';
import { dragging } from './dragging';

/** What lies over a print, in px of the output. */
export interface PrintPieces {
  /** The picture inside the edges of a canvas; null: it has none. */
  inside: Rectangle | null;
  /** Panels of the undivided picture. */
  panels: readonly Panel[];
  /** Size of the undivided picture. */
  width: number;
  height: number;
}

/** A line between two panels that can be dragged. */
interface Line {
  axis: 'x' | 'y';
  /** How many panels lie before it. */
  before: number;
  at: number;
}

/** Lines over a print that are no part of its file: where the picture ends in the edges of a canvas, and where panels are cut. */
@Component({
  selector: 'rd-print-lines',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <svg aria-hidden="true">
      @if (pieces().inside; as inside) {
        @let box = onScreen(inside);
        <rect class="under" [attr.x]="box.left" [attr.y]="box.top" [attr.width]="box.width" [attr.height]="box.height" />
        <rect class="fold" [attr.x]="box.left" [attr.y]="box.top" [attr.width]="box.width" [attr.height]="box.height" />
      }
      @for (panel of pieces().panels; track $index) {
        @let box = onScreen(panel.rectangle);
        <rect class="under" [attr.x]="box.left" [attr.y]="box.top" [attr.width]="box.width" [attr.height]="box.height" />
        <rect class="panel" [attr.x]="box.left" [attr.y]="box.top" [attr.width]="box.width" [attr.height]="box.height" />
      }
    </svg>
    @for (line of lines(); track line.axis + line.before) {
      <button
        type="button"
        [class]="line.axis"
        [attr.aria-label]="(line.axis === 'x' ? 'Panels side by side' : 'Panels one below the other') + ': arrow keys move this line'"
        title="Drag it: the panels follow"
        [style.left.px]="line.axis === 'x' ? place(line) : null"
        [style.top.px]="line.axis === 'y' ? place(line) : null"
        (pointerdown)="begin($event, line)"
        (keydown)="key($event, line)"
      ></button>
    }
  `,
  styles: `
    :host {
      position: absolute;
      inset: 0;
      overflow: hidden;
      pointer-events: none;
    }
    svg {
      position: absolute;
      width: 100%;
      height: 100%;
    }
    rect {
      fill: none;
      stroke-width: 1;
    }
    .under {
      stroke: rgb(0 0 0 / 65%);
    }
    .fold {
      stroke: #fff;
      stroke-dasharray: 6 6;
    }
    .panel {
      stroke: #fff;
      stroke-dasharray: 2 3;
    }
    button {
      position: absolute;
      padding: 0;
      background: none;
      border: 0;
      pointer-events: auto;
      touch-action: none;
      &::after {
        position: absolute;
        background: #fff;
        border: 2px solid var(--petrol);
        border-radius: 8px;
        content: '';
      }
    }
    .x {
      top: 0;
      width: 16px;
      height: 100%;
      margin-left: -8px;
      cursor: ew-resize;
      &::after {
        top: calc(50% - 14px);
        left: 3px;
        width: 10px;
        height: 28px;
      }
    }
    .y {
      left: 0;
      width: 100%;
      height: 16px;
      margin-top: -8px;
      cursor: ns-resize;
      &::after {
        top: 3px;
        left: calc(50% - 14px);
        width: 28px;
        height: 10px;
      }
    }
  `,
})
export class PrintLines {
  readonly pieces = input.required<PrintPieces>();
  readonly rung = input.required<PanelsRung | null>();
  readonly ppi = input.required<number | null>();
  /** The part of the output that is shown, and CSS px to a px of it. */
  readonly shown = input.required<Rectangle>();
  readonly scale = input.required<number>();
  /** Whether the lines between panels can be dragged. */
  readonly isSetting = input(false);
  readonly changed = output<{ field: string; value: number }>();

  /** A line on its way, and where it is, px. */
  private readonly held = signal<{ line: Line; at: number } | null>(null);
  protected readonly lines = computed((): Line[] => {
    if (!this.isSetting()) return [];
    const { panels } = this.pieces();
    const rightOf = (panel: Panel): Line => ({ axis: 'x', before: panel.column, at: panel.rectangle.left + panel.rectangle.width });
    const below = (panel: Panel): Line => ({ axis: 'y', before: panel.row, at: panel.rectangle.top + panel.rectangle.height });
    const [columns, rows] = [Math.max(0, ...panels.map(({ column }) => column)), Math.max(0, ...panels.map(({ row }) => row))];
    // One panel is divided by a line at its far edge.
    const isInner = (at: number, most: number) => at < most || most === 1;
    return [
      ...panels.filter(({ row, column }) => row === 1 && isInner(column, columns)).map(rightOf),
      ...panels.filter(({ row, column }) => column === 1 && isInner(row, rows)).map(below),
    ];
  });

  protected onScreen({ left, top, width, height }: Rectangle): Rectangle {
    const [shown, scale] = [this.shown(), this.scale()];
    return { left: (left - shown.left) * scale, top: (top - shown.top) * scale, width: width * scale, height: height * scale };
  }

  protected place(line: Line): number {
    const held = this.held();
    const at = held && held.line.axis === line.axis && held.line.before === line.before ? held.at : line.at;
    return (at - (line.axis === 'x' ? this.shown().left : this.shown().top)) * this.scale();
  }

  protected begin(event: PointerEvent, line: Line): void {
    event.preventDefault();
    event.stopPropagation();
    dragging(
      event,
      (dx, dy) => this.held.set({ line, at: line.at + (line.axis === 'x' ? dx : dy) / this.scale() }),
      () => {
        const held = this.held();
        this.held.set(null);
        if (held) this.moveTo(line, held.at);
      },
    );
  }

  protected key(event: KeyboardEvent, line: Line): void {
    const by = { ArrowLeft: -1, ArrowUp: -1, ArrowRight: 1, ArrowDown: 1 }[event.key];
    if (!by) return;
    event.preventDefault();
    event.stopPropagation();
    const rung = this.rung();
    if (!rung) return;
    const count = line.axis === 'x' ? rung.columns : rung.rows;
    // A line to the left makes narrower panels, and so more of them.
    if (count !== null) this.emit(line.axis, count - by);
    else this.moveTo(line, line.at + by * line.before * this.length(rung, line.axis) * 0.05);
  }

  /** As many panels as come nearest to having their edge there; or panels so wide that it lies there. */
  private moveTo(line: Line, at: number): void {
    const rung = this.rung();
    if (!rung) return;
    const { width, height } = this.pieces();
    const side = line.axis === 'x' ? width : height;
    const count = line.axis === 'x' ? rung.columns : rung.rows;
    if (count !== null) return this.emit(line.axis, Math.round((line.before * side) / Math.max(1, at)));
    const px = this.length(rung, line.axis) + (at - line.at) / line.before;
    const value = lengthFromPixels(Math.max(1, px), rung.unit, this.ppi());
    this.changed.emit({ field: line.axis === 'x' ? 'panels.width' : 'panels.height', value });
  }

  private length(rung: PanelsRung, axis: Line['axis']): number {
    const first = this.pieces().panels[0]?.rectangle;
    return (axis === 'x' ? first?.width : first?.height) ?? (axis === 'x' ? rung.width : rung.height) ?? 1;
  }

  private emit(axis: Line['axis'], count: number): void {
    this.changed.emit({ field: axis === 'x' ? 'panels.columns' : 'panels.rows', value: Math.min(20, Math.max(1, count)) });
  }
}
