import {
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  effect,
  type ElementRef,
  inject,
  signal,
  untracked,
  viewChild,
} from '@angular/core';
import { NgTemplateOutlet } from '@angular/common';
import { rxResource } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import {
  AXES,
  axisValues,
  DIFFERENCE_FACTOR,
  type PixelRung,
  type Preset,
  type SampleOverlay,
  type TileValues,
  partPreset,
  varied,
  withValues,
} from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzSelectModule } from 'ng-zorro-antd/select';
import { map, of, switchMap, timer } from 'rxjs';
import { SampleApi } from '../api/sample';
import { dragging } from '../bench/dragging';
import { unfinished } from '../look/asked';
import { SelectName } from '../look/select-name';
import { percentOf, spotsInWords } from '../look/spots-in-words';
import { takesKeys } from '../look/takes-keys';
import { TurnButtons } from '../look/turn-buttons';
import { ViewChoices } from '../look/view-choices';
import { AdoptBar } from './adopt-bar';
import { CloseSide, type ShownSide } from './close-side';
import { moveByKeys } from './move-by-keys';
import { ProofChoice } from './proof-choice';
import { SecondLook } from './second-look';
import { SideFigures } from './side-figures';

/** Something that a side can show. */
interface Showable {
  id: string;
  name: string;
  preset: Preset;
  upTo: PixelRung;
  /** Where it is the preset with another value, which it can get. */
  adoptable?: { values: TileValues; says: string };
}

const OVERLAYS: readonly { kind: SampleOverlay; name: string; what: string }[] = [
  { kind: 'gamut', name: 'Out of gamut', what: 'colours that the space of the output cannot hold' },
  { kind: 'highlights', name: 'Clipped highlights', what: 'highlights clipped in at least one channel' },
  { kind: 'shadows', name: 'Clipped shadows', what: 'shadows clipped in at least one channel' },
  { kind: 'halos', name: 'Halos', what: 'halos that sharpening draws' },
  { kind: 'banding', name: 'Bands', what: 'banding that compression has added' },
  { kind: 'blocks', name: 'Blocks', what: 'visible edges of JPEG blocks' },
  { kind: 'difference', name: 'Difference', what: `changed by compression, drawn ${DIFFERENCE_FACTOR} times as strong` },
];
const MAGNIFICATIONS = [1, 2, 4] as const;
/** So long a press on the picture has to last to show the other, ms; a shorter one begins to drag. */
const HOLD = 150;

/** Two pictures of one place, one over the other: flipped in place, or side by side, at 1:1 and more. */
@Component({
  selector: 'rd-look-closely',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [FormsModule, NgTemplateOutlet, NzButtonModule, NzSelectModule, AdoptBar, SecondLook, SelectName, SideFigures, TurnButtons],
  host: { '(document:keydown)': 'key($event)', '(window:blur)': 'isHeld.set(false)' },
  templateUrl: './look-closely.html',
  styleUrls: ['./proof-tools.less', './stage.less', './look-closely.less'],
})
export class LookClosely {
  protected readonly choice = inject(ProofChoice);
  private readonly view = inject(ViewChoices);
  private readonly stages = viewChild.required<ElementRef<HTMLElement>>('stages');

  /** What there is to look at: the master, the output, what earlier versions made, other presets. */
  protected readonly showables = computed((): Showable[] => {
    const [stored, preset, set] = [this.choice.stored(), this.choice.preset(), this.choice.set()];
    if (!stored || !preset) return [];
    const others = this.choice.presets().filter(({ id }) => id !== stored.id);
    return [
      { id: 'master', name: 'The master, as large as the output', ...unfinished({ ...preset, tone: null }) },
      { id: 'output', name: `The output of “${stored.preset.title}”`, preset, upTo: 'file' },
      ...axisValues('amount', preset)
        .filter((value) => value !== AXES.amount.of(preset))
        .map((value): Showable => {
          const [values, says] = [{ amount: value }, AXES.amount.says(value)];
          const name = value === 0 ? says : `Sharpened by ${value}`;
          return { id: `amount ${value}`, name, preset: withValues(preset, values), upTo: 'file', adoptable: { values, says } };
        }),
      ...this.choice.earlier().map((one): Showable => ({
        id: `version ${one.version}`,
        name: `Version ${one.version} of it`,
        preset: partPreset(one.preset, this.choice.part()),
        upTo: 'file',
      })),
      ...others.map((one): Showable => ({
        id: one.id,
        name: `“${one.preset.title}”`,
        preset: partPreset(varied(one.preset, set?.once[one.id]), ''),
        upTo: 'file',
      })),
    ];
  });
  protected readonly ids = signal<readonly [string, string]>(['output', 'master']);
  protected readonly front = computed(() => this.named(this.ids()[0], 'output'));
  protected readonly back = computed(() => this.named(this.ids()[1], 'master'));

  protected readonly leafKeys = ['Shift + N', 'the key N'] as const;
  protected readonly overlays = OVERLAYS;
  protected readonly overlay = signal<SampleOverlay | ''>('');
  protected readonly magnifications = MAGNIFICATIONS;
  protected readonly magnification = signal<(typeof MAGNIFICATIONS)[number]>(1);
  protected readonly isBeside = signal(false);
  /** Turned by the key; the mouse turns it for as long as it is held. */
  protected readonly isTurned = signal(false);
  protected readonly isHeld = signal(false);
  protected readonly showsBack = computed(() => this.isTurned() !== this.isHeld());
  /** Where the stages lie on the page, CSS px. */
  private readonly room = signal<{ left: number; top: number; width: number; height: number } | null>(null);
  protected readonly density = signal(devicePixelRatio);

  private readonly api = inject(SampleApi);
  private readonly sides = [0, 1].map(() => new CloseSide(this.api, inject(DestroyRef))) as [CloseSide, CloseSide];
  private readonly marks = new CloseSide(this.api, inject(DestroyRef));
  protected readonly layers = computed(() => {
    const [front, back] = this.sides.map((side, at) => this.placed(side.shown(), this.isBeside() ? at : 0));
    const marks = this.marks.match() === 'other' ? null : this.placed(this.marks.shown(), 0);
    return { front, back, marks };
  });
  protected readonly problem = computed(() => this.sides[0].problem() ?? this.sides[1].problem());
  /** What is on top is a value that the preset can get. */
  protected readonly adoptable = computed(() => (this.showsBack() ? this.back() : this.front())?.adoptable ?? null);
  private readonly onTop = computed(() => (this.showsBack() ? this.sides[1] : this.sides[0]));
  /** How each picture stands to what is wanted. */
  protected readonly matches = computed(() => {
    const [front, back] = this.sides.map(({ match }) => match());
    return { front, back };
  });
  /** What is said beside the name of a side whose picture is not the one that is named. */
  protected readonly awaited = computed(() => {
    const [front, back] = this.sides.map(({ match, problem }) => (match() === 'other' && !problem() ? ': being made …' : ''));
    return { front, back };
  });
  /** The files that both sides show a part of; null: that of the master. */
  protected readonly files = computed(() => {
    const master = this.choice.master();
    const [front, back] = [this.front(), this.back()].map((one) =>
      master && one?.upTo === 'file' ? { masterId: master.id, preset: one.preset, decided: JSON.stringify(master.overrides) } : null,
    );
    return { front: front ?? null, back: back ?? null };
  });
  /** What is on top is what its name says. */
  protected readonly isThere = computed(() => this.onTop().match() !== 'other');
  protected readonly truth = computed(() => {
    const side = this.onTop();
    const shown = side.shown();
    if (side.match() === 'other') return 'being made …';
    if (side.match() === 'elsewhere') return 'the rest of it is being made …';
    if (shown?.wish.upTo !== 'file') return '';
    return shown.facts.expected.length ? 'about right; the whole file is being made' : 'pixel for pixel as in the file';
  });
  protected readonly marked = computed(() => {
    const [shown, kind] = [this.marks.shown(), this.overlay()];
    const about = OVERLAYS.find((one) => one.kind === kind);
    if (!shown || !about) return '';
    if (this.marks.match() !== 'wanted') return 'the marks are being made …';
    return spotsInWords(shown.facts, about.what);
  });
  /** What is marked of the whole picture, not of the part that is seen; null: not asked for. */
  private readonly overAll = rxResource({
    params: () => {
      const [front, master, overlay] = [this.front(), this.choice.master(), this.overlay()];
      if (!front || !master || !overlay) return null;
      const decided = JSON.stringify(front.id === 'master' ? { ...master.overrides, tone: null } : master.overrides);
      return { masterId: master.id, preset: front.preset, decided, upTo: front.upTo, overlay };
    },
    stream: ({ params }) =>
      params === null
        ? of(null)
        : timer(WHOLE_REST_MS).pipe(
            switchMap(() => this.api.ask({ ...params, view: { kind: 'whole', within: { width: 64, height: 64 } }, finished: false })),
            map(({ facts }) => facts),
          ),
  });
  private readonly total = computed(() => (this.overAll.hasValue() && !this.overAll.isLoading() ? this.overAll.value() : null));
  /** @example "In the whole picture 0.4 %." */
  protected readonly totalInWords = computed(() => {
    if (!this.overlay() || this.overAll.error()) return '';
    const total = this.total();
    const spots = total?.spots ?? null;
    if (spots === null) return 'In the whole picture: being looked up …';
    return spots === 0 ? 'None in the whole picture.' : `In the whole picture ${percentOf(spots)}.`;
  });
  /** Where most of it lies together. */
  protected readonly worst = computed(() => this.total()?.worst ?? null);

  /** Device px of the screen for one of the file, in words. */
  protected readonly scale = computed(() => {
    const [by, density] = [this.magnification(), Math.round(this.density() * 100) / 100];
    const one = by === 1 ? 'One pixel of the file is one of the screen' : `One pixel of the file is ${by} × ${by} of the screen`;
    return density === 1 ? one : `${one}, whose scale is ${density}`;
  });

  constructor() {
    effect(() => {
      const [master, room, front, back] = [this.choice.master(), this.room(), this.front(), this.back()];
      if (!master || !room || !front || !back) return;
      const by = this.density() / this.magnification();
      const wide = this.isBeside() ? (room.width - GAP) / 2 : room.width;
      const size = { width: Math.max(1, Math.floor(wide * by)), height: Math.max(1, Math.floor(room.height * by)) };
      const view = { kind: 'part' as const, ...this.choice.centre(), size };
      const overlay = this.overlay() || null;
      // The master has no tone, neither that of the preset nor its own.
      const wish = ({ id, preset, upTo }: Showable) => {
        const decided = JSON.stringify(id === 'master' ? { ...master.overrides, tone: null } : master.overrides);
        return { masterId: master.id, preset, decided, upTo, view, overlay: null };
      };
      untracked(() => {
        this.sides[0].want(wish(front));
        this.sides[1].want(wish(back));
        this.marks.want(overlay && { ...wish(front), overlay });
      });
    });
    const observer = new ResizeObserver(() => {
      const { left, top, width, height } = this.stages().nativeElement.getBoundingClientRect();
      if (width > 40 && height > 40) this.room.set({ left, top, width, height });
      this.density.set(devicePixelRatio);
    });
    effect(() => observer.observe(this.stages().nativeElement));
    inject(DestroyRef).onDestroy(() => observer.disconnect());
  }

  private named(id: string, otherwise: string): Showable | null {
    const all = this.showables();
    return all.find((one) => one.id === id) ?? all.find((one) => one.id === otherwise) ?? null;
  }

  /**
   * Where a picture lies: in the middle of its stage, its pixels on those of the screen, moved by how far the place has gone on since it was asked for.
   * @param at the first or the second stage
   */
  private placed(side: ShownSide | null, at: number) {
    const room = this.room();
    if (!side || !room) return null;
    const { facts, url, wish } = side;
    const scale = this.magnification() / this.density();
    const { x, y } = this.choice.centre();
    const [width, height] = [facts.width * scale, facts.height * scale];
    const wide = this.isBeside() ? (room.width - GAP) / 2 : room.width;
    const onPixel = (from: number, by: number) => Math.round((from + by) * this.density()) / this.density() - from;
    const left = onPixel(room.left + at * (wide + GAP), (wide - width) / 2 + (wish.view.x - x) * facts.output.width * scale);
    const top = onPixel(room.top, (room.height - height) / 2 + (wish.view.y - y) * facts.output.height * scale);
    return { url, width, height, left, top };
  }

  protected choose(side: 0 | 1, id: string): void {
    this.choice.said.set('');
    this.ids.update(([front, back]) => (side === 0 ? [id, back] : [front, id]));
  }

  protected press(event: PointerEvent): void {
    if (event.button !== 0) return;
    (event.currentTarget as HTMLElement).focus();
    const from = this.choice.centre();
    let hasMoved = false;
    const holding = setTimeout(() => this.isHeld.set(!hasMoved && !this.isBeside()), HOLD);
    const end = () => {
      clearTimeout(holding);
      this.isHeld.set(false);
    };
    dragging(
      event,
      (dx, dy) => {
        hasMoved ||= Math.abs(dx) + Math.abs(dy) > 3;
        if (hasMoved) this.goFrom(from, dx, dy);
      },
      end,
    );
    event.preventDefault();
  }

  protected stageKey(event: KeyboardEvent): void {
    moveByKeys(event, (dx, dy) => this.goFrom(this.choice.centre(), dx, dy));
  }

  protected key(event: KeyboardEvent): void {
    const { key, target, ctrlKey, metaKey, altKey, repeat } = event;
    if (ctrlKey || metaKey || altKey || repeat || !this.view.singleKeys()) return;
    if (takesKeys(target)) return;
    const by = MAGNIFICATIONS.find((one) => String(one) === key);
    if (by) this.magnification.set(by);
    else if (key.toLowerCase() === 'x') this.isTurned.update((is) => !is);
    else if (key.toLowerCase() === 'w' && this.worst()) this.goToWorst();
    else if (key.toLowerCase() === 'n') this.choice.turnOutput(event.shiftKey ? -1 : 1);
    else return;
    event.preventDefault();
  }

  protected goToWorst(): void {
    const worst = this.worst();
    if (!worst) return;
    this.choice.isPlaced.set(true);
    this.choice.centre.set(worst);
    // Held within the picture as a drag is.
    this.goFrom(worst, 0, 0);
  }

  /** Moves what is seen by so many CSS px, never beyond the picture. */
  private goFrom(from: { x: number; y: number }, dx: number, dy: number): void {
    const facts = this.sides[0].shown()?.facts;
    if (!facts) return;
    const { output, shown } = facts;
    const scale = this.magnification() / this.density();
    const hold = (value: number, half: number) => Math.min(Math.max(0.5, 1 - half), Math.max(Math.min(0.5, half), value));
    this.choice.isPlaced.set(true);
    this.choice.centre.set({
      x: hold(from.x - dx / scale / output.width, shown.width / 2 / output.width),
      y: hold(from.y - dy / scale / output.height, shown.height / 2 / output.height),
    });
  }
}

/** How long nothing may change until the whole picture is looked at, ms: it takes longer than a part. */
const WHOLE_REST_MS = 400;
/** Between two pictures side by side, CSS px. */
const GAP = 12;
