import { computed, inject, Injectable, linkedSignal, signal } from '@angular/core';
import { rxResource, toSignal } from '@angular/core/rxjs-interop';
import { Store } from '@ngrx/store';
import { appliesTo, LOSSY_TYPE_NAMES, type Master, type Preset, type StoredPreset, varied } from '@rundle/core';
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
  private readonly all = this.store.selectSignal(setFeature.selectMasters);
  private readonly selected = this.store.selectSignal(setFeature.selectSelected);
  private readonly presetList = this.store.selectSignal(presetsFeature.selectList);
  private readonly columnIds = this.store.selectSignal(selectColumnIds);

  /** Ids as they are asked for; others take their place where there are none such. */
  readonly pictureAsked = signal<string | null>(null);
  readonly presetAsked = signal<string | null>(null);
  /** The middle of what is looked at, as shares of the output. It stays where it is from picture to picture. */
  readonly centre = signal({ x: 0.5, y: 0.5 });

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
  private readonly lookedAt = computed(() => `${this.master()?.id} ${this.stored()?.id}`);
  /** What has been made the preset’s own, until something else is looked at. A source that is no signal would forget it at any news. */
  readonly said = linkedSignal({ source: this.lookedAt, computation: () => '' });
  /** The preset as it is carried out in this set. */
  readonly preset = computed((): Preset | null => {
    const stored = this.stored();
    return stored && varied(stored.preset, this.once());
  });

  /** All outputs of the set as one leafs through prints: picture by picture, each as every chosen preset makes it that applies to it. */
  readonly outputs = computed(() => {
    const [chosen, stored] = [this.chosen(), this.stored()];
    const presets = chosen.length || !stored ? chosen : [stored];
    return this.masters().flatMap((master) =>
      presets
        .filter(({ preset }) => appliesTo(preset, { rating: master.stars, tags: master.tags }))
        .map(({ id }) => ({ masterId: master.id, presetId: id })),
    );
  });
  readonly outputPlace = computed(() =>
    this.outputs().findIndex(({ masterId, presetId }) => masterId === this.master()?.id && presetId === this.stored()?.id),
  );

  /** The next output, or the one before; from one that is none of them to the first of its picture. */
  turnOutput(by: 1 | -1): void {
    const [outputs, at] = [this.outputs(), this.outputPlace()];
    const next = at < 0 ? outputs.find(({ masterId }) => masterId === this.master()?.id) : outputs[at + by];
    if (!next) return;
    this.pictureAsked.set(next.masterId);
    this.presetAsked.set(next.presetId);
  }

  /** The next picture of the set, or the one before. */
  turn(by: 1 | -1): void {
    const next = this.masters()[this.place() + by];
    if (next) this.pictureAsked.set(next.id);
  }
}
