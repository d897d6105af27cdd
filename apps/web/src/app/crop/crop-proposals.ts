import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal } from '@angular/core';
import { boxAround, type CutBy, draggedWithin, onTurnedPicture, ratioFor, type Rectangle, type View, viewOf } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { thumbnailUrl } from '../api/api';
import { dragging } from '../bench/dragging';
import { counted } from '../look/figures';
import { CropChoice, type Croppable, type Purpose, viewFor } from './crop-choice';

/** Longest edge of a picture here, CSS px. */
const EDGE = 216;
/** How far an arrow key moves a frame, CSS px. */
const STEP = 4;

interface Card {
  master: Croppable;
  view: View;
  by: string;
  /** Whether nobody has decided it. */
  isOpen: boolean;
  scale: number;
  width: number;
  height: number;
  frame: Rectangle;
}

/** Where each picture is cut to a ratio, all at once: moved where they stand, and taken as they are by one press. */
@Component({
  selector: 'rd-crop-proposals',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzButtonModule],
  template: `
    <div class="bar">
      <p aria-live="polite">{{ sentence() }}</p>
      @if (open().length) {
        <button nz-button nzType="primary" (click)="choice.accept(purpose(), open())">
          {{ open().length === 1 ? 'Accept this one' : 'Accept all ' + open().length }}
        </button>
      }
    </div>
    <ul>
      @for (card of cards(); track card.master.id) {
        <li [class.open]="card.isOpen">
          <div class="room">
            <div class="picture" [style.width.px]="card.width" [style.height.px]="card.height">
              <img
                draggable="false"
                loading="lazy"
                alt=""
                [src]="link(card.master)"
                [style.transform]="'rotate(' + card.view.angle + 'deg)'"
              />
              <button
                type="button"
                [attr.aria-label]="card.master.fileName + ', ' + card.by + ': arrow keys move the crop'"
                [style.left.px]="card.frame.left"
                [style.top.px]="card.frame.top"
                [style.width.px]="card.frame.width"
                [style.height.px]="card.frame.height"
                (pointerdown)="drag($event, card)"
                (keydown)="key($event, card)"
              ></button>
            </div>
          </div>
          <p class="about">
            <button type="button" class="name" [title]="'Crop ' + card.master.fileName + ' large'" (click)="opened.emit(card.master.id)">
              {{ card.master.fileName }}
            </button>
            <span class="by">{{ card.by }}</span>
          </p>
        </li>
      }
    </ul>
  `,
  styleUrl: './crop-proposals.less',
})
export class CropProposals {
  readonly purpose = input.required<Extract<Purpose, { kind: 'ratio' }>>();
  /** Shows one large. */
  readonly opened = output<string>();
  protected readonly choice = inject(CropChoice);
  protected readonly link = thumbnailUrl;
  /** The frame that is being moved. */
  private readonly tried = signal<{ masterId: string; view: View } | null>(null);

  private readonly pictures = computed(() =>
    this.choice.mastersFor(this.purpose()).map((master) => ({ master, ...viewFor(master, this.purpose()) })),
  );
  /** Those whose place nobody has decided. */
  protected readonly open = computed(() => this.pictures().flatMap(({ master, cutBy }) => (cutBy === 'proposed' ? [master] : [])));
  protected readonly sentence = computed(() => {
    const all = this.pictures();
    const of = (by: string) => all.filter(({ cutBy }) => cutBy === by).length;
    const parts = [
      this.open().length ? `${counted(this.open().length, 'proposal')} to review` : 'No proposals left to review',
      of('middle') ? `${of('middle')} still being analysed` : '',
      of('placed') ? `${of('placed')} placed by hand` : '',
      of('focus') ? `${of('focus')} by ${of('focus') === 1 ? 'its' : 'their'} focus` : '',
      of('whole') ? `${of('whole')} of this ratio already` : '',
    ];
    return `${parts.filter(Boolean).join(', ')}.`;
  });
  protected readonly cards = computed((): Card[] => {
    const tried = this.tried();
    return this.pictures().map(({ master, view, cutBy }) =>
      cardOf(master, tried?.masterId === master.id ? tried.view : view, cutBy ?? 'whole'),
    );
  });

  protected drag(event: PointerEvent, { master, view, scale }: Card): void {
    if (event.button !== 0) return;
    event.preventDefault();
    event.stopPropagation();
    (event.currentTarget as HTMLElement).focus();
    dragging(
      event,
      (dx, dy) => this.tried.set({ masterId: master.id, view: this.moved(master, view, dx / scale, dy / scale) }),
      () => {
        const tried = this.tried();
        this.tried.set(null);
        if (tried) this.choice.placeFor(this.purpose(), master, tried.view);
      },
    );
  }

  protected key(event: KeyboardEvent, { master, view, scale }: Card): void {
    const by = { ArrowUp: [0, -STEP], ArrowDown: [0, STEP], ArrowLeft: [-STEP, 0], ArrowRight: [STEP, 0] }[event.key];
    if (!by || event.altKey || event.ctrlKey || event.metaKey) return;
    event.preventDefault();
    event.stopPropagation();
    this.choice.placeFor(this.purpose(), master, this.moved(master, view, by[0]! / scale, by[1]! / scale));
  }

  private moved({ facts, overrides }: Croppable, view: View, x: number, y: number): View {
    const own = viewOf(facts, overrides.crop);
    return draggedWithin(facts, own, view, { x: 0, y: 0 }, { x, y }, ratioFor(this.purpose().ratio, own));
  }
}

const WORDS: Readonly<Record<CutBy, string>> = {
  placed: 'placed',
  focus: 'by its focus',
  whole: 'nothing to crop',
  proposed: 'proposed',
  middle: 'being analysed …',
};

function cardOf(master: Croppable, view: View, cutBy: CutBy): Card {
  const { width, height } = master.facts;
  const box = boxAround(master.facts, view.angle);
  const scale = EDGE / Math.max(box.width, box.height);
  const at = onTurnedPicture(view, master.facts);
  const frame = { left: at.left * scale, top: at.top * scale, width: at.width * scale, height: at.height * scale };
  const isOpen = cutBy === 'proposed' || cutBy === 'middle';
  return { master, view, by: WORDS[cutBy], isOpen, scale, width: width * scale, height: height * scale, frame };
}
