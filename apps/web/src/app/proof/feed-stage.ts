import { ChangeDetectionStrategy, Component, computed, DestroyRef, ElementRef, inject, input, signal, viewChild } from '@angular/core';
import { addressOf, DIFFERENCE_FACTOR, FEED_SIDES, type FeedSide, type FeedTrip } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { dragging } from '../bench/dragging';
import { AwaitedPicture } from '../look/awaited-picture';
import { takesKeys } from '../look/takes-keys';
import { ViewChoices } from '../look/view-choices';
import { moveByKeys } from './move-by-keys';
import { ProofChoice } from './proof-choice';

const NAMES: Record<FeedSide, string> = { before: 'Before', after: 'After', difference: 'Difference' };
const WORDS: Record<FeedSide, string> = {
  before: 'Before the feed: the preset’s own file at the size that is shown',
  after: 'After the feed: what it shows',
  difference: `What the feed has changed, drawn ${DIFFERENCE_FACTOR} times as strong`,
};

/** What was sent to a feed and what it shows, one over the other at 1:1. */
@Component({
  selector: 'rd-feed-stage',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzButtonModule, AwaitedPicture],
  host: { '(document:keydown)': 'key($event)' },
  template: `
    <div
      #stage
      class="stage"
      tabindex="0"
      role="group"
      aria-label="The picture; arrow keys move it, the key X flips it"
      (pointerdown)="press($event)"
      (keydown)="stageKey($event)"
    >
      @if (trip(); as one) {
        @for (kind of sides; track kind) {
          <img
            draggable="false"
            [class]="kind"
            [class.away]="kind !== side()"
            [rdAwaited]="addressOfSide(one, kind)"
            [alt]="words[kind]"
            [style.width.px]="place()?.width"
            [style.height.px]="place()?.height"
            [style.left.px]="place()?.left"
            [style.top.px]="place()?.top"
          />
        }
        <span class="label">{{ words[side()] }}</span>
      } @else {
        <span class="label">On its way …</span>
      }
    </div>
    <div class="turn" role="group" aria-label="What is shown">
      @for (kind of sides; track kind) {
        <button nz-button nzSize="small" type="button" [attr.aria-pressed]="kind === side()" (click)="side.set(kind)">
          {{ names[kind] }}
        </button>
      }
      <span class="soft">X flips before and after. One pixel of the picture is one of the screen.</span>
    </div>
  `,
  styleUrls: ['./stage.less', './feed-stage.less'],
})
export class FeedStage {
  readonly trip = input.required<FeedTrip | null>();
  private readonly choice = inject(ProofChoice);
  private readonly view = inject(ViewChoices);
  private readonly stage = viewChild.required<ElementRef<HTMLElement>>('stage');
  protected readonly sides = FEED_SIDES;
  protected readonly names = NAMES;
  protected readonly words = WORDS;
  protected readonly side = signal<FeedSide>('after');
  private readonly room = signal({ left: 0, top: 0, width: 0, height: 0, density: 1 });
  /** Where the picture lies, CSS px: its pixels on those of the screen, the place that is judged in the middle, no gap where it could be filled. */
  protected readonly place = computed(() => {
    const [trip, room] = [this.trip(), this.room()];
    if (!trip) return null;
    const [width, height] = [trip.shown.width / room.density, trip.shown.height / room.density];
    const { x, y } = this.choice.centre();
    const along = (from: number, length: number, share: number, whole: number) => {
      const free = length - whole;
      const at = free >= 0 ? free / 2 : Math.min(0, Math.max(free, length / 2 - share * whole));
      return Math.round((from + at) * room.density) / room.density - from;
    };
    return { width, height, left: along(room.left, room.width, x, width), top: along(room.top, room.height, y, height) };
  });

  constructor() {
    const host = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
    const observer = new ResizeObserver(() => {
      const { left, top, width, height } = this.stage().nativeElement.getBoundingClientRect();
      this.room.set({ left, top, width, height, density: devicePixelRatio });
    });
    observer.observe(host);
    inject(DestroyRef).onDestroy(() => observer.disconnect());
  }

  protected addressOfSide({ id }: FeedTrip, side: FeedSide): string {
    return addressOf('getFeedPicture', { tripId: id, query: { side } });
  }

  protected press(event: PointerEvent): void {
    if (event.button !== 0) return;
    (event.currentTarget as HTMLElement).focus();
    const from = this.choice.centre();
    dragging(event, (dx, dy) => this.goFrom(from, dx, dy));
    event.preventDefault();
  }

  protected stageKey(event: KeyboardEvent): void {
    moveByKeys(event, (dx, dy) => this.goFrom(this.choice.centre(), dx, dy));
  }

  protected key({ key, target, ctrlKey, metaKey, altKey, repeat }: KeyboardEvent): void {
    if (ctrlKey || metaKey || altKey || repeat || !this.view.singleKeys() || key.toLowerCase() !== 'x') return;
    if (takesKeys(target)) return;
    this.side.update((side) => (side === 'before' ? 'after' : 'before'));
  }

  /** Moves what is seen by so many CSS px, never beyond the picture. */
  private goFrom(from: { x: number; y: number }, dx: number, dy: number): void {
    const [place, room] = [this.place(), this.room()];
    if (!place) return;
    const hold = (share: number, by: number, whole: number, length: number) => {
      const half = Math.min(0.5, length / 2 / whole);
      return Math.min(1 - half, Math.max(half, share - by / whole));
    };
    this.choice.centre.set({ x: hold(from.x, dx, place.width, room.width), y: hold(from.y, dy, place.height, room.height) });
  }
}
