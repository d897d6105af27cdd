import { ChangeDetectionStrategy, Component, computed, input, output, signal } from '@angular/core';
import type { Focus, Rectangle } from '@rundle/core';
import { dragging } from './dragging';

/** Share of the picture that an arrow key moves it by. */
const STEP = 0.02;

/** What stays of a picture that is cut, as a frame over all of it, to be dragged to what matters. */
@Component({
  selector: 'rd-focus-frame',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @let box = frame();
    <button
      type="button"
      aria-label="What stays of the picture: arrow keys move it"
      [style.left.%]="100 * box.left"
      [style.top.%]="100 * box.top"
      [style.width.%]="100 * box.width"
      [style.height.%]="100 * box.height"
      (pointerdown)="begin($event)"
      (keydown)="key($event)"
    ></button>
  `,
  styles: `
    :host {
      position: absolute;
      inset: 0;
      overflow: hidden;
    }
    button {
      position: absolute;
      padding: 0;
      background: none;
      border: 2px solid #fff;
      outline: 3000px solid rgb(20 24 26 / 62%);
      cursor: move;
      touch-action: none;
      &:focus-visible {
        border-color: #7fd3e4;
      }
    }
  `,
})
export class FocusFrame {
  /** The part that stays, as shares of the picture. */
  readonly cut = input.required<Rectangle>();
  readonly moved = output<Focus>();

  private readonly tried = signal<Focus | null>(null);
  protected readonly frame = computed(() => {
    const [cut, tried] = [this.cut(), this.tried()];
    return tried ? { ...cut, left: tried.x - cut.width / 2, top: tried.y - cut.height / 2 } : cut;
  });

  protected begin(event: PointerEvent): void {
    event.preventDefault();
    event.stopPropagation();
    const whole = (event.currentTarget as HTMLElement).parentElement!.getBoundingClientRect();
    const from = this.centre();
    dragging(
      event,
      (dx, dy) => this.tried.set(this.held(from.x + dx / whole.width, from.y + dy / whole.height)),
      () => {
        const tried = this.tried();
        this.tried.set(null);
        if (tried) this.moved.emit(tried);
      },
    );
  }

  protected key(event: KeyboardEvent): void {
    const by = { ArrowUp: [0, -STEP], ArrowDown: [0, STEP], ArrowLeft: [-STEP, 0], ArrowRight: [STEP, 0] }[event.key];
    if (!by) return;
    event.preventDefault();
    event.stopPropagation();
    const { x, y } = this.centre();
    this.moved.emit(this.held(x + by[0]!, y + by[1]!));
  }

  private centre(): Focus {
    const { left, top, width, height } = this.cut();
    return { x: left + width / 2, y: top + height / 2 };
  }

  /** So far that the frame stays in the picture, in steps that say something. */
  private held(x: number, y: number): Focus {
    const { width, height } = this.cut();
    const within = (at: number, length: number) => Math.round(Math.min(1 - length / 2, Math.max(length / 2, at)) * 1000) / 1000;
    return { x: within(x, width), y: within(y, height) };
  }
}
