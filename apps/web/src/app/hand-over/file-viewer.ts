import {
  afterNextRender,
  ChangeDetectionStrategy,
  Component,
  computed,
  ElementRef,
  inject,
  input,
  model,
  output,
  signal,
  viewChild,
} from '@angular/core';
import { RouterLink } from '@angular/router';
import type { MarkChange, Master, OutputOf } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { outputThumbnailUrl, outputUrl } from '../api/api';
import { dragging } from '../bench/dragging';
import { commandFor } from '../gather/keys';
import { MarksBar } from '../gather/marks-bar';
import { AwaitedPicture } from '../look/awaited-picture';
import { WeightPipe } from '../look/figures';
import { FileName } from '../look/file-name';
import { KeyHelp } from '../look/key-help';
import { takesKeys } from '../look/takes-keys';
import { TurnButtons } from '../look/turn-buttons';
import { ViewChoices } from '../look/view-choices';
import { PictureTone } from '../tone/picture-tone';
import type { DeliverableOutput, OutputColumn } from './hand-over.store';

interface ViewerRow {
  master: Master;
  /** By the columns; null: it made nothing of this picture. */
  outputs: readonly (DeliverableOutput | null)[];
}

/** Types that browsers show; of others the small picture is shown. */
const SHOWN = /\.(?:jpe?g|png|webp|avif)$/i;

/** Keys, what they do, and whether they are letters, digits or signs by themselves. */
const KEYS: readonly (readonly [keys: string, what: string, isSingle: boolean])[] = [
  ['←  →', 'the picture before, the next one', false],
  ['↑  ↓', 'the preset before, the next one', false],
  ['Z', '100 %, the whole picture', true],
  ['0 – 5', 'stars', true],
  ['+  −', 'pick, leave out', true],
  ['T', 'tag', true],
  [',  .', 'darker, brighter', true],
  ['Esc', 'back to all', false],
  ['?', 'these keys', true],
];

/** Files that came out, large: whole or pixel for pixel, one after the other and preset by preset, in the same place. */
@Component({
  selector: 'rd-file-viewer',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [AwaitedPicture, NzButtonModule, PictureTone, RouterLink, WeightPipe, TurnButtons, FileName, KeyHelp, MarksBar],
  host: { '(document:keydown)': 'key($event)' },
  template: `
    <div class="bar">
      <button #back nz-button nzSize="small" type="button" title="Esc" (click)="at.set(null)">Back to all</button>
      <rd-turn-buttons
        what="Picture"
        role="group"
        aria-label="Picture"
        [keys]="pictureKeys"
        [isFirst]="row() === 0"
        [isLast]="row() === rows().length - 1"
        (turned)="turn($event, 0)"
      >
        <span class="of figures">{{ row() + 1 }} of {{ rows().length }}</span>
      </rd-turn-buttons>
      <rd-turn-buttons
        what="Preset"
        role="group"
        aria-label="Preset"
        [keys]="presetKeys"
        [isFirst]="column() === 0"
        [isLast]="column() === columns().length - 1"
        (turned)="turn(0, $event)"
      >
        <span class="of">{{ columns()[column()]?.title }}</span>
      </rd-turn-buttons>
      <button
        nz-button
        nzSize="small"
        type="button"
        title="The key Z, or a click on the picture"
        [attr.aria-pressed]="isPixels()"
        (click)="isPixels.set(!isPixels())"
      >
        100 %
      </button>
      @if (master(); as picture) {
        <a nz-button nzSize="small" routerLink="../crop" [queryParams]="{ picture: picture.id, from: 'hand-over' }">Crop</a>
        <rd-picture-tone [master]="picture" (decided)="retone(picture.id)" />
      }
      @if (file(); as one) {
        <strong class="name"><rd-file-name [name]="one.fileName" /></strong>
        <span class="soft figures"
          >{{ one.width }} × {{ one.height }}, {{ one.bytes | weight }}{{ one.quality === null ? '' : ', quality ' + one.quality }}</span
        >
      }
    </div>
    <div class="bar">
      @if (master(); as picture) {
        <rd-marks-bar
          [masters]="[picture]"
          [tags]="tags()"
          (mark)="marked.emit({ masterId: picture.id, change: $event })"
          (done)="backToPicture()"
        />
      }
      <button nz-button nzSize="small" type="button" class="keys" title="The key ?" (click)="help().toggle()">Keys</button>
    </div>
    <div #stage class="stage" [class.whole]="!isPixels()" (pointerdown)="drag($event)" (wheel)="wheeled($event)">
      @if (file(); as one) {
        @if (isShown()) {
          <img
            [rdAwaited]="link(one.id)"
            #picture="rdAwaited"
            [alt]="one.fileName"
            [style.width]="width()"
            [style.transform]="moved()"
            draggable="false"
          />
          @if (picture.hasFailed()) {
            <span class="label">This file could not be shown. Come back to it in a moment.</span>
          } @else if (!picture.isThere()) {
            <span class="label">Being loaded …</span>
          }
        } @else {
          <img [rdAwaited]="thumbnail(one.id)" [alt]="one.fileName" draggable="false" />
          <span class="label">Browsers do not show this file type: this is a small picture of it.</span>
        }
      } @else {
        <p class="label">{{ columns()[column()]?.title }} made nothing of this picture.</p>
      }
      <rd-key-help [keys]="keys()" />
      @if (file() && retoned().has(master()?.id ?? '')) {
        <p class="label" role="status">Its tone has changed: this is the file from before, and the next run makes it anew.</p>
      }
    </div>
  `,
  styleUrl: './file-viewer.less',
})
export class FileViewer {
  readonly rows = input.required<readonly ViewerRow[]>();
  readonly columns = input.required<readonly OutputColumn[]>();
  readonly at = model.required<OutputOf | null>();
  /** All tags of the set, to choose from. */
  readonly tags = input.required<readonly string[]>();
  readonly marked = output<{ masterId: string; change: MarkChange }>();
  private readonly view = inject(ViewChoices);
  private readonly back = viewChild.required<unknown, ElementRef<HTMLElement>>('back', { read: ElementRef });
  private readonly marksBar = viewChild(MarksBar);
  protected readonly help = viewChild.required(KeyHelp);
  private readonly stage = viewChild.required<ElementRef<HTMLElement>>('stage');

  protected readonly pictureKeys = ['Arrow left', 'arrow right'] as const;
  /** Those that hold now. */
  protected readonly keys = computed(() =>
    (this.view.singleKeys() ? KEYS : KEYS.filter(([, , isSingle]) => !isSingle)).map(([key, what]) => [key, what] as const),
  );
  protected readonly presetKeys = ['Arrow up', 'arrow down'] as const;
  protected readonly link = outputUrl;
  protected readonly thumbnail = outputThumbnailUrl;
  protected readonly isPixels = signal(false);
  /** Pictures whose tone was decided while their files were looked at. */
  protected readonly retoned = signal<ReadonlySet<string>>(new Set());
  /** How far the picture is moved from the middle, CSS px; it stays from picture to picture. */
  private readonly offset = signal({ x: 0, y: 0 });

  protected readonly row = computed(() =>
    Math.max(
      0,
      this.rows().findIndex(({ master }) => master.id === this.at()?.masterId),
    ),
  );
  protected readonly column = computed(() =>
    Math.max(
      0,
      this.columns().findIndex(({ presetId, part }) => presetId === this.at()?.presetId && part === this.at()?.part),
    ),
  );
  protected readonly master = computed(() => this.rows()[this.row()]?.master ?? null);
  protected readonly file = computed(() => this.rows()[this.row()]?.outputs[this.column()] ?? null);
  protected readonly isShown = computed(() => SHOWN.test(this.file()?.fileName ?? ''));
  /** Pixel for pixel of the screen, whatever its density. */
  protected readonly width = computed(() => (this.isPixels() ? `${(this.file()?.width ?? 0) / devicePixelRatio}px` : null));
  protected readonly moved = computed(() => {
    const { x, y } = this.offset();
    return this.isPixels() ? `translate(${x}px, ${y}px)` : null;
  });

  constructor() {
    afterNextRender(() => this.back().nativeElement.focus());
  }

  protected backToPicture(): void {
    this.back().nativeElement.focus();
  }

  protected retone(masterId: string): void {
    this.retoned.update((all) => new Set(all).add(masterId));
  }

  protected turn(rows: number, columns: number): void {
    const row = this.rows()[this.row() + rows];
    const column = this.columns()[this.column() + columns];
    if (row && column) this.at.set({ masterId: row.master.id, presetId: column.presetId, part: column.part });
  }

  protected drag(event: PointerEvent): void {
    const start = this.offset();
    let wasDragged = false;
    dragging(
      event,
      (dx, dy) => {
        if (Math.abs(dx) + Math.abs(dy) > 3) wasDragged = true;
        if (this.isPixels()) this.offset.set(this.within({ x: start.x + dx, y: start.y + dy }));
      },
      () => {
        if (!wasDragged) this.isPixels.set(!this.isPixels());
      },
    );
  }

  protected wheeled(event: WheelEvent): void {
    if (!this.isPixels()) return;
    event.preventDefault();
    const { x, y } = this.offset();
    this.offset.set(this.within({ x: x - event.deltaX, y: y - event.deltaY }));
  }

  protected key(event: KeyboardEvent): void {
    if (takesKeys(event.target) || event.ctrlKey || event.metaKey || event.altKey) return;
    const done = this.act(event);
    if (done) event.preventDefault();
  }

  private act(event: KeyboardEvent): boolean {
    const { key } = event;
    const master = this.master();
    if (key === 'Escape') return this.does(() => this.at.set(null));
    if (key === 'ArrowLeft' || key === 'ArrowRight') return this.does(() => this.turn(key === 'ArrowLeft' ? -1 : 1, 0));
    if (key === 'ArrowUp' || key === 'ArrowDown') return this.does(() => this.turn(0, key === 'ArrowUp' ? -1 : 1));
    if (!this.view.singleKeys()) return false;
    if (key.toLowerCase() === 'z') return this.does(() => this.isPixels.set(!this.isPixels()));
    const command = commandFor(event);
    if (!master || !command) return false;
    if (command.do === 'help') return this.does(() => this.help().toggle());
    if (command.do === 'tag') return this.does(() => this.marksBar()?.focus());
    if (command.do === 'mark') return this.does(() => this.marked.emit({ masterId: master.id, change: command.change }));
    if (command.do !== 'toggle-choice') return false;
    const choice = master.choice === command.choice ? null : command.choice;
    return this.does(() => this.marked.emit({ masterId: master.id, change: { kind: 'choice', choice } }));
  }

  private does(act: () => void): true {
    act();
    return true;
  }

  /** No farther than that an edge of the picture comes to the middle. */
  private within({ x, y }: { x: number; y: number }): { x: number; y: number } {
    const file = this.file();
    const { clientWidth, clientHeight } = this.stage().nativeElement;
    const room = (pixels: number, most: number) => Math.max(0, (pixels / devicePixelRatio - most) / 2 + 40);
    const [w, h] = [room(file?.width ?? 0, clientWidth), room(file?.height ?? 0, clientHeight)];
    return { x: Math.min(w, Math.max(-w, x)), y: Math.min(h, Math.max(-h, y)) };
  }
}
