import { Location } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, effect, inject, input, signal, untracked, viewChild } from '@angular/core';
import { Router } from '@angular/router';
import { Store } from '@ngrx/store';
import {
  decidedAfter,
  figure,
  type Grip,
  makingOf,
  MOST_ANGLE,
  partPreset,
  ratioName,
  turnedView,
  typedRatio,
  viewOfRatio,
} from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzInputModule } from 'ng-zorro-antd/input';
import { NzSkeletonModule } from 'ng-zorro-antd/skeleton';
import { thumbnailUrl } from '../api/api';
import { takesKeys } from '../look/takes-keys';
import { TurnButtons } from '../look/turn-buttons';
import { ViewChoices } from '../look/view-choices';
import { presetsActions, presetsFeature } from '../presets/presets.store';
import { setActions, setFeature } from '../set/set.store';
import { changeFor, CropChoice, type Purpose, viewFor } from './crop-choice';
import { CropProposals } from './crop-proposals';
import { CropStage } from './crop-stage';
import { DecisionFiles } from './decision-files';
import { WholePicture } from './whole-picture';

const RATIOS = [
  [1, 1],
  [3, 2],
  [4, 3],
  [5, 4],
  [16, 9],
] as const;
const KEYS: readonly (readonly [keys: string, what: string])[] = [
  ['Arrows', 'move the frame by a pixel; with Shift by ten'],
  ['Alt + arrows', 'make it larger, smaller'],
  [', and .', 'turn by 0.1°; with Shift by 1°'],
  ['X', 'turn the ratio'],
  ['L', 'draw a line that shall be level'],
  ['Page up, down', 'another picture'],
  ['Ctrl + Z', 'undo'],
  ['Esc', 'back'],
];
const STEPS = [
  ['gather', 'Gather'],
  ['plan', 'Plan'],
  ['proof', 'Proof'],
  ['hand-over', 'Hand over'],
] as const;

/** Crop: what is used of each picture, by hand, one by one; or all proposals for a ratio at once. */
@Component({
  selector: 'rd-crop-page',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzButtonModule, NzInputModule, NzSkeletonModule, TurnButtons, CropProposals, CropStage],
  providers: [CropChoice, DecisionFiles, WholePicture],
  host: { '(document:keydown)': 'key($event)' },
  templateUrl: './crop-page.html',
  styleUrl: './crop-page.less',
})
export class CropPage {
  /** Of the address: the picture, the ratio, whether all pictures are shown at once, and the step that it was opened from. */
  readonly picture = input<string>();
  readonly ratio = input<string>();
  readonly all = input<string>();
  readonly from = input<string>();
  protected readonly ratios = RATIOS;
  protected readonly keys = KEYS;
  protected readonly pageKeys = ['Page up', 'Page down'] as const;
  protected readonly choice = inject(CropChoice);
  protected readonly files = inject(DecisionFiles);
  private readonly whole = inject(WholePicture);
  private readonly router = inject(Router);
  private readonly location = inject(Location);
  private readonly store = inject(Store);
  private readonly views = inject(ViewChoices);
  private readonly stage = viewChild(CropStage);
  protected readonly loaded = this.store.selectSignal(presetsFeature.selectLoaded);
  private readonly undos = this.store.selectSignal(setFeature.selectUndo);
  private readonly selected = this.store.selectSignal(setFeature.selectSelected);
  protected readonly undo = computed(() => this.undos().at(-1)?.label ?? null);
  protected readonly isLevelling = signal(false);
  protected readonly problem = signal('');
  private readonly step = computed(() => STEPS.find(([path]) => path === this.from()) ?? null);
  protected readonly back = computed(() => {
    const step = this.step();
    return step ? `Back to ${step[1]}` : 'Back';
  });
  protected readonly isAll = computed(() => this.all() !== undefined && this.choice.purpose().kind === 'ratio');
  /** The pictures that are selected under Gather, without this one. */
  protected readonly others = computed(() => {
    const [ids, here] = [new Set(this.selected()), this.choice.master()?.id];
    return this.choice.masters().filter(({ id }) => ids.has(id) && id !== here);
  });
  /** The larger picture once it has come, the small one until then. */
  protected readonly source = computed(() => {
    const master = this.choice.master();
    return this.whole.picture() ?? (master ? thumbnailUrl(master) : '');
  });
  protected readonly size = computed(() => {
    const [view, master] = [this.choice.view(), this.choice.master()];
    if (!view || !master) return '';
    return `${figure(view.width)} × ${figure(view.height)} px of ${figure(master.facts.width)} × ${figure(master.facts.height)}`;
  });
  /** What each preset makes of it, as it is framed now. */
  protected readonly outcomes = computed(() => {
    const [master, view, purpose] = [this.choice.master(), this.choice.view(), this.choice.purpose()];
    if (!master || !view) return [];
    const presets = purpose.kind === 'ratio' ? purpose.presets : this.choice.presets();
    return presets.map(({ id, preset }) => {
      const decisions = decidedAfter(master.overrides, changeFor(purpose, view, master));
      const { geometry } = makingOf(master.facts, partPreset(preset, ''), null, decisions);
      const { width, height } = geometry.output;
      return { id, title: preset.title, size: `${figure(width)} × ${figure(height)} px`, isShort: geometry.short };
    });
  });
  protected readonly isDecided = computed(() => {
    const [master, cutBy] = [this.choice.master(), this.choice.cutBy()];
    return this.choice.purpose().kind === 'ratio' ? cutBy === 'placed' : (master?.overrides.crop ?? null) !== null;
  });
  /** How the place of a ratio came about. */
  protected readonly origin = computed(() => {
    switch (this.choice.cutBy()) {
      case 'placed':
        return 'Placed by hand.';
      case 'focus':
        return 'Follows the focus of the picture.';
      case 'proposed':
        return 'A proposal, by what the picture shows.';
      case 'middle':
        return 'The middle, until the picture has been analysed.';
      case 'whole':
        return 'It has this ratio already.';
      default:
        return '';
    }
  });
  /** The angle as the page shows it. */
  protected readonly angle = computed(() => Math.round((this.choice.view()?.angle ?? 0) * 100) / 100);
  protected readonly own = computed(() => (this.choice.purpose().kind === 'ratio' ? this.choice.own() : null));
  protected readonly typed = computed(() => {
    const own = this.choice.ownRatio();
    return typeof own === 'object' && !RATIOS.some(([w, h]) => w === own.w && h === own.h) ? own.name : '';
  });

  constructor() {
    this.store.dispatch(presetsActions.wanted());
    effect(() => {
      this.choice.pictureAsked.set(this.picture() ?? null);
      this.choice.ratioAsked.set(this.ratio() ?? null);
    });
    effect(() => {
      const picture = this.choice.pictureAsked();
      if (picture && picture !== untracked(this.picture)) this.go({ picture });
    });
    effect(() => this.whole.show(this.isAll() ? null : (this.choice.master()?.id ?? null)));
    // A picture that has a crop of a ratio keeps that.
    effect(() => {
      const [master, purpose] = [this.choice.master(), this.choice.purpose()];
      if (!master || purpose.kind === 'ratio') return;
      const { view } = viewFor(master, purpose);
      if (master.overrides.crop && untracked(this.choice.ownRatio) === 'picture' && !isRatio(view, master.facts))
        this.choice.ownRatio.set('free');
    });
  }

  protected go(queryParams: { picture?: string | null; ratio?: string | null; all?: string | null }): void {
    void this.router.navigate([], { queryParams, queryParamsHandling: 'merge', replaceUrl: true });
  }

  protected isRatio(w: number, h: number): boolean {
    const own = this.choice.ownRatio();
    return typeof own === 'object' && ((own.w === w && own.h === h) || (own.w === h && own.h === w));
  }

  protected nameOf(w: number, h: number): string {
    const own = this.choice.ownRatio();
    return typeof own === 'object' && own.w === h && own.h === w ? `${h}:${w}` : `${w}:${h}`;
  }

  /** @param isTyped whether it is taken as it is; one that is offered is turned to the orientation of the frame */
  protected keepRatio(ratio: 'free' | 'picture' | readonly [number, number], isTyped = false): void {
    const [view, master] = [this.choice.view(), this.choice.master()];
    if (!view || !master) return;
    this.problem.set('');
    if (ratio === 'free') return this.choice.ownRatio.set('free');
    const { width, height } = master.facts;
    const isTurned = ratio !== 'picture' && !isTyped && (ratio[0] - ratio[1]) * (view.width - view.height) < 0;
    const kept = ratio === 'picture' ? { w: width, h: height } : isTurned ? { w: ratio[1], h: ratio[0] } : { w: ratio[0], h: ratio[1] };
    this.choice.ownRatio.set(ratio === 'picture' ? 'picture' : { ...kept, name: ratioName(kept) });
    this.choice.decide(viewOfRatio(master.facts, view, kept));
  }

  protected typeRatio(field: HTMLInputElement): void {
    const ratio = typedRatio(field.value);
    if (field.value.trim() === '') return;
    if (!ratio || ratio.w > 100 * ratio.h || ratio.h > 100 * ratio.w)
      return this.problem.set(`“${field.value}” is no ratio: width to height, such as 4:5 or 1.91:1.`);
    this.keepRatio([ratio.w, ratio.h], true);
  }

  /** Width becomes height. */
  protected turnRatio(): void {
    const [view, master, own] = [this.choice.view(), this.choice.master(), this.choice.ownRatio()];
    if (!view || !master || this.choice.purpose().kind === 'ratio') return;
    const kept = { w: view.height, h: view.width };
    if (typeof own === 'object') this.choice.ownRatio.set({ w: own.h, h: own.w, name: ratioName({ w: own.h, h: own.w }) });
    else this.choice.ownRatio.set('free');
    this.choice.decide(viewOfRatio(master.facts, view, typeof own === 'object' ? { w: own.h, h: own.w } : kept));
  }

  protected typeAngle(field: HTMLInputElement): void {
    const angle = Number(field.value.replace(',', '.').replace(/\s*°$/, ''));
    if (!Number.isFinite(angle) || Math.abs(angle) > MOST_ANGLE) {
      this.problem.set(`“${field.value}” is no angle: degrees from −${MOST_ANGLE} to ${MOST_ANGLE}.`);
      field.value = String(this.angle());
      return;
    }
    this.turnTo(angle);
  }

  protected turnBy(degrees: number): void {
    this.turnTo((this.choice.view()?.angle ?? 0) + degrees);
  }

  private turnTo(angle: number): void {
    const [wanted, master] = [this.choice.wanted(), this.choice.master()];
    if (!wanted || !master || this.choice.purpose().kind === 'ratio') return;
    this.problem.set('');
    const held = Math.round(Math.min(MOST_ANGLE, Math.max(-MOST_ANGLE, angle)) * 1000) / 1000;
    this.choice.decide(turnedView(master.facts, wanted, held));
    // What it was meant to be stays, so that it grows again when it is turned back.
    this.choice.wanted.set(wanted);
  }

  protected level(degrees: number): void {
    this.isLevelling.set(false);
    this.turnBy(degrees);
  }

  protected undoLast(): void {
    this.store.dispatch(setActions.undoPressed());
  }

  protected key(event: KeyboardEvent): void {
    if (takesKeys(event.target)) return;
    const command = event.ctrlKey || event.metaKey;
    if (command && event.key.toLowerCase() === 'z') {
      event.preventDefault();
      this.store.dispatch(event.shiftKey ? setActions.redoPressed() : setActions.undoPressed());
      return;
    }
    if (command) return;
    const act = this.commandFor(event);
    if (!act) return;
    event.preventDefault();
    act();
  }

  private commandFor({ key, shiftKey, altKey }: KeyboardEvent): (() => void) | null {
    if (key === 'Escape') return () => (this.isLevelling() ? this.isLevelling.set(false) : this.leave());
    if (this.isAll()) return null;
    if (key === 'PageDown') return () => this.choice.turn(1);
    if (key === 'PageUp') return () => this.choice.turn(-1);
    const by = ARROWS[key];
    if (by) return () => this.nudge(by, shiftKey ? 10 : 1, altKey);
    if (!this.views.singleKeys() || altKey) return null;
    switch (key.toLowerCase()) {
      case ',':
      case '<':
      case ';':
        return () => this.turnBy(shiftKey ? -1 : -0.1);
      case '.':
      case '>':
      case ':':
        return () => this.turnBy(shiftKey ? 1 : 0.1);
      case 'x':
        return () => this.turnRatio();
      case 'l':
        return () => this.isLevelling.set(this.choice.purpose().kind === 'own');
      default:
        return null;
    }
  }

  /** Moves the frame, or makes it larger or smaller at its right and lower edges. */
  private nudge([x, y]: readonly [number, number], px: number, sizes: boolean): void {
    const [view, stage] = [this.choice.view(), this.stage()];
    if (!view || !stage) return;
    const grip: Grip = sizes ? (x !== 0 ? { x: 1, y: 0 } : { x: 0, y: 1 }) : { x: 0, y: 0 };
    this.choice.decide(stage.dragged(view, grip, { x: x * px, y: y * px }));
  }

  /** To the step, or to whatever page it was opened from. */
  protected leave(): void {
    const step = this.step();
    if (step) void this.router.navigate(['/sets', this.choice.set()?.id, step[0]]);
    else this.location.back();
  }

  protected readonly isSame = (purpose: Purpose, name: string): boolean => purpose.kind === 'ratio' && purpose.name === name;
}

const ARROWS: Readonly<Record<string, readonly [number, number]>> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

/** Whether a frame has the ratio of a picture, to a pixel. */
const isRatio = (view: { width: number; height: number }, { width, height }: { width: number; height: number }): boolean =>
  Math.abs(view.width * height - view.height * width) <= Math.max(width, height);
