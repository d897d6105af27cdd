import { ChangeDetectionStrategy, Component, computed, inject, type OnDestroy, signal } from '@angular/core';
import { ActivatedRoute, RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { extensionsOf, MASTER_FORMATS, presetInShort, type SetSummary } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzSkeletonModule } from 'ng-zorro-antd/skeleton';
import { sentenceOf } from '../api/problem-of';
import { droppedFiles, pickedFiles } from '../arrive/dropped-files';
import { DropHint } from '../arrive/drop-hint';
import { FileDrop } from '../arrive/file-drop';
import { CountedPipe, WeightPipe } from '../look/figures';
import { presetOrder } from '../presets/preset-order';
import { presetsActions, presetsFeature } from '../presets/presets.store';
import { runsFeature } from '../runs/runs.store';
import { AtOnce, type Made, type Pictures } from './at-once';
import { whenLaunched } from './launch';

/** Pictures that are shown before they are sent. */
const MOST_SHOWN = 8;

/** Web versions of a few pictures, without making a set first: given by a drop, by the file manager or by an address. */
@Component({
  selector: 'rd-at-once-page',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [RouterLink, NzButtonModule, NzSkeletonModule, CountedPipe, DropHint, WeightPipe],
  hostDirectives: [FileDrop],
  providers: [AtOnce],
  templateUrl: './at-once-page.html',
  styleUrl: './at-once-page.less',
})
export class AtOncePage implements OnDestroy {
  private readonly store = inject(Store);
  private readonly atOnce = inject(AtOnce);
  private readonly drop = inject(FileDrop);
  protected readonly isOver = this.drop.isOver;
  protected readonly state = this.atOnce.state;
  protected readonly readable = MASTER_FORMATS.flatMap(extensionsOf)
    .map((extension) => `.${extension}`)
    .join(',');
  protected readonly pictures = signal<Pictures | null>(picturesOf(inject(ActivatedRoute)));
  protected readonly trouble = signal<string | null>(null);
  protected readonly packing = signal(false);

  /** So that what was under way when the page was closed is found again. */
  protected readonly today = signal<SetSummary | undefined>(undefined);
  protected readonly loaded = this.store.selectSignal(presetsFeature.selectLoaded);
  private readonly presets = this.store.selectSignal(presetsFeature.selectList);
  private readonly runs = this.store.selectSignal(runsFeature.selectRuns);
  /** As they are likely to be wanted; those that print or sign things are left to Plan. */
  protected readonly offers = computed(() => {
    const byId = new Map(this.presets().map((stored) => [stored.id, stored]));
    return presetOrder(this.presets(), this.runs()).flatMap((id) => {
      const stored = byId.get(id);
      return stored ? [{ id, title: stored.preset.title, short: presetInShort(stored.preset) }] : [];
    });
  });

  protected readonly count = computed(() => {
    const pictures = this.pictures();
    return pictures?.kind === 'files' ? pictures.files.length : (pictures?.names?.length ?? null);
  });
  protected readonly bytes = computed(() => {
    const pictures = this.pictures();
    return pictures?.kind === 'files' ? pictures.files.reduce((sum, { size }) => sum + size, 0) : null;
  });
  protected readonly folder = computed(() => {
    const pictures = this.pictures();
    return pictures?.kind === 'machine' ? pictures.folder : null;
  });
  /** Small ones of those that were given, where browsers show such files. */
  protected readonly shown = signal<readonly { url: string; name: string }[]>([]);

  constructor() {
    this.store.dispatch(presetsActions.wanted());
    this.drop.dropped.subscribe((items) => void droppedFiles(items).then((found) => this.give(found.map(({ file }) => file))));
    // Without an answer there is nothing to be said of it.
    this.atOnce.today().then(
      (set) => this.today.set(set),
      () => {},
    );
    whenLaunched((files) => this.give(files));
  }

  ngOnDestroy(): void {
    for (const { url } of this.shown()) URL.revokeObjectURL(url);
  }

  protected picked(event: Event): void {
    const field = event.target as HTMLInputElement;
    this.give(pickedFiles(field.files ?? []).map(({ file }) => file));
    field.value = '';
  }

  protected make(presetId: string): void {
    const pictures = this.pictures();
    if (pictures) void this.atOnce.make(pictures, presetId);
  }

  protected again(): void {
    this.trouble.set(null);
    this.state.set({ step: 'choice' });
  }

  protected async download(made: Made): Promise<void> {
    this.packing.set(true);
    this.trouble.set(null);
    try {
      await this.atOnce.download(made);
    } catch (error) {
      this.trouble.set(error instanceof Error ? error.message : sentenceOf(error));
    }
    this.packing.set(false);
  }

  private give(files: readonly File[]): void {
    if (files.length === 0) return;
    this.pictures.set({ kind: 'files', files });
    for (const { url } of this.shown()) URL.revokeObjectURL(url);
    const some = files.filter(({ type }) => /^image\/(jpeg|png|webp|avif)$/.test(type)).slice(0, MOST_SHOWN);
    this.shown.set(some.map((file) => ({ url: URL.createObjectURL(file), name: file.name })));
    this.again();
  }
}

/** Files of the machine that the address names: `?folder=/a&name=x.jpg&name=y.jpg`; without names all of the folder. */
function picturesOf({ snapshot: { queryParamMap } }: ActivatedRoute): Pictures | null {
  const folder = queryParamMap.get('folder');
  if (!folder) return null;
  const names = queryParamMap.getAll('name');
  return { kind: 'machine', folder, names: names.length ? names : null };
}
