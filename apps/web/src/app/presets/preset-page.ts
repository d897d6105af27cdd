import { ChangeDetectionStrategy, Component, computed, inject, input, linkedSignal, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { parsePreset, type Part, PARTS, presetSentences, type Problem } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzPopconfirmModule } from 'ng-zorro-antd/popconfirm';
import { NzSkeletonModule } from 'ng-zorro-antd/skeleton';
import { forkJoin } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { callFailed } from '../shell/problems';
import { Remarks } from '../look/remarks';
import { Examples } from './examples';
import { NOTHING_YET } from './editors';
import { withValue } from './paths';
import { presetsActions, presetsFeature } from './presets.store';
import { ValueInPlace } from './value-in-place';

const NAMES: Record<Part, string> = {
  applies: 'Pictures',
  size: 'Size',
  colour: 'Colour',
  sharpen: 'Sharpness',
  mark: 'Mark',
  file: 'File',
  metadata: 'Metadata',
  name: 'Name',
  folder: 'Folder',
};

/** A preset as a ladder of sentences; a value is edited where it stands, and saving makes the next version. */
@Component({
  selector: 'rd-preset-page',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzButtonModule, NzPopconfirmModule, NzSkeletonModule, Remarks, Examples, ValueInPlace],
  templateUrl: './preset-page.html',
  styleUrl: './preset-page.less',
})
export class PresetPage {
  readonly presetId = input.required<string>();
  private readonly store = inject(Store);
  private readonly presets = this.store.selectSignal(presetsFeature.selectList);
  protected readonly loaded = this.store.selectSignal(presetsFeature.selectLoaded);
  protected readonly stored = computed(() => this.presets().find(({ id }) => id === this.presetId()) ?? null);
  protected readonly draft = linkedSignal(() => this.stored()?.preset ?? null);
  protected readonly changed = computed(() => JSON.stringify(this.draft()) !== JSON.stringify(this.stored()?.preset));
  /** What was wrong with the last value, and in which part. */
  protected readonly wrong = signal<{ part: string; problem: Problem } | null>(null);

  protected readonly here = signal(NOTHING_YET);

  protected readonly parts = computed(() => {
    const draft = this.draft();
    if (!draft) return [];
    const sentences = presetSentences(draft, this.here().watermarks.find(({ id }) => id === draft.mark?.watermark)?.title);
    return PARTS.map((part) => ({ part, name: NAMES[part], pieces: sentences[part] }));
  });

  constructor() {
    this.store.dispatch(presetsActions.wanted());
    const api = inject(Api);
    forkJoin({ watermarks: api.listWatermarks(), fileTypes: api.listFileTypes() }).subscribe({
      next: (here) => this.here.set(here),
      error: (error: unknown) =>
        this.store.dispatch(callFailed({ what: 'The watermarks and file types could not be loaded', sentence: sentenceOf(error) })),
    });
  }

  protected change(part: string, field: string, value: unknown): void {
    const draft = this.draft();
    if (!draft) return;
    const parsed = parsePreset(withValue(draft, field, value));
    const problem = parsed.ok ? null : parsed.problems[0];
    this.wrong.set(problem ? { part, problem } : null);
    if (parsed.ok) this.draft.set(parsed.value);
  }

  protected textChanged(part: string, field: string, event: Event): void {
    this.change(part, field, (event.target as HTMLInputElement | HTMLTextAreaElement).value.trim());
  }

  protected save(): void {
    const preset = this.draft();
    const stored = this.stored();
    if (preset && stored) this.store.dispatch(presetsActions.savePressed({ id: stored.id, preset, version: stored.version }));
  }

  protected saveAsNew(): void {
    const preset = this.draft();
    if (preset)
      this.store.dispatch(presetsActions.newOneAskedFor({ preset: { ...preset, title: `${preset.title} (copy)`.slice(0, 120) } }));
  }

  protected putBack(): void {
    this.draft.set(this.stored()?.preset ?? null);
    this.wrong.set(null);
  }

  protected remove(): void {
    this.store.dispatch(presetsActions.deletionAskedFor({ id: this.presetId() }));
  }
}
