import { ChangeDetectionStrategy, Component, computed, input, output, signal } from '@angular/core';
import { MARK_PLACES, nearestPlace, placeMark, type Preset, type Rectangle } from '@rundle/core';
import { dragging } from './dragging';

type Mark = NonNullable<Preset['mark']>;
type MarkPlace = Pick<Mark, 'place' | 'margin'>;

const STEP = 0.01;

/** The watermark's frame over the sample: dragged, place and margin follow it; its corner makes it larger or smaller. */
@Component({
  selector: 'rd-mark-handle',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @let box = frame();
    <button
      type="button"
      class="box"
      aria-label="Watermark: arrow keys move it to another place, plus and minus change its size"
      title="Drag it: its place and margin follow; its corner changes its size"
      [style.left.px]="box.left"
      [style.top.px]="box.top"
      [style.width.px]="box.width"
      [style.height.px]="box.height"
      (pointerdown)="begin($event, 'place')"
      (keydown)="key($event)"
    ></button>
    <span
      class="corner"
      [style.left.px]="box.left + box.width - 7"
      [style.top.px]="box.top + box.height - 7"
      (pointerdown)="begin($event, 'size')"
    ></span>
  `,
  styles: `
    :host {
      position: absolute;
      inset: 0;
      pointer-events: none;
    }
    .box {
      position: absolute;
      padding: 0;
      background: none;
      border: 1.5px dashed #fff;
      outline: 1px dashed rgb(0 0 0 / 60%);
      cursor: move;
      pointer-events: auto;
      touch-action: none;
      &:focus-visible {
        border-style: solid;
        outline: 2px solid var(--petrol);
      }
    }
    .corner {
      position: absolute;
      width: 14px;
      height: 14px;
      background: #fff;
      border: 2px solid var(--petrol);
      border-radius: 50%;
      cursor: nwse-resize;
      pointer-events: auto;
      touch-action: none;
    }
  `,
})
export class MarkHandle {
  readonly mark = input.required<Mark>();
  /** Where it lies in the output, px; the output's size and its border; the part that is shown, and CSS px to a px of it. */
  readonly lies = input.required<Rectangle>();
  readonly output = input.required<{ width: number; height: number }>();
  readonly border = input(0);
  readonly shown = input.required<Rectangle>();
  readonly scale = input.required<number>();
  readonly placed = output<MarkPlace>();
  readonly sized = output<number>();

  /** What it would become if it were let go now. */
  private readonly tried = signal<(MarkPlace & { size: number }) | null>(null);
  private readonly picture = computed(() => {
    const edge = 2 * this.border();
    return { width: this.output().width - edge, height: this.output().height - edge };
  });

  protected readonly frame = computed(() => {
    const tried = this.tried();
    const lies = tried ? this.at(tried) : this.lies();
    const { left, top } = this.shown();
    const scale = this.scale();
    return { left: (lies.left - left) * scale, top: (lies.top - top) * scale, width: lies.width * scale, height: lies.height * scale };
  });

  private at(mark: MarkPlace & { size: number }): Rectangle {
    const laid = placeMark(this.picture(), this.lies(), mark);
    return { ...laid, left: laid.left + this.border(), top: laid.top + this.border() };
  }

  protected begin(event: PointerEvent, what: 'place' | 'size'): void {
    event.preventDefault();
    event.stopPropagation();
    const { lies, mark } = { lies: this.lies(), mark: this.mark() };
    const { place, margin, size } = mark;
    const move = (dx: number, dy: number) => {
      const by = { x: dx / this.scale(), y: dy / this.scale() };
      const wanted = { left: lies.left - this.border() + by.x, top: lies.top - this.border() + by.y };
      this.tried.set(
        what === 'size' ? { place, margin, size: this.sizeBy(lies, by) } : { ...nearestPlace(this.picture(), lies, mark, wanted), size },
      );
    };
    dragging(event, move, () => {
      const tried = this.tried();
      if (tried && (tried.place !== place || tried.margin !== margin)) this.placed.emit({ place: tried.place, margin: tried.margin });
      if (tried && tried.size !== size) this.sized.emit(tried.size);
      this.tried.set(null);
    });
  }

  protected key(event: KeyboardEvent): void {
    const { place, margin, size } = this.mark();
    const [row, column] = [Math.floor(MARK_PLACES.indexOf(place) / 3), MARK_PLACES.indexOf(place) % 3];
    const by = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }[event.key];
    if (by) {
      const hold = (at: number) => Math.min(2, Math.max(0, at));
      this.placed.emit({ place: MARK_PLACES[3 * hold(row + by[0]!) + hold(column + by[1]!)]!, margin });
    } else if (event.key === '+' || event.key === '-') this.sized.emit(held(size + (event.key === '+' ? STEP : -STEP)));
    else return;
    event.preventDefault();
    event.stopPropagation();
  }

  private sizeBy({ width, height }: Rectangle, by: { x: number; y: number }): number {
    const grown = width >= height ? (width + by.x) / width : (height + by.y) / height;
    return held(this.mark().size * Math.max(0, grown));
  }
}

/** In whole hundredths, as far as a mark may be small or large. */
const held = (size: number): number => Math.min(1, Math.max(STEP, Math.round(size / STEP) * STEP));
