import {
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  effect,
  ElementRef,
  inject,
  input,
  linkedSignal,
  output,
  signal,
  untracked,
  viewChild,
} from '@angular/core';
import { FormsModule } from '@angular/forms';
import { RouterLink } from '@angular/router';
import {
  type Focus,
  inPicture,
  isOneFile,
  makingOf,
  partPreset,
  PIXEL_RUNGS,
  type PixelRung,
  type Preset,
  type Rectangle,
  type SampleOverlay,
} from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzIconModule } from 'ng-zorro-antd/icon';
import { NzSelectModule } from 'ng-zorro-antd/select';
import { thumbnailUrl } from '../api/api';
import { SampleApi } from '../api/sample';
import { fileKey } from '../look/asked';
import { Remarks } from '../look/remarks';
import { SelectName } from '../look/select-name';
import { spotsInWords } from '../look/spots-in-words';
import { takesKeys } from '../look/takes-keys';
import { ViewChoices } from '../look/view-choices';
import { dragging } from './dragging';
import { expectation, figuresOf } from './figures-of-sample';
import { FocusFrame } from './focus-frame';
import { FocusPoint } from './focus-point';
import { MarkHandle } from './mark-handle';
import { PartChoice } from './part-choice';
import { PrintLines } from './print-lines';
import { printPieces } from './print-pieces';
import { SampleChoice } from './sample-choice';
import { SampleLayer } from './sample-layer';
import { SampleSource } from './sample-source';

/** How a picture after a rung is called. */
const AFTER: Record<PixelRung, string> = {
  size: 'Sized, in its own colours',
  tone: 'With its tone',
  colour: 'In the colours of the output',
  sharpen: 'Sharpened',
  mark: 'Marked',
  print: 'With its edges and panels',
  file: 'The finished file',
};

const EXACT = 'pixel for pixel as in the file';
/** CSS pixels that an arrow key moves the picture by. */
const STEP = 80;

/** A picture of the photographer's own, as it is after the rung that is being set, at 1:1 or whole; under it what the file will be. */
@Component({
  selector: 'rd-live-sample',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [FormsModule, RouterLink, NzButtonModule, NzIconModule, NzSelectModule, Remarks, SelectName, MarkHandle, FocusFrame, PrintLines],
  providers: [FocusPoint],
  host: { '(document:keydown)': 'key($event)', '(document:keyup)': 'keyUp($event)', '(window:blur)': 'isBefore.set(false)' },
  templateUrl: './live-sample.html',
  styleUrl: './live-sample.less',
})
export class LiveSample {
  readonly preset = input.required<Preset>();
  /** The preset as it was saved last, to say what has changed. */
  readonly saved = input<Preset | null>(null);
  readonly rung = input<PixelRung>('file');
  /** A value that was set on the picture itself: its field and what it is now. */
  readonly changed = output<{ field: string; value: unknown }>();

  protected readonly source = inject(SampleSource);
  protected readonly choice = inject(SampleChoice);
  protected readonly focus = inject(FocusPoint);
  private readonly view = inject(ViewChoices);
  private readonly stage = viewChild<ElementRef<HTMLElement>>('stage');

  protected readonly isWhole = signal(false);
  protected readonly isBefore = signal(false);
  /** Whether a round part is shown as it is before the rung, and where in the picture it is, CSS px; null: not looked through. */
  protected readonly lens = signal<{ x: number; y: number } | null>(null);
  protected readonly overlay = signal<SampleOverlay | null>(null);
  private readonly wantsCut = signal(false);
  /** Whether what stays of the picture is being set: all of it is shown then, with a frame. */
  protected readonly isCutting = computed(() => this.wantsCut() && this.canCut());
  /** Which of its files is looked at. */
  protected readonly parts = new PartChoice(this.preset, this.choice.master);
  protected readonly canCut = computed(() => this.rung() === 'size' && this.parts.preset().size.fit === 'cover' && !this.isCopy());
  protected readonly isCopy = computed(() => this.preset().file.type === 'original');
  /** What lies in the middle of the stage, as shares of the picture. */
  private readonly centre = signal({ x: 0.5, y: 0.5 });
  private readonly room = signal<{ width: number; height: number } | null>(null);
  /** How far the picture has been dragged since the one that is shown was asked for, CSS px. */
  private readonly dragged = signal({ x: 0, y: 0 });
  protected readonly pixel = signal(1 / devicePixelRatio);

  protected readonly upTo = computed<PixelRung>(() => {
    const rung = this.rung();
    return this.isBefore() ? (PIXEL_RUNGS[PIXEL_RUNGS.indexOf(rung) - 1] ?? rung) : rung;
  });
  protected readonly heading = computed(() => AFTER[this.upTo()]);
  protected readonly hasBefore = computed(() => this.rung() !== 'size');
  /** A border, edges and panels move the picture, so that before and after would not lie over each other. */
  private readonly movesPicture = computed(() => {
    const { border, panels, canvas } = this.preset();
    return this.rung() === 'mark' ? border !== null : this.rung() === 'print' && (panels !== null || canvas !== null);
  });
  protected readonly canLens = computed(() => this.hasBefore() && !this.isCopy() && !this.movesPicture());
  protected readonly look = computed(() => {
    const [masterId, room] = [this.choice.masterId(), this.room()];
    if (!masterId || !room) return null;
    const size = { width: Math.round(room.width / this.pixel()), height: Math.round(room.height / this.pixel()) };
    const isCutting = this.isCutting();
    const view = this.isWhole() || isCutting ? { kind: 'whole' as const, within: size } : { kind: 'part' as const, ...this.centre(), size };
    return { masterId, preset: this.parts.preset(), upTo: this.upTo(), view, decided: this.focus.decided(), whole: isCutting };
  });
  private readonly draftKey = computed(() => {
    const masterId = this.choice.masterId();
    return masterId ? fileKey({ masterId, preset: this.parts.preset(), decided: this.focus.decided() }) : '';
  });
  private readonly savedPart = computed(() => {
    const saved = this.saved();
    return saved && partPreset(saved, this.parts.part());
  });
  private readonly savedKey = computed(() => {
    const [masterId, preset] = [this.choice.masterId(), this.savedPart()];
    return masterId && preset ? fileKey({ masterId, preset, decided: this.focus.decided() }) : '';
  });
  protected readonly figures = figuresOf({
    preset: this.preset,
    part: this.parts.part,
    saved: this.saved,
    master: this.choice.master,
    setTitle: this.choice.setTitle,
    place: this.choice.place,
    made: computed(() => this.source.figures().get(this.draftKey()) ?? null),
    madeBySaved: computed(() => (this.savedKey() === this.draftKey() ? null : (this.source.figures().get(this.savedKey()) ?? null))),
  });
  protected readonly truth = computed(() => {
    const [shown, match] = [this.source.shown(), this.source.match()];
    if (!shown || this.source.problem()) return '';
    if (match === 'other') return 'being made …';
    if (match === 'elsewhere') return 'the rest of it is being made …';
    if (shown.look.upTo !== 'file') return '';
    if (!isOneFile(shown.look.preset)) return 'all panels together';
    if (shown.facts.width < shown.facts.shown.width) return 'all of it, smaller than it is';
    const why = expectation(shown.facts.expected, shown.look.preset);
    return why || EXACT;
  });
  protected readonly isStale = computed(() => this.source.match() === 'other');
  /** It is what was asked for, pixel for pixel. */
  protected readonly isTrue = computed(() => this.truth() === EXACT);
  protected readonly picture = computed(() => {
    const shown = this.source.shown();
    if (!shown) return null;
    const { x, y } = this.dragged();
    const { facts, url, look } = shown;
    return {
      url,
      width: facts.width * this.pixel(),
      height: facts.height * this.pixel(),
      shift: `translate(${x}px, ${y}px)`,
      alt: this.isStale() ? 'being made' : `${this.choice.master()?.fileName ?? 'The picture'}: ${AFTER[look.upTo].toLowerCase()}`,
    };
  });
  protected readonly converted = computed(() => !this.isStale() && (this.source.shown()?.facts.converted ?? false));
  protected readonly thumbnail = thumbnailUrl;

  private readonly through = new SampleLayer(inject(SampleApi), inject(DestroyRef));
  private readonly marks = new SampleLayer(inject(SampleApi), inject(DestroyRef));
  /** Layers of the sample that is shown, as they lie over it. */
  protected readonly lensPicture = computed(() => this.ofShown(this.through));
  protected readonly marked = computed(() => this.ofShown(this.marks));
  protected readonly spots = computed(() => {
    const layer = this.marked();
    if (!layer || this.source.match() !== 'wanted') return '';
    const what = this.overlay() === 'halos' ? 'halos that sharpening draws' : 'colours that the space cannot hold';
    return spotsInWords(layer.facts, what);
  });
  /** Where the watermark can be taken hold of. */
  protected readonly handle = computed(() => {
    const [shown, mark] = [this.source.shown(), this.preset().mark];
    const lies = shown?.facts.mark;
    if (!shown || !mark || !lies || this.isStale() || this.rung() !== 'mark' || shown.look.upTo !== 'mark') return null;
    const { facts } = shown;
    const seen = facts.shown;
    const isOut =
      lies.left + lies.width < seen.left ||
      lies.top + lies.height < seen.top ||
      lies.left > seen.left + seen.width ||
      lies.top > seen.top + seen.height;
    return { mark, lies, output: facts.output, shown: seen, scale: (facts.width * this.pixel()) / seen.width, isOut };
  });
  /** Where the watermark is being set, the picture comes to it once. */
  private readonly comesToMark = linkedSignal<string, boolean>({
    source: () => `${this.rung()} ${this.preset().mark?.watermark} ${this.preset().mark?.place}`,
    computation: () => this.rung() === 'mark',
  });
  /** Lines over the print that is shown. */
  protected readonly print = computed(() => {
    const [shown, master] = [this.source.shown(), this.choice.master()];
    if (!shown || this.isStale() || master?.state !== 'ready') return null;
    return printPieces(shown, master, this.pixel());
  });
  /** The part of the picture that stays, as shares of it. */
  protected readonly cut = computed((): Rectangle | null => {
    const master = this.choice.master();
    if (!this.isCutting() || master?.state !== 'ready') return null;
    const { crop, scaled, view } = makingOf(master.facts, this.parts.preset(), null, master.overrides).geometry;
    if (!crop) return null;
    const { width, height } = master.facts;
    const used = view ?? { left: 0, top: 0, width, height, angle: 0 };
    const part = { width: (crop.width / scaled.width) * used.width, height: (crop.height / scaled.height) * used.height };
    const middle = {
      x: ((crop.left + crop.width / 2) / scaled.width) * used.width,
      y: ((crop.top + crop.height / 2) / scaled.height) * used.height,
    };
    const at = inPicture(used, middle);
    return {
      left: (at.x - part.width / 2) / width,
      top: (at.y - part.height / 2) / height,
      width: part.width / width,
      height: part.height / height,
    };
  });

  constructor() {
    effect(() => {
      const look = this.look();
      if (look) untracked(() => this.source.look(look));
    });
    effect(() => {
      const [masterId, saved] = [this.choice.masterId(), this.savedPart()];
      if (masterId && saved && this.savedKey() !== this.draftKey())
        untracked(() => this.source.compare(masterId, saved, this.focus.decided()));
    });
    effect(() => {
      this.source.shown();
      untracked(() => this.dragged.set({ x: 0, y: 0 }));
    });
    effect(() => {
      const shown = this.source.shown();
      const before = PIXEL_RUNGS[PIXEL_RUNGS.indexOf(this.rung()) - 1];
      const [lens, overlay] = [this.lens() !== null, this.overlay()];
      const look = shown?.look ?? null;
      const isSettled = look !== null && !look.whole && this.source.match() === 'wanted';
      this.through.want(isSettled && lens && before && this.canLens() ? { look, upTo: before, overlay: null } : null);
      this.marks.want(isSettled && overlay && !this.isCopy() ? { look, upTo: look.upTo, overlay } : null);
    });
    effect(() => {
      const [handle, comes] = [this.handle(), this.comesToMark()];
      if (!handle || !comes || this.isWhole()) return;
      const { lies, output, isOut } = handle;
      untracked(() => {
        this.comesToMark.set(false);
        if (isOut) this.centre.set({ x: (lies.left + lies.width / 2) / output.width, y: (lies.top + lies.height / 2) / output.height });
      });
    });
    const observer = new ResizeObserver(([entry]) => {
      const { width = 0, height = 0 } = entry?.contentRect ?? {};
      if (width > 40 && height > 40) this.room.set({ width: Math.floor(width), height: Math.floor(height) });
      this.pixel.set(1 / devicePixelRatio);
    });
    effect(() => {
      const stage = this.stage()?.nativeElement;
      if (stage) observer.observe(stage);
    });
    inject(DestroyRef).onDestroy(() => observer.disconnect());
  }

  private ofShown(layer: SampleLayer) {
    const [shown, over] = [this.source.shown(), layer.shown()];
    return shown && over && over.look === shown.look && !this.isStale() ? over : null;
  }

  /** Lines that are dragged count for the preset, and are seen over all of the picture. */
  /** It was dragged: its margin follows. */
  protected placeMark({ place, margin }: { place: string; margin: number }): void {
    this.changed.emit({ field: 'mark.place', value: place });
    this.changed.emit({ field: 'mark.margin', value: margin });
  }

  protected readonly setsPanels = computed(() => this.rung() === 'print' && this.isWhole());

  protected toggleLens(): void {
    // In the middle; where the picture has not come yet, of the room that it will have.
    const size = this.picture() ?? this.room();
    this.lens.update((lens) => (lens || !size || !this.canLens() ? null : { x: size.width / 2, y: size.height / 2 }));
  }

  protected toggleOverlay(overlay: SampleOverlay): void {
    this.overlay.update((before) => (before === overlay ? null : overlay));
  }

  protected toggleCut(): void {
    this.wantsCut.update((wants) => !wants);
  }

  protected moveLens(event: PointerEvent): void {
    if (!this.lens()) return;
    const frame = (event.currentTarget as HTMLElement).querySelector('.frame')?.getBoundingClientRect();
    if (frame) this.lens.set({ x: event.clientX - frame.left, y: event.clientY - frame.top });
  }

  protected placeFocus(focus: Focus | null): void {
    this.focus.set(focus);
  }

  protected drag(event: PointerEvent): void {
    if (event.button !== 0 || this.isWhole() || this.isCutting()) return;
    let last = { x: 0, y: 0 };
    dragging(event, (dx, dy) => {
      this.moveBy(dx - last.x, dy - last.y);
      last = { x: dx, y: dy };
    });
  }

  /** From the whole picture to the place that was pressed, at 1:1. */
  protected enlarge(event: MouseEvent): void {
    if (!this.isWhole() || this.isCutting() || this.handle()) return;
    const frame = (event.currentTarget as HTMLElement).querySelector('img')?.getBoundingClientRect();
    if (!frame) return;
    const share = (at: number, from: number, length: number) => Math.min(1, Math.max(0, (at - from) / length));
    this.centre.set({ x: share(event.clientX, frame.left, frame.width), y: share(event.clientY, frame.top, frame.height) });
    this.isWhole.set(false);
  }

  protected stageKey(event: KeyboardEvent): void {
    const by = { ArrowLeft: [STEP, 0], ArrowRight: [-STEP, 0], ArrowUp: [0, STEP], ArrowDown: [0, -STEP] }[event.key];
    if (!by || this.isWhole()) return;
    event.preventDefault();
    this.moveBy(by[0]!, by[1]!);
  }

  protected key(event: KeyboardEvent): void {
    if (!this.isOurs(event)) return;
    const place = Number(event.key);
    const letter = event.key.toLowerCase();
    if (letter === 'b') this.isBefore.set(this.hasBefore());
    else if (letter === 'w') this.isWhole.update((whole) => !whole);
    else if (letter === 'l') this.toggleLens();
    else if (letter === 'h') this.toggleOverlay('halos');
    else if (letter === 'o') this.toggleOverlay('gamut');
    else if (place >= 1 && place <= 5) {
      const master = this.choice.strip()[place - 1];
      if (master) this.choice.chooseMaster(master.id);
    } else if (event.key === 'PageDown') this.choice.turn(1);
    else if (event.key === 'PageUp') this.choice.turn(-1);
    else return;
    event.preventDefault();
  }

  protected keyUp(event: KeyboardEvent): void {
    if (event.key.toLowerCase() === 'b') this.isBefore.set(false);
  }

  private isOurs({ key, target, ctrlKey, metaKey, altKey, repeat }: KeyboardEvent): boolean {
    if (ctrlKey || metaKey || altKey || repeat) return false;
    if (takesKeys(target)) return false;
    return key.length > 1 || this.view.singleKeys();
  }

  /** @param dx CSS px to the right, @param dy down */
  private moveBy(dx: number, dy: number): void {
    const facts = this.source.shown()?.facts;
    if (!facts) return;
    const { output, shown } = facts;
    const scale = this.pixel();
    const hold = (value: number, least: number, most: number) => Math.min(most, Math.max(least, value));
    const before = this.centre();
    const half = { x: shown.width / 2 / output.width, y: shown.height / 2 / output.height };
    const next = {
      x: hold(before.x - dx / scale / output.width, Math.min(0.5, half.x), Math.max(0.5, 1 - half.x)),
      y: hold(before.y - dy / scale / output.height, Math.min(0.5, half.y), Math.max(0.5, 1 - half.y)),
    };
    this.dragged.update(({ x, y }) => ({
      x: x + (before.x - next.x) * output.width * scale,
      y: y + (before.y - next.y) * output.height * scale,
    }));
    this.centre.set(next);
  }
}
