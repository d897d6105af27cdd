import {
  afterNextRender,
  ChangeDetectionStrategy,
  Component,
  computed,
  ElementRef,
  inject,
  input,
  linkedSignal,
  output,
  signal,
} from '@angular/core';
import { Store } from '@ngrx/store';
import { changesBetween, type Once, onceOf, parsePreset, PARTS, type Part, presetSentences, type StoredPreset, varied } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { forkJoin } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { counted } from '../look/figures';
import { NOTHING_YET, type Offered } from '../presets/editors';
import { withValue } from '../presets/paths';
import { RUNG_NAMES } from '../presets/rung-names';
import { ValueSentence } from '../presets/value-sentence';
import { setFeature } from '../set/set.store';
import { VaryPreset } from '../set/vary-preset';
import { callFailed } from '../shell/problems';

/** Every value of a preset, to be another for this set: beside the run sheet, which follows. It holds until it is cleared, or kept as the next version. */
@Component({
  selector: 'rd-once-panel',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzButtonModule, ValueSentence],
  host: { '(keydown.escape)': 'escape($event)' },
  template: `
    <section [attr.aria-label]="'This once: ' + stored().preset.title">
      <header>
        <h2>This once</h2>
        <span>“{{ stored().preset.title }}” for this set only</span>
        <button nz-button nzSize="small" type="button" class="close" (click)="closed.emit()">Close</button>
      </header>
      <ol>
        @for (row of rows(); track row.part) {
          <li [class.changed]="changedParts().has(row.part)">
            <strong>{{ row.name }}</strong>
            <div>
              <rd-value-sentence
                [preset]="draft()"
                [pieces]="row.pieces"
                [here]="here()"
                (changed)="change(row.part, $event.field, $event.value)"
              />
              @if (wrong()?.part === row.part) {
                <p class="problem" role="alert">{{ wrong()!.sentence }}</p>
              }
            </div>
          </li>
        }
      </ol>
      <footer>
        @if (changes().length) {
          <p>{{ inWords() }}</p>
          <button nz-button nzType="primary" type="button" (click)="save()">Save as version {{ stored().version + 1 }}</button>
          <button nz-button type="button" (click)="clear()">As the preset has it</button>
        } @else {
          <p class="soft">Press a value to make it another for this set. The preset itself stays as it is.</p>
        }
      </footer>
    </section>
  `,
  styleUrl: './once-panel.less',
})
export class OncePanel {
  readonly stored = input.required<StoredPreset>();
  readonly closed = output();
  private readonly store = inject(Store);
  private readonly vary = inject(VaryPreset);
  private readonly set = this.store.selectSignal(setFeature.selectSet);
  protected readonly here = signal<Offered>(NOTHING_YET);

  private readonly now = computed((): Once => this.set()?.once[this.stored().id] ?? {});
  /** The preset as it is carried out for this set. */
  protected readonly draft = computed(() => varied(this.stored().preset, this.now()));
  protected readonly changes = computed(() => changesBetween(this.stored().preset, this.draft()));
  protected readonly inWords = computed(() => {
    const changes = this.changes().map(({ label, from, to }) => `${label}: ${to}, not ${from}`);
    return changes.length > 3 ? `${counted(changes.length, 'value')} varied` : `${changes.join('; ')}.`;
  });
  protected readonly rows = computed(() => {
    const draft = this.draft();
    const { watermarks } = this.here();
    const sentences = presetSentences(draft, watermarks ? watermarks.find(({ id }) => id === draft.mark?.watermark)?.title : '…');
    return PARTS.map((part) => ({ part, name: RUNG_NAMES[part], pieces: sentences[part] }));
  });
  /** The rungs that say something else than those of the preset. */
  protected readonly changedParts = computed((): ReadonlySet<Part> => {
    const own = presetSentences(this.stored().preset, '…');
    const now = presetSentences(this.draft(), '…');
    return new Set(PARTS.filter((part) => JSON.stringify(own[part]) !== JSON.stringify(now[part])));
  });
  /** What was wrong with the last value, and in which rung. */
  protected readonly wrong = linkedSignal<Once, { part: Part; sentence: string } | null>({ source: this.now, computation: () => null });

  constructor() {
    const api = inject(Api);
    forkJoin({ watermarks: api.listWatermarks(), fileTypes: api.listFileTypes() }).subscribe({
      next: (here) => this.here.set(here),
      error: (error: unknown) =>
        this.store.dispatch(callFailed({ what: 'The watermarks and file types could not be loaded', sentence: sentenceOf(error) })),
    });
    const { nativeElement } = inject<ElementRef<HTMLElement>>(ElementRef);
    afterNextRender(() => nativeElement.querySelector<HTMLElement>('rd-value button')?.focus());
  }

  protected change(part: Part, field: string, value: unknown): void {
    const parsed = parsePreset(withValue(this.draft(), field, value));
    if (parsed.ok) return this.keep(onceOf(this.stored().preset, parsed.value));
    this.wrong.set({ part, sentence: parsed.problems[0]?.message ?? '' });
  }

  /** In a value that is being changed it ends only that. */
  protected escape(event: Event): void {
    if (event.target instanceof Element && !event.target.closest('input, nz-select')) this.closed.emit();
  }

  protected clear(): void {
    this.keep({});
  }

  /** Makes the variation the preset's own; what was varied is then no variation any more. */
  protected save(): void {
    this.vary.save(this.stored(), this.draft()).subscribe(() => this.keep({}));
  }

  /** Where its files go was said beside the sheet, and stays. */
  private keep(once: Once): void {
    const [set, { place }] = [this.set(), this.now()];
    if (set) this.vary.once(set, this.stored().id, place ? { ...once, place } : once);
  }
}
