import {
  afterNextRender,
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  effect,
  inject,
  Injector,
  input,
  linkedSignal,
  signal,
  untracked,
} from '@angular/core';
import { NgTemplateOutlet } from '@angular/common';
import { Router } from '@angular/router';
import { Store } from '@ngrx/store';
import {
  parsePreset,
  type Part,
  PARTS,
  PIXEL_RUNGS,
  type PixelRung,
  type Preset,
  presetSentences,
  type Problem,
  type SizeRung,
  type StoredPreset,
  type StudioDetails,
} from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzSkeletonModule } from 'ng-zorro-antd/skeleton';
import { forkJoin } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { PageTitle } from '../shell/page-title';
import { callFailed } from '../shell/problems';
import { Remarks } from '../look/remarks';
import { ViewChoices } from '../look/view-choices';
import { LiveSample } from '../bench/live-sample';
import { SampleChoice } from '../bench/sample-choice';
import { SampleSource } from '../bench/sample-source';
import { SetForecast } from '../bench/set-forecast';
import { Travel } from '../library/travel';
import { type Draft, Drafts, NEW, newPreset } from './drafts';
import { NOTHING_YET, type Offered } from './editors';
import { type Explanation, EXPLANATIONS } from './explanations';
import { FoundValues } from './found-values';
import { freeTitle } from './free-title';
import { withValue } from './paths';
import { presetsActions, presetsFeature } from './presets.store';
import { RUNG_NAMES } from './rung-names';
import { RungNotes } from './rung-notes';
import { ValueSentence } from './value-sentence';
import { Versions } from './versions';

const NEW_ONE = newPreset();

const isSame = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);

/** A preset as a ladder of sentences; a value is edited where it stands, and saving makes the next version. */
@Component({
  selector: 'rd-preset-page',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NgTemplateOutlet, NzButtonModule, NzSkeletonModule, Remarks, LiveSample, RungNotes, ValueSentence, Versions, FoundValues],
  providers: [SampleChoice, SampleSource, SetForecast],
  host: {
    '(pointerdown)': 'isPressed = true',
    '(click)': 'pressed($event)',
    '(document:pointerup)': 'released()',
    '(document:pointercancel)': 'released()',
  },
  templateUrl: './preset-page.html',
  styleUrl: './preset-page.less',
})
export class PresetPage {
  readonly presetId = input.required<string>();
  private readonly store = inject(Store);
  private readonly presets = this.store.selectSignal(presetsFeature.selectList);
  protected readonly loaded = this.store.selectSignal(presetsFeature.selectLoaded);
  private readonly drafts = inject(Drafts);
  private readonly router = inject(Router);
  protected readonly stored = computed(() =>
    this.presetId() === NEW ? NEW_ONE : (this.presets().find(({ id }) => id === this.presetId()) ?? null),
  );
  protected readonly isNew = computed(() => this.presetId() === NEW);
  /**
   * What is worked on, and the version that it began from. Another version that is saved elsewhere meanwhile takes its place only while
   * nothing has been changed here.
   */
  private readonly work = linkedSignal<StoredPreset | null, Draft | null>({
    source: this.stored,
    computation: (stored, previous) => {
      const kept = untracked(() => stored && (this.drafts.all()[stored.id] ?? null));
      const before = previous?.value?.base.id === stored?.id ? (previous?.value ?? kept) : kept;
      const isChanged = before !== null && !isSame(before.draft, before.base.preset);
      if (isChanged && stored?.id === before.base.id && !isSame(before.draft, stored.preset)) return before;
      return stored && { base: stored, draft: stored.preset };
    },
  });
  protected readonly draft = computed(() => this.work()?.draft ?? null);
  protected readonly found = computed(() => this.work()?.found ?? null);
  protected readonly base = computed(() => this.work()?.base ?? null);
  protected readonly changed = computed(() => !isSame(this.draft(), this.base()?.preset));
  /** The version that somebody else has saved meanwhile, if that is another than the one that was begun from. */
  protected readonly newer = computed(() => {
    const stored = this.stored();
    return stored && stored.version !== this.base()?.version ? stored.version : null;
  });
  /** What a new preset is to be called; null: none is asked for. */
  protected readonly newName = signal<string | null>(null);
  /** What was wrong with the last value, and in which part. */
  protected readonly wrong = signal<{ part: string; problem: Problem } | null>(null);

  /** The part that is being set; the sample is shown as it is after it. */
  protected readonly part = signal<Part>('file');
  protected readonly rung = computed<PixelRung>(() => PIXEL_RUNGS.find((rung) => rung === this.part()) ?? 'file');

  protected readonly here = signal<Offered>(NOTHING_YET);
  /** What fills missing rights; null: not known yet. */
  protected readonly studio = signal<StudioDetails | null>(null);
  protected readonly view = inject(ViewChoices);
  protected readonly isLarge = this.view.largeBench;
  protected readonly showsVersions = signal(false);
  /** The part whose explanation is open. */
  protected readonly explained = signal<Part | null>(null);
  private readonly travel = inject(Travel);

  protected readonly parts = computed(() => {
    const draft = this.draft();
    if (!draft) return [];
    const { watermarks } = this.here();
    const sentences = presetSentences(draft, watermarks ? watermarks.find(({ id }) => id === draft.mark?.watermark)?.title : '…');
    return PARTS.map((part) => ({ part, name: RUNG_NAMES[part], pieces: sentences[part] }));
  });

  /** Whether a pointer is down on a part. */
  protected isPressed = false;
  protected readonly isHeld = signal(false);
  private readonly injector = inject(Injector);

  constructor() {
    effect(() => {
      const work = this.work();
      if (!work) return;
      const isKept = !isSame(work.draft, work.base.preset);
      untracked(() => (isKept ? this.drafts.keep(work) : this.drafts.discard(work.base.id)));
    });
    const title = inject(PageTitle);
    effect(() => title.setAbout(this.base()?.preset.title ?? ''));
    inject(DestroyRef).onDestroy(() => title.setAbout(''));
    this.store.dispatch(presetsActions.wanted());
    const api = inject(Api);
    const forecast = inject(SetForecast);
    effect(() => forecast.preset.set(this.draft()));
    forkJoin({ watermarks: api.listWatermarks(), fileTypes: api.listFileTypes(), studio: api.getStudio() }).subscribe({
      next: ({ studio, ...here }) => {
        this.here.set(here);
        this.studio.set(studio);
      },
      error: (error: unknown) =>
        this.store.dispatch(callFailed({ what: 'The watermarks and file types could not be loaded', sentence: sentenceOf(error) })),
    });
  }

  /** The focus has come by key; by a press it comes before the press is over, and what is being pressed must not move away meanwhile. */
  protected focused(part: Part): void {
    if (!this.isPressed) this.part.set(part);
  }

  /** While something is being typed or chosen, nothing that comes by itself moves the ladder. */
  protected hold(focused: EventTarget | null): void {
    this.isHeld.set(focused instanceof Element && focused.closest('input, nz-select, rd-name-parts') !== null);
  }

  /** After the click that may follow. */
  protected released(): void {
    setTimeout(() => (this.isPressed = false));
  }

  /** Opens a part that was pressed, and keeps it where it is on the screen while the one before it closes. */
  protected pressed(event: Event): void {
    this.isPressed = false;
    const row = event.target instanceof Element ? event.target.closest<HTMLElement>('li[data-part]') : null;
    const part = PARTS.find((one) => one === row?.dataset['part']);
    if (!row || !part || part === this.part()) return;
    const top = row.getBoundingClientRect().top;
    this.part.set(part);
    afterNextRender(() => window.scrollBy(0, row.getBoundingClientRect().top - top), { injector: this.injector });
  }

  protected change(part: string, field: string, value: unknown): void {
    const draft = this.draft();
    if (!draft) return;
    const parsed = parsePreset(withValue(draft, field, value));
    const problem = parsed.ok ? null : parsed.problems[0];
    this.wrong.set(problem ? { part, problem } : null);
    if (parsed.ok) this.work.update((work) => work && { ...work, draft: parsed.value });
  }

  /** Several values of the Size rung at once. */
  protected takeSize(values: Partial<SizeRung>): void {
    const draft = this.draft();
    if (draft) this.change('size', 'size', { ...draft.size, px: 2048, width: null, height: null, ...values });
  }

  protected about(part: Part): Explanation {
    return EXPLANATIONS[part];
  }

  protected explain(part: Part): void {
    this.explained.update((open) => (open === part ? null : part));
  }

  /** Another version becomes the next one, at once: all of them stay. */
  protected bringBack(preset: Preset): void {
    const base = this.base();
    if (base) this.store.dispatch(presetsActions.savePressed({ id: base.id, preset, version: base.version }));
  }

  protected export(): void {
    this.travel
      .export([this.presetId()])
      .catch((error: unknown) => this.store.dispatch(callFailed({ what: 'The preset was not exported', sentence: sentenceOf(error) })));
  }

  protected textChanged(part: string, field: string, event: Event): void {
    this.change(part, field, (event.target as HTMLInputElement | HTMLTextAreaElement).value.trim());
  }

  protected save(): void {
    const preset = this.draft();
    const base = this.base();
    if (!preset || !base) return;
    if (this.isNew()) this.store.dispatch(presetsActions.newOneAskedFor({ preset, from: NEW }));
    else this.store.dispatch(presetsActions.savePressed({ id: base.id, preset, version: base.version }));
  }

  /** Asks for the name of a new preset, and begins with one that is free. */
  protected askForName(): void {
    this.newName.set(freeTitle(this.draft()?.title ?? '', this.presets()));
  }

  protected saveAsNew(name: string): void {
    const [preset, base] = [this.draft(), this.base()];
    const title = name.trim();
    if (!preset || !base || !title) return;
    this.newName.set(null);
    // What is saved as new is no change of this one any more; its note was about this one, too.
    this.store.dispatch(presetsActions.newOneAskedFor({ preset: { ...preset, title, notes: '' }, from: base.id }));
  }

  protected putBack(): void {
    const stored = this.stored();
    this.work.set(stored && { base: stored, draft: stored.preset });
    this.wrong.set(null);
    if (this.isNew()) void this.router.navigate(['/presets']);
  }

  protected remove(): void {
    this.store.dispatch(presetsActions.deletionAskedFor({ id: this.presetId() }));
  }
}
