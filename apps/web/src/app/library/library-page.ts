import { type CdkDragDrop, DragDropModule } from '@angular/cdk/drag-drop';
import { ChangeDetectionStrategy, Component, computed, inject, signal, viewChild } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { isPictureName, presetInShort, type StoredBundle, type StoredPreset } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzIconModule } from 'ng-zorro-antd/icon';
import { NzInputModule } from 'ng-zorro-antd/input';
import { NzSkeletonModule } from 'ng-zorro-antd/skeleton';
import { sentenceOf } from '../api/problem-of';
import { CountedPipe } from '../look/figures';
import { Drafts, NEW } from '../presets/drafts';
import { freeTitle } from '../presets/free-title';
import { presetsActions, presetsFeature } from '../presets/presets.store';
import { callFailed } from '../shell/problems';
import { Differences } from './differences';
import { Library } from './library';
import { LikeAFile } from './like-a-file';
import { Travel } from './travel';

/** A preset as a row of the library shows it. */
type Item = StoredPreset & { short: string; hasDraft: boolean };

/** A group as it is shown; without a name: the favourites of all groups. */
interface Shelf {
  key: string;
  title: string;
  group: string | null;
  items: readonly Item[];
}

/** The library: all presets in their groups, in the order that they are wanted in; out of it presets are made, put together and given away. */
@Component({
  selector: 'rd-library-page',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    RouterLink,
    DragDropModule,
    FormsModule,
    NzButtonModule,
    NzIconModule,
    NzInputModule,
    NzSkeletonModule,
    CountedPipe,
    Differences,
    LikeAFile,
  ],
  providers: [Library],
  host: { '(dragenter)': 'over($event)', '(dragover)': 'over($event)', '(drop)': 'drop($event)' },
  templateUrl: './library-page.html',
  styleUrl: './library-page.less',
})
export class LibraryPage {
  private readonly store = inject(Store);
  private readonly presets = this.store.selectSignal(presetsFeature.selectList);
  protected readonly loaded = this.store.selectSignal(presetsFeature.selectLoaded);
  protected readonly library = inject(Library);
  protected readonly travel = inject(Travel);
  private readonly drafts = inject(Drafts).all;
  protected readonly newOne = computed(() => this.drafts()[NEW]?.draft ?? null);
  protected readonly inShort = presetInShort;
  private readonly likeAFile = viewChild.required(LikeAFile);

  protected readonly text = signal('');
  private readonly chosenIds = signal<ReadonlySet<string>>(new Set());
  protected readonly chosen = computed(() => this.presets().filter(({ id }) => this.chosenIds().has(id)));
  protected readonly ids = computed(() => this.chosen().map(({ id }) => id));
  /** What the field for a name below the selection is for; null: it is not open. */
  protected readonly asks = signal<'bundle' | 'group' | 'copy' | null>(null);
  protected readonly isCompared = signal(false);

  private readonly items = computed((): Item[] => {
    const wanted = this.text().trim().toLowerCase();
    return this.presets()
      .map((stored) => ({ ...stored, short: presetInShort(stored.preset), hasDraft: stored.id in this.drafts() }))
      .filter(({ preset, short, group }) =>
        [preset.title, preset.notes, preset.folder, short, group].join(' ').toLowerCase().includes(wanted),
      );
  });
  /** Favourites first, then the groups in the order of their first preset. */
  protected readonly groups = computed((): Shelf[] => {
    const items = this.items();
    const favourites = items.filter(({ favourite }) => favourite);
    const names = [...new Set(items.map(({ group }) => group))];
    return [
      ...(favourites.length ? [{ key: '★', title: 'Favourites', group: null, items: favourites }] : []),
      ...names.map((group) => ({
        key: group,
        title: group || 'Without a group',
        group,
        items: items.filter((item) => item.group === group && !item.favourite),
      })),
    ].filter(({ items: own }) => own.length);
  });
  protected readonly groupNames = computed(() => [...new Set(this.presets().map(({ group }) => group))].filter(Boolean));
  protected readonly bundles = computed(() =>
    this.library.bundles().map((bundle) => ({
      bundle,
      titles: bundle.presetIds.flatMap((id) => this.presets().find((stored) => stored.id === id)?.preset.title ?? []),
    })),
  );
  protected readonly suggested = computed(() => {
    const first = this.chosen()[0];
    switch (this.asks()) {
      case 'copy':
        return first ? freeTitle(first.preset.title, this.presets()) : '';
      case 'group':
        return first?.group ?? '';
      default:
        return this.chosen()
          .map(({ preset }) => preset.title)
          .join(' and ')
          .slice(0, 120);
    }
  });

  constructor() {
    this.store.dispatch(presetsActions.wanted());
  }

  protected isChosen(id: string): boolean {
    return this.chosenIds().has(id);
  }

  protected choose(ids: readonly string[]): void {
    this.chosenIds.set(new Set(ids));
    this.asks.set(null);
    this.isCompared.set(false);
  }

  protected toggle(id: string): void {
    this.choose(this.isChosen(id) ? [...this.chosenIds()].filter((other) => other !== id) : [...this.chosenIds(), id]);
  }

  protected named(name: string): void {
    const title = name.trim();
    const [chosen, asks] = [this.chosen(), this.asks()];
    const [first] = chosen;
    if (!first || (!title && asks !== 'group')) return;
    if (asks === 'bundle') this.library.keepBundle({ title, presetIds: chosen.map(({ id }) => id) }, null);
    else if (asks === 'copy') this.library.duplicate(first, title);
    else for (const { id } of chosen) this.library.arrange(id, { group: title });
    this.choose([]);
  }

  protected rename(bundle: StoredBundle, title: string): void {
    if (title.trim() && title.trim() !== bundle.title)
      this.library.keepBundle({ title: title.trim(), presetIds: bundle.presetIds }, bundle.id);
  }

  protected deleteChosen(): void {
    this.library.delete(this.chosen());
    this.choose([]);
  }

  /** Where a preset was let go: between others, perhaps of another group. Among favourites only the order changes. */
  protected dropped({ container, previousContainer, previousIndex, currentIndex }: CdkDragDrop<Shelf>): void {
    const moved = previousContainer.data.items[previousIndex];
    if (!moved || (container === previousContainer && previousIndex === currentIndex)) return;
    const others = container.data.items.filter(({ id }) => id !== moved.id);
    this.put(moved, container.data, others[currentIndex]?.id ?? null);
  }

  /** The same by key. */
  protected moveBy(event: Event, item: StoredPreset, shelf: Shelf, by: 1 | -1): void {
    event.preventDefault();
    const at = shelf.items.findIndex(({ id }) => id === item.id);
    const others = shelf.items.filter(({ id }) => id !== item.id);
    const to = at + by;
    if (to < 0 || to > others.length) return;
    this.put(item, shelf, others[to]?.id ?? null);
    setTimeout(() => document.getElementById(`grip-${item.id}`)?.focus());
  }

  private put(item: StoredPreset, { group, items }: Shelf, before: string | null): void {
    // At the end of its group, it stands before whatever comes behind that group's last one.
    const last = items.findLast(({ id }) => id !== item.id);
    const list = this.presets();
    const behind = last ? (list[list.findIndex(({ id }) => id === last.id) + 1]?.id ?? null) : null;
    const place = before ?? (behind === item.id ? null : behind);
    this.library.arrange(item.id, {
      before: place,
      ...(group === null ? { favourite: true } : { group, ...(item.favourite ? { favourite: false } : {}) }),
    });
  }

  protected export(ids: readonly string[], title?: string): void {
    this.travel
      .export(ids, title)
      .catch((error: unknown) => this.store.dispatch(callFailed({ what: 'The presets were not exported', sentence: sentenceOf(error) })));
  }

  protected bringIn(field: HTMLInputElement): void {
    const files = [...(field.files ?? [])];
    field.value = '';
    void this.travel.bringIn(files).then(() => this.library.reload());
  }

  protected over(event: DragEvent): void {
    if (event.dataTransfer?.types.includes('Files')) event.preventDefault();
  }

  protected drop(event: DragEvent): void {
    const files = [...(event.dataTransfer?.files ?? [])];
    if (files.length === 0) return;
    event.preventDefault();
    // A picture is one that others are to be like.
    const [picture] = files;
    if (files.length === 1 && picture && isPictureName(picture.name)) return this.likeAFile().look(picture);
    void this.travel.bringIn(files).then(() => this.library.reload());
  }
}
