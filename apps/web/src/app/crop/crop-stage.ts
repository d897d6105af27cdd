import { ChangeDetectionStrategy, Component, computed, type ElementRef, input, output, signal, viewChild, effect } from '@angular/core';
import {
  boxAround,
  draggedWithin,
  figure,
  type Grip,
  levelling,
  onTurnedPicture,
  type PixelSize,
  type Ratio,
  type Rectangle,
  type View,
} from '@rundle/core';
import { dragging } from '../bench/dragging';

const GRIPS: readonly (Grip & { name: string })[] = [
  { x: -1, y: -1, name: 'nw' },
  { x: 0, y: -1, name: 'n' },
  { x: 1, y: -1, name: 'ne' },
  { x: -1, y: 0, name: 'w' },
  { x: 1, y: 0, name: 'e' },
  { x: -1, y: 1, name: 'sw' },
  { x: 0, y: 1, name: 's' },
  { x: 1, y: 1, name: 'se' },
];
const INSIDE: Grip = { x: 0, y: 0 };
/** Room around the picture, CSS px, for the lengths along the frame. */
const ROOM = 34;

/** A picture as it is turned, and the frame on it, which stands straight; its lengths are written along it as on a drawing. */
@Component({
  selector: 'rd-crop-stage',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div #stage class="stage" [class.levelling]="isLevelling()" (pointerdown)="begin($event)">
      @if (layout(); as at) {
        <div class="picture" [style.width.px]="at.width" [style.height.px]="at.height">
          <img draggable="false" [src]="source()" [alt]="alt()" [style.transform]="'rotate(' + view().angle + 'deg)'" />
          @if (bounds(); as own) {
            <div
              class="own"
              [style.left.px]="own.left"
              [style.top.px]="own.top"
              [style.width.px]="own.width"
              [style.height.px]="own.height"
            ></div>
          }
          <div
            class="frame"
            [class.proposed]="isProposed()"
            [style.left.px]="at.frame.left"
            [style.top.px]="at.frame.top"
            [style.width.px]="at.frame.width"
            [style.height.px]="at.frame.height"
          >
            <button #inside type="button" class="inside" [attr.aria-label]="spoken()" (pointerdown)="drag($event, all)"></button>
            <span class="length across figures" aria-hidden="true"><i></i>{{ px(view().width) }}<i></i></span>
            <span class="length down figures" aria-hidden="true"><i></i>{{ px(view().height) }}<i></i></span>
            @for (grip of grips; track grip.name) {
              <span [class]="'grip ' + grip.name" (pointerdown)="drag($event, grip)"></span>
            }
          </div>
        </div>
      }
      @if (line(); as drawn) {
        <svg><line [attr.x1]="drawn.x" [attr.y1]="drawn.y" [attr.x2]="drawn.x + drawn.dx" [attr.y2]="drawn.y + drawn.dy" /></svg>
      }
    </div>
  `,
  styleUrl: './crop-stage.less',
})
export class CropStage {
  readonly picture = input.required<PixelSize>();
  readonly view = input.required<View>();
  readonly ratio = input.required<Ratio | null>();
  /** What the frame may not leave, where that is less than the picture. */
  readonly own = input<View | null>(null);
  readonly source = input.required<string>();
  readonly alt = input('');
  readonly isProposed = input(false);
  /** Whether a line is to be drawn that shall be level. */
  readonly isLevelling = input(false);
  readonly moving = output<View>();
  readonly moved = output<View>();
  /** By how many degrees the picture is to be turned clockwise. */
  readonly levelled = output<number>();
  protected readonly grips = GRIPS;
  protected readonly all = INSIDE;
  private readonly stage = viewChild.required<ElementRef<HTMLElement>>('stage');
  private readonly inside = viewChild<ElementRef<HTMLElement>>('inside');
  private readonly room = signal<PixelSize>({ width: 0, height: 0 });
  protected readonly line = signal<{ x: number; y: number; dx: number; dy: number } | null>(null);

  /** CSS px to a px of the picture. */
  readonly scale = computed(() => {
    const [box, room] = [boxAround(this.picture(), this.view().angle), this.room()];
    return Math.max(0, Math.min((room.width - 2 * ROOM) / box.width, (room.height - 2 * ROOM) / box.height));
  });
  protected readonly layout = computed(() => {
    const [{ width, height }, scale] = [this.picture(), this.scale()];
    return scale > 0 ? { width: width * scale, height: height * scale, frame: this.boxOf(this.view()) } : null;
  });
  protected readonly bounds = computed(() => {
    const own = this.own();
    return own && this.boxOf(own);
  });
  protected readonly spoken = computed(
    () =>
      `The frame, ${this.px(this.view().width)} by ${this.px(this.view().height)}: arrow keys move it by a pixel, with Shift by ten; with Alt they change its size`,
  );

  constructor() {
    effect((onCleanup) => {
      const element = this.stage().nativeElement;
      const watch = new ResizeObserver(() => this.room.set({ width: element.clientWidth, height: element.clientHeight }));
      watch.observe(element);
      onCleanup(() => watch.disconnect());
    });
  }

  focus(): void {
    this.inside()?.nativeElement.focus();
  }

  protected px = (length: number): string => `${figure(length)} px`;

  private boxOf(view: View): Rectangle {
    const scale = this.scale();
    const { left, top, width, height } = onTurnedPicture(view, this.picture());
    return { left: left * scale, top: top * scale, width: width * scale, height: height * scale };
  }

  protected drag(event: PointerEvent, grip: Grip): void {
    if (event.button !== 0 || this.isLevelling()) return;
    event.preventDefault();
    event.stopPropagation();
    this.focus();
    const [from, scale] = [this.view(), this.scale()];
    let last = from;
    dragging(
      event,
      (dx, dy) => {
        last = this.dragged(from, grip, { x: dx / scale, y: dy / scale });
        this.moving.emit(last);
      },
      () => last !== from && this.moved.emit(last),
    );
  }

  /** The frame after a part of it was dragged by some px of the picture. */
  dragged(from: View, grip: Grip, by: { x: number; y: number }): View {
    return draggedWithin(this.picture(), this.own(), from, grip, by, this.ratio());
  }

  protected begin(event: PointerEvent): void {
    if (!this.isLevelling() || event.button !== 0) return;
    event.preventDefault();
    const corner = this.stage().nativeElement.getBoundingClientRect();
    const from = { x: event.clientX - corner.left, y: event.clientY - corner.top };
    dragging(
      event,
      (dx, dy) => this.line.set({ ...from, dx, dy }),
      () => {
        const drawn = this.line();
        this.line.set(null);
        if (drawn && Math.hypot(drawn.dx, drawn.dy) > 20) this.levelled.emit(levelling({ x: drawn.dx, y: drawn.dy }));
      },
    );
  }
}
