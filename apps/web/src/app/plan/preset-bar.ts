import {
  afterNextRender,
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  type ElementRef,
  inject,
  Injector,
  signal,
  viewChild,
} from '@angular/core';
import { FormsModule } from '@angular/forms';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import {
  lastTime,
  onlyForSome,
  placeWords,
  type Preset,
  presetInShort,
  type SetChange,
  type StoredBundle,
  variedInWords,
} from '@rundle/core';
import { catchError, of, switchMap } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { presetOrder } from '../presets/preset-order';
import { presetsFeature } from '../presets/presets.store';
import { runsFeature } from '../runs/runs.store';
import { setActions, setFeature } from '../set/set.store';
import { listOf } from '../shell/list-of';
import { callFailed } from '../shell/problems';
import { FirstPictures } from './first-pictures';
import { planFeature, selectColumnIds } from './plan.store';
import { PresetCard } from './preset-card';

/** So many presets are offered at once, and all of them where there are no more. */
const FEW = 6;

/** A preset as it is offered. */
interface Offer {
  id: string;
  version: number;
  preset: Preset;
  title: string;
  short: string;
  /** Which pictures it is for; empty: all. */
  only: string;
  group: string;
  chosen: boolean;
}

/**
 * Chooses the presets of a set: what was used last, what is of one's own and the favourites at once, bundles, and the rest behind one press. While none
 * is chosen, each shows what it would make of the first picture, and what was chosen last time is one press.
 */
@Component({
  selector: 'rd-preset-bar',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [FormsModule, RouterLink, PresetCard],
  providers: [FirstPictures],
  templateUrl: './preset-bar.html',
  styleUrl: './preset-bar.less',
})
export class PresetBar {
  private readonly store = inject(Store);
  private readonly api = inject(Api);
  protected readonly pictures = inject(FirstPictures);
  private readonly set = this.store.selectSignal(setFeature.selectSet);
  private readonly presets = this.store.selectSignal(presetsFeature.selectList);
  private readonly runs = this.store.selectSignal(runsFeature.selectRuns);
  private readonly columnIds = this.store.selectSignal(selectColumnIds);
  private readonly progress = this.store.selectSignal(planFeature.selectProgress);
  protected readonly isRunning = computed(() => this.progress()?.isOpen ?? false);
  protected readonly showsAll = signal(false);
  private readonly stored = signal<readonly StoredBundle[]>([]);

  private readonly offers = computed(() =>
    this.presets().map(({ id, version, preset, group }): Offer => ({
      id,
      version,
      preset,
      title: preset.title,
      short: presetInShort(preset),
      only: onlyForSome(preset),
      group,
      chosen: this.columnIds().includes(id),
    })),
  );
  private readonly order = computed(() => presetOrder(this.presets(), this.runs()));
  /** The first of them, and what is chosen; a press changes the order of none. */
  protected readonly near = computed(() => {
    const sorted = this.order().flatMap((id) => this.offers().find((offer) => offer.id === id) ?? []);
    return sorted.filter(({ chosen }, at) => chosen || at < FEW);
  });
  protected readonly far = computed(() => this.offers().filter(({ id }) => !this.near().some((offer) => offer.id === id)));
  protected readonly farGroups = computed(() =>
    [...new Set(this.far().map(({ group }) => group))].map((title) => ({
      title,
      offers: this.far().filter(({ group }) => group === title),
    })),
  );

  /** Whether none is chosen yet: then what each would make is shown. */
  protected readonly isOpen = computed(() => this.offers().every(({ chosen }) => !chosen));
  protected readonly hasPicture = computed(() => this.pictures.master() !== null);

  /** What was chosen last time; null: nothing. */
  protected readonly last = computed(() => {
    const last = this.isOpen() ? lastTime(this.runs(), new Set(this.presets().map(({ id }) => id))) : null;
    if (!last) return null;
    const titles = last.presetIds.map((id) => {
      const varied = last.once[id] ? variedInWords(last.once[id]) : [];
      return `${this.titleOf(id)}${varied.length ? ` (${varied.join(', ')} this once)` : ''}`;
    });
    return { ...last, words: `${titles.join(', ')}; files go ${placeWords(last.place)}` };
  });

  protected readonly bundles = computed(() =>
    this.stored().map((bundle) => ({
      ...bundle,
      titles: bundle.presetIds.map((id) => this.titleOf(id)).join(', '),
      chosen: this.known(bundle.presetIds).length > 0 && this.known(bundle.presetIds).every((id) => this.columnIds().includes(id)),
    })),
  );
  /** Whether what is chosen is no bundle yet. */
  protected readonly canKeep = computed(() => {
    const chosen = [...this.columnIds()].sort().join();
    return this.columnIds().length > 1 && !this.stored().some(({ presetIds }) => [...presetIds].sort().join() === chosen);
  });
  /** The name that is being given to a new bundle; null: none is being made. */
  protected readonly bundleTitle = signal<string | null>(null);
  private readonly title = viewChild<ElementRef<HTMLInputElement>>('title');
  private readonly injector = inject(Injector);

  constructor() {
    listOf('presets')
      .pipe(switchMap(() => this.api.listBundles().pipe(catchError(() => of([])))))
      .subscribe((bundles) => this.stored.set(bundles));
    effect(() => this.pictures.want(this.isOpen() ? (this.showsAll() ? [...this.near(), ...this.far()] : this.near()) : []));
  }

  private titleOf(id: string): string {
    return this.presets().find((stored) => stored.id === id)?.preset.title ?? '';
  }

  private known(ids: readonly string[]): string[] {
    return ids.filter((id) => this.presets().some((stored) => stored.id === id));
  }

  protected asLastTime(): void {
    const last = this.last();
    if (last) this.change({ presetIds: last.presetIds, place: last.place, once: { ...this.set()?.once, ...last.once } });
  }

  /** Chooses the presets of a bundle beside what is chosen already; once all of them are, takes them away again. */
  protected toggleBundle({ presetIds, chosen }: { presetIds: readonly string[]; chosen: boolean }): void {
    const now = this.columnIds();
    this.choose(chosen ? now.filter((id) => !presetIds.includes(id)) : [...new Set([...now, ...this.known(presetIds)])]);
  }

  protected beginBundle(): void {
    this.bundleTitle.set('');
    afterNextRender(() => this.title()?.nativeElement.focus(), { injector: this.injector });
  }

  protected keepBundle(): void {
    const title = this.bundleTitle()?.trim();
    // A button that waits for a name would be drawn too late for an Enter that follows the last letter at once.
    if (!title) return this.title()?.nativeElement.focus();
    this.api.createBundle({ body: { title, presetIds: [...this.columnIds()] } }).subscribe({
      next: (bundle) => {
        this.stored.update((bundles) => [...bundles.filter(({ id }) => id !== bundle.id), bundle]);
        this.bundleTitle.set(null);
      },
      error: (error: unknown) => this.store.dispatch(callFailed({ what: 'The bundle was not kept', sentence: sentenceOf(error) })),
    });
  }

  protected toggle(presetId: string): void {
    const chosen = this.columnIds();
    this.showsAll.set(false);
    this.choose(chosen.includes(presetId) ? chosen.filter((id) => id !== presetId) : [...chosen, presetId]);
  }

  private choose(presetIds: string[]): void {
    this.change({ presetIds });
  }

  private change(change: SetChange): void {
    const setId = this.set()?.id;
    if (setId) this.store.dispatch(setActions.changedByHand({ setId, change }));
  }
}
