import { computed, inject, Injectable, linkedSignal, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import {
  appliesTo,
  type Crop,
  cropOfView,
  type CutBy,
  type DecisionsChange,
  isLeftOut,
  makingOf,
  partPreset,
  type Master,
  type Glance,
  placementOfView,
  type Ratio,
  ratioFor,
  ratioName,
  type StoredPreset,
  undoOf,
  varied,
  type View,
  viewOf,
  viewOfRatio,
} from '@rundle/core';
import { SAME_DATA } from '../look/asked';
import { selectColumnIds } from '../plan/plan.store';
import { presetsFeature } from '../presets/presets.store';
import type { MarkEntry } from '../set/edits';
import { setActions, setFeature } from '../set/set.store';

/** What is cropped for: every preset, or those of one ratio. */
export type Purpose = { kind: 'own' } | { kind: 'ratio'; name: string; ratio: Ratio & { turn: boolean }; presets: readonly StoredPreset[] };

/** A picture that can be cropped: its facts are known. */
export type Croppable = Master & { state: 'ready'; facts: Glance };

const isCroppable = (master: Master): master is Croppable => master.state === 'ready';

/** What is being cropped, and what was decided about it. */
@Injectable()
export class CropChoice {
  private readonly store = inject(Store);
  readonly set = this.store.selectSignal(setFeature.selectSet);
  readonly isWhole = this.store.selectSignal(setFeature.selectIsWhole);
  private readonly all = this.store.selectSignal(setFeature.selectMasters);
  private readonly selected = this.store.selectSignal(setFeature.selectSelectedMasters);
  private readonly presetList = this.store.selectSignal(presetsFeature.selectList);
  private readonly columnIds = this.store.selectSignal(selectColumnIds);

  /** Of the address: the picture, and the name of the ratio; others take their place where there are none such. */
  readonly pictureAsked = signal<string | null>(null);
  readonly ratioAsked = signal<string | null>(null);

  readonly masters = computed((): readonly Croppable[] => this.all().filter(isCroppable));
  readonly place = computed(() => {
    const wanted = this.pictureAsked() ?? this.selected()[0]?.id;
    return Math.max(
      0,
      this.masters().findIndex(({ id }) => id === wanted),
    );
  });
  readonly master = computed(() => this.masters()[this.place()] ?? null);

  /** The presets chosen for the set, as they are carried out in it; an untouched copy is never cropped. */
  readonly presets = computed((): readonly StoredPreset[] => {
    const [chosen, once] = [this.columnIds(), this.set()?.once ?? {}];
    return this.presetList()
      .filter(({ id, preset }) => chosen.includes(id) && preset.file.type !== 'original')
      .map((stored) => ({ ...stored, preset: varied(stored.preset, once[stored.id]) }));
  });
  /** The ratios that they ask for. */
  readonly ratios = computed((): readonly Extract<Purpose, { kind: 'ratio' }>[] => {
    const byName = new Map<string, StoredPreset[]>();
    for (const stored of this.presets()) {
      const { ratio } = stored.preset.size;
      if (ratio) byName.set(ratioName(ratio), [...(byName.get(ratioName(ratio)) ?? []), stored]);
    }
    return [...byName].map(([name, presets]) => ({ kind: 'ratio', name, ratio: presets[0]!.preset.size.ratio!, presets }));
  });
  readonly purpose = computed((): Purpose => this.ratios().find(({ name }) => name === this.ratioAsked()) ?? { kind: 'own' });

  /** What is used of the picture by its own crop. */
  readonly own = computed((): View | null => {
    const master = this.master();
    return master && viewOf(master.facts, master.overrides.crop);
  });
  /** The frame as it was decided, or is proposed. */
  private readonly decided = computed((): View | null => {
    const [master, purpose] = [this.master(), this.purpose()];
    return master && viewFor(master, purpose).view;
  }, SAME_DATA);
  /** The frame under somebody's hands; a ratio of its own angle, and so on, until it is decided. */
  readonly view = linkedSignal<View | null>(() => this.decided());
  /** What the frame was before it was turned, so that it grows again when it is turned back. */
  readonly wanted = linkedSignal<View | null>(() => this.decided());
  readonly cutBy = computed((): CutBy | null => {
    const [master, purpose] = [this.master(), this.purpose()];
    return master && viewFor(master, purpose).cutBy;
  });
  /** The ratio that the frame keeps, as it is for this picture; null: it is free. */
  readonly ownRatio = signal<'free' | 'picture' | (Ratio & { name: string })>('picture');
  readonly ratio = computed((): Ratio | null => {
    const [master, purpose, own] = [this.master(), this.purpose(), this.ownRatio()];
    if (!master) return null;
    if (purpose.kind === 'ratio') return ratioFor(purpose.ratio, this.own() ?? master.facts);
    return own === 'free' ? null : own === 'picture' ? { w: master.facts.width, h: master.facts.height } : own;
  });

  /** The pictures of which presets of a ratio make something. */
  mastersFor({ presets }: Extract<Purpose, { kind: 'ratio' }>): readonly Croppable[] {
    return this.masters().filter(
      ({ choice, stars, tags, facts, overrides }) =>
        choice !== 'out' &&
        presets.some(
          ({ id, preset }) => !isLeftOut(overrides, id) && appliesTo(preset, { rating: stars, tags: [...tags, ...facts.keywords] }),
        ),
    );
  }

  turn(by: number): void {
    const next = this.masters()[this.place() + by];
    if (next) this.pictureAsked.set(next.id);
  }

  /** Decides what stands in the frame. */
  decide(view: View): void {
    const master = this.master();
    if (!master) return;
    this.view.set(view);
    this.placeFor(this.purpose(), master, view);
  }

  /** As it was before anything was decided. */
  reset(): void {
    const master = this.master();
    if (master) this.change([master], `${master.fileName} not cropped`, () => withoutCrop(this.purpose(), master));
  }

  /** Decides the same about others: the same part, as shares of each. */
  copyTo(masters: readonly Croppable[]): void {
    const [view, from, purpose] = [this.view(), this.master(), this.purpose()];
    if (!view || !from) return;
    const crop = cropOfView(view, from.facts);
    const own = this.ownRatio();
    this.change(masters, `crop for ${masters.length}`, (master) => {
      const same = viewOf(master.facts, crop);
      const { width, height } = master.facts;
      const ratio = purpose.kind === 'ratio' || own === 'free' ? null : own === 'picture' ? { w: width, h: height } : own;
      return changeFor(purpose, ratio ? viewOfRatio(master.facts, same, ratio) : same, master);
    });
  }

  /** Takes the proposals for a ratio as they are. */
  accept(purpose: Extract<Purpose, { kind: 'ratio' }>, masters: readonly Croppable[]): void {
    this.change(masters, `${masters.length} crops to ${purpose.name}`, (master) =>
      changeFor(purpose, viewFor(master, purpose).view, master),
    );
  }

  /** Places the frame of any picture for a ratio. */
  placeFor(purpose: Purpose, master: Croppable, view: View): void {
    this.change([master], `crop of ${master.fileName}`, () => changeFor(purpose, view, master));
  }

  private change(masters: readonly Croppable[], label: string, changeOf: (master: Croppable) => DecisionsChange): void {
    const after = masters.map((master): MarkEntry => ({ masterId: master.id, overrides: changeOf(master) }));
    const before = masters.map((master, at): MarkEntry => ({
      masterId: master.id,
      overrides: undoOf(master.overrides, after[at]!.overrides!),
    }));
    if (after.length) this.store.dispatch(setActions.edited({ edit: { kind: 'marks', label, before, after } }));
  }
}

/** What is used of a picture for a purpose, and who decided that. */
export function viewFor(master: Croppable, purpose: Purpose): { view: View; cutBy: CutBy | null } {
  if (purpose.kind === 'own') return { view: viewOf(master.facts, master.overrides.crop), cutBy: null };
  const { geometry, cutBy } = makingOf(master.facts, partPreset(purpose.presets[0]!.preset, ''), null, master.overrides);
  return { view: geometry.view ?? viewOf(master.facts, null), cutBy };
}

/** The decision that a view stands for. */
export function changeFor(purpose: Purpose, view: View, master: Croppable): DecisionsChange {
  if (purpose.kind === 'own') {
    const crop = cropOfView(view, master.facts);
    return { crop: isAll(crop) ? null : crop };
  }
  return { ratios: { [nameFor(purpose, master)]: placementOfView(view, master.facts) } };
}

const withoutCrop = (purpose: Purpose, master: Croppable): DecisionsChange =>
  purpose.kind === 'own' ? { crop: null } : { ratios: { [nameFor(purpose, master)]: null } };

/** The name of the ratio as it is turned for a picture. */
const nameFor = ({ ratio }: Extract<Purpose, { kind: 'ratio' }>, { facts, overrides }: Croppable): string =>
  ratioName(ratioFor(ratio, viewOf(facts, overrides.crop)));

const isAll = ({ x, y, w, h, angle }: Crop): boolean => x === 0 && y === 0 && w === 1 && h === 1 && angle === 0;
