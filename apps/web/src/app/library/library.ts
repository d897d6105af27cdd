import { inject, Injectable, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import type { NewBundle, Preset, PresetArrangement, StoredBundle, StoredPreset } from '@rundle/core';
import { forkJoin, type Observable, switchMap, tap } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { presetsActions, presetsFeature } from '../presets/presets.store';
import { listOf } from '../shell/list-of';
import { callFailed } from '../shell/problems';

/** What can be done with presets beside changing what they say: order, groups, bundles, the bin. Lives as long as its page. */
@Injectable()
export class Library {
  private readonly api = inject(Api);
  private readonly store = inject(Store);
  private readonly presets = this.store.selectSignal(presetsFeature.selectList);
  readonly bundles = signal<readonly StoredBundle[]>([]);
  readonly bin = signal<readonly StoredPreset[]>([]);
  /** What went to the bin last, to be taken back with one press. */
  readonly lastDeleted = signal<readonly StoredPreset[]>([]);

  constructor() {
    listOf('presets')
      .pipe(switchMap(() => forkJoin({ bundles: this.api.listBundles(), bin: this.api.listDeletedPresets() })))
      .subscribe({
        next: ({ bundles, bin }) => {
          this.bundles.set(bundles);
          this.bin.set(bin);
        },
        error: (error: unknown) => this.tell('The library could not be loaded', error),
      });
  }

  /** Gives a preset its place; it is seen there at once. */
  arrange(id: string, change: PresetArrangement): void {
    const list = this.presets().map((stored) => (stored.id === id ? { ...stored, ...only(change) } : stored));
    const moved = list.find((stored) => stored.id === id);
    const { before } = change;
    if (moved && before !== undefined) {
      const others = list.filter((stored) => stored !== moved);
      const at = before === null ? others.length : others.findIndex((stored) => stored.id === before);
      this.store.dispatch(presetsActions.loaded({ presets: others.toSpliced(at, 0, moved) }));
    } else this.store.dispatch(presetsActions.loaded({ presets: list }));
    this.do('The preset kept its place', this.api.arrangePreset({ presetId: id, body: change }), () => {});
  }

  duplicate({ preset, group }: StoredPreset, title: string): void {
    const copy: Preset = { ...preset, title, notes: '' };
    this.do(
      'The preset was not duplicated',
      this.api.createPreset({ body: copy }).pipe(switchMap((made) => this.api.arrangePreset({ presetId: made.id, body: { group } }))),
      () => this.reload(),
    );
  }

  delete(presets: readonly StoredPreset[]): void {
    this.do('Not deleted', forkJoin(presets.map(({ id }) => this.api.deletePreset({ presetId: id }))), () => {
      this.lastDeleted.set(presets);
      for (const { id } of presets) this.store.dispatch(presetsActions.deleted({ id }));
    });
  }

  putBack(presets: readonly StoredPreset[]): void {
    this.do('Not put back', forkJoin(presets.map(({ id }) => this.api.restorePreset({ presetId: id }))), () => {
      this.lastDeleted.set([]);
      this.reload();
    });
  }

  addStarters(): void {
    this.do('The starter set was not added', this.api.addStarterPresets(), () => this.reload());
  }

  keepBundle(bundle: NewBundle, id: string | null): void {
    const call = id === null ? this.api.createBundle({ body: bundle }) : this.api.changeBundle({ bundleId: id, body: bundle });
    this.do('The bundle was not kept', call, () => this.reload());
  }

  takeApart({ id }: StoredBundle): void {
    this.do('The bundle was not taken apart', this.api.deleteBundle({ bundleId: id }), () => this.reload());
  }

  reload(): void {
    this.store.dispatch(presetsActions.wanted());
  }

  private do<T>(what: string, call: Observable<T>, then: (value: T) => void): void {
    call.pipe(tap(then)).subscribe({ error: (error: unknown) => this.tell(what, error) });
  }

  private tell(what: string, error: unknown): void {
    this.store.dispatch(callFailed({ what, sentence: sentenceOf(error) }));
  }
}

/** What a change says of the preset itself; the place among the others is another matter. */
const only = ({ group, favourite }: PresetArrangement): Partial<StoredPreset> => ({
  ...(group === undefined ? {} : { group }),
  ...(favourite === undefined ? {} : { favourite }),
});
