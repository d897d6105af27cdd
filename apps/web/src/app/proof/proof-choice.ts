import { computed, inject, Injectable, linkedSignal, signal } from '@angular/core';
import { rxResource, toSignal } from '@angular/core/rxjs-interop';
import { Store } from '@ngrx/store';
import {
  appliesTo,
  LOSSY_TYPE_NAMES,
  type Master,
  partPreset,
  partsOfPicture,
  partTitle,
  type Preset,
  type StoredPreset,
  varied,
} from '@rundle/core';
import { catchError, of } from 'rxjs';
import { Api } from '../api/api';
import { selectColumnIds } from '../plan/plan.store';
import { presetsFeature } from '../presets/presets.store';
import { setFeature } from '../set/set.store';

/** What is judged: a picture, a preset, and the place in the picture that is looked at. */
@Injectable()
export class ProofChoice {
  private readonly store = inject(Store);
  private readonly api = inject(Api);
  private readonly offered = toSignal(this.api.listFileTypes().pipe(catchError(() => of([]))), { initialValue: null });
  /** Types with a quality that can be written here; null: not known yet. */
  readonly types = computed(() => {
    const offered = this.offered();
    return offered && LOSSY_TYPE_NAMES.filter((name) => offered.find(({ type }) => type === name)?.ready !== false);
  });
  readonly set = this.store.selectSignal(setFeature.selectSet);
  readonly arriving = this.store.selectSignal(setFeature.selectArriving);
  private readonly isWhole = this.store.selectSignal(setFeature.selectIsWhole);
  /** Whether it is known which pictures there are, or at least one of them. */
  readonly isKnown = computed(() => this.set() !== null && (this.isWhole() || this.masters().length > 0));
  private readonly all = this.store.selectSignal(setFeature.selectMasters);
  private readonly selected = this.store.selectSignal(setFeature.selectSelected);
  private readonly presetList = this.store.selectSignal(presetsFeature.selectList);
  private readonly columnIds = this.store.selectSignal(selectColumnIds);

  /** Ids as they are asked for; others take their place where there are none such. */
  readonly pictureAsked = signal<string | null>(null);
  readonly presetAsked = signal<string | null>(null);
  /** The middle of what is looked at, as shares of the output. It stays where it is from picture to picture. */
  readonly centre = signal({ x: 0.5, y: 0.5 });
  /** Whether that place was chosen, or found: the strip waits for it. */
  readonly isPlaced = signal(false);

  readonly masters = computed((): readonly Master[] => this.all().filter(({ state, choice }) => state === 'ready' && choice !== 'out'));
  readonly place = computed(() => {
    const masters = this.masters();
    const wanted = this.pictureAsked() ?? this.selected()[0];
    return Math.max(
      0,
      masters.findIndex(({ id }) => id === wanted),
    );
  });
  readonly master = computed(() => this.masters()[this.place()] ?? null);

  /** Those chosen for the set first. An untouched copy has nothing that could be judged. */
  readonly presets = computed((): readonly StoredPreset[] => {
    const [list, chosen] = [this.presetList().filter(({ preset }) => preset.file.type !== 'original'), this.columnIds()];
    const isChosen = ({ id }: StoredPreset) => chosen.includes(id);
    return [...list.filter(isChosen), ...list.filter((stored) => !isChosen(stored))];
  });
  readonly stored = computed(() => this.presets().find(({ id }) => id === this.presetAsked()) ?? this.presets()[0] ?? null);
  /** Those chosen for the set. */
  readonly chosen = computed(() => this.presets().filter(({ id }) => this.columnIds().includes(id)));
  private readonly versions = rxResource({
    params: () => ({ presetId: this.stored()?.id ?? '', version: this.stored()?.version ?? 0 }),
    stream: ({ params: { presetId } }) => (presetId ? this.api.listPresetVersions({ presetId }).pipe(catchError(() => of([]))) : of([])),
  });
  /** Earlier versions of the preset, the last of them first. */
  readonly earlier = computed(() => {
    const now = this.stored()?.version;
    return (this.versions.hasValue() ? this.versions.value() : []).filter(({ version }) => version !== now);
  });
  readonly once = computed(() => this.set()?.once[this.stored()?.id ?? '']);
  private readonly wholePreset = computed((): Preset | null => {
    const stored = this.stored();
    return stored && varied(stored.preset, this.once());
  });
  readonly partAsked = signal<string | null>(null);
  /** The files that the preset makes of the picture, with what they are called; one without a name where it makes one. */
  readonly parts = computed((): readonly { part: string; label: string }[] => {
    const [preset, master] = [this.wholePreset(), this.master()];
    return preset && master ? filesOf(preset, master).map((part) => ({ part, label: partTitle(preset, part) })) : [];
  });
  /** Which of them is judged; the largest size, or the first panel, until another is chosen. */
  readonly part = computed(() => {
    const [parts, asked] = [this.parts(), this.partAsked()];
    if (asked !== null && parts.some(({ part }) => part === asked)) return asked;
    return (this.wholePreset()?.size.sizes.length ? parts.at(-1) : parts[0])?.part ?? '';
  });
  /** The preset as it is carried out in this set, and as it makes the file that is judged. */
  readonly preset = computed((): Preset | null => {
    const preset = this.wholePreset();
    return preset && partPreset(preset, this.part());
  });
  private readonly lookedAt = computed(() => `${this.master()?.id} ${this.stored()?.id} ${this.part()}`);
  /** What has been made the preset’s own, until something else is looked at. A source that is no signal would forget it at any news. */
  readonly said = linkedSignal({ source: this.lookedAt, computation: () => '' });

  /** All outputs of the set as one leafs through prints: picture by picture, each as every chosen preset makes it that applies to it. */
  readonly outputs = computed(() => {
    const [chosen, stored] = [this.chosen(), this.stored()];
    const presets = chosen.length || !stored ? chosen : [stored];
    return this.masters().flatMap((master) =>
      presets
        .filter(({ preset }) => appliesTo(preset, { rating: master.stars, tags: master.tags }))
        .flatMap(({ id, preset }) => filesOf(preset, master).map((part) => ({ masterId: master.id, presetId: id, part }))),
    );
  });
  readonly outputPlace = computed(() =>
    this.outputs().findIndex(
      ({ masterId, presetId, part }) => masterId === this.master()?.id && presetId === this.stored()?.id && part === this.part(),
    ),
  );

  /** The next output, or the one before; from one that is none of them to the first of its picture. */
  turnOutput(by: 1 | -1): void {
    const [outputs, at] = [this.outputs(), this.outputPlace()];
    const next = at < 0 ? outputs.find(({ masterId }) => masterId === this.master()?.id) : outputs[at + by];
    if (!next) return;
    this.pictureAsked.set(next.masterId);
    this.presetAsked.set(next.presetId);
    this.partAsked.set(next.part);
  }

  /** The next picture of the set, or the one before. */
  turn(by: 1 | -1): void {
    const next = this.masters()[this.place() + by];
    if (next) this.pictureAsked.set(next.id);
  }
}

/** The files that a preset makes of a picture, by their part. */
const filesOf = (preset: Preset, master: Master): string[] =>
  partsOfPicture(master.facts, preset, null, master.overrides).map(({ part }) => part);
