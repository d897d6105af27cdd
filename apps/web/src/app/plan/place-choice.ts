import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { asksForPlace, placeOfPreset, placeWords, varied } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { weight } from '../look/figures';
import { presetsFeature } from '../presets/presets.store';
import { setActions, setFeature } from '../set/set.store';
import { VaryPreset } from '../set/vary-preset';
import { draftOf, PlaceFields, placeOf } from './place-fields';
import { planFeature } from './plan.store';

/** Stands for the place of the whole set. */
const OF_SET = 'set';

/** Where the files of the set go, and those of presets that have a place of their own, as a sentence that opens into the choice. */
@Component({
  selector: 'rd-place-choice',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [FormsModule, NzButtonModule, PlaceFields],
  template: `
    <p class="said">
      Files go
      <button
        type="button"
        class="value"
        [attr.aria-expanded]="open() === ofSet"
        [disabled]="disabled()"
        [title]="path()"
        (click)="toggle(ofSet)"
      >
        {{ words() }}
      </button>
      @if (room(); as left) {
        <span class="soft figures">{{ left }}</span>
      }
      @for (own of owns(); track own.id) {
        <span class="own" [class.asks]="own.asks">
          “{{ own.title }}”
          <button type="button" class="value" [attr.aria-expanded]="open() === own.id" [disabled]="disabled()" (click)="toggle(own.id)">
            {{ own.words }}
          </button>
        </span>
      }
    </p>
    @if (problem(); as sentence) {
      <p class="problem">{{ sentence }}</p>
    }
    @if (open() !== null) {
      <form [attr.aria-label]="'Where the files ' + (openTitle() ? 'of “' + openTitle() + '” ' : '') + 'go'" (ngSubmit)="save()">
        <rd-place-fields [(draft)]="draft" (decided)="save()" />
        @if (wrong(); as sentence) {
          <p class="problem" role="alert">{{ sentence }}</p>
        }
        <p>
          <button nz-button nzType="primary" nzSize="small" type="submit">Use this place</button>
          <button nz-button nzSize="small" type="button" (click)="open.set(null)">Cancel</button>
          @if (isSaid()) {
            <button nz-button nzSize="small" type="button" (click)="asInPreset()">As the preset says</button>
          }
        </p>
      </form>
    }
  `,
  styles: `
    .said {
      display: flex;
      flex-wrap: wrap;
      gap: 2px 8px;
      align-items: baseline;
      margin-bottom: 8px;
    }
    .value {
      padding: 0 2px;
      font: inherit;
      font-weight: 600;
      color: var(--petrol);
      text-align: left;
      background: none;
      border: 0;
      border-bottom: 1px dotted currentcolor;
      cursor: pointer;
      overflow-wrap: anywhere;
      &:disabled {
        color: var(--ink);
        border-color: transparent;
        cursor: default;
      }
    }
    .own {
      display: inline-flex;
      gap: 6px;
      align-items: baseline;
      padding-left: 10px;
      border-left: 1px solid var(--line-strong);
    }
    .asks .value {
      color: var(--amber);
    }
    .problem {
      margin-bottom: 8px;
      color: var(--brick);
    }
    form {
      display: flex;
      flex-direction: column;
      gap: 8px;
      max-width: 780px;
      margin-bottom: 12px;
      padding: 12px 16px;
      background: var(--sheet);
      border: 1px solid var(--line);
      border-radius: var(--radius);
    }
    p button + button {
      margin-left: 8px;
    }
  `,
})
export class PlaceChoice {
  private readonly store = inject(Store);
  private readonly set = this.store.selectSignal(setFeature.selectSet);
  private readonly planPath = this.store.selectSignal(planFeature.selectPath);
  private readonly refusal = this.store.selectSignal(planFeature.selectPlaceProblem);
  private readonly freeBytes = this.store.selectSignal(planFeature.selectFreeBytes);
  private readonly progress = this.store.selectSignal(planFeature.selectProgress);
  protected readonly disabled = computed(() => this.progress()?.isOpen ?? false);
  protected readonly ofSet = OF_SET;
  /** What a place is being chosen for: all, or one preset by its id; null: none is. */
  protected readonly open = signal<string | null>(null);
  private readonly presets = this.store.selectSignal(presetsFeature.selectList);
  private readonly chosen = this.store.selectSignal(setFeature.selectPresetIds);
  private readonly vary = inject(VaryPreset);
  protected readonly path = computed(() => this.planPath() ?? '');
  /** Presets whose files go elsewhere than those of the set. */
  protected readonly owns = computed(() => {
    const set = this.set();
    return this.presets().flatMap(({ id, preset }) => {
      const said = set?.once[id];
      const asked = varied(preset, said);
      if (!set || !this.chosen().includes(id) || (!said?.place && asked.place === null)) return [];
      const asks = asksForPlace(asked, said?.place);
      return [
        { id, title: preset.title, asks, words: asks ? 'wants to know where' : placeWords(placeOfPreset(asked, said?.place, set.place)) },
      ];
    });
  });
  protected readonly openTitle = computed(() => this.owns().find(({ id }) => id === this.open())?.title ?? '');
  /** Whether the place of this preset was said for this set. */
  protected readonly isSaid = computed(() => this.set()?.once[this.open() ?? '']?.place !== undefined);
  protected readonly draft = signal(draftOf({ kind: 'own' }));
  protected readonly wrong = signal<string | null>(null);

  private readonly place = computed(() => this.set()?.place ?? { kind: 'own' as const });
  protected readonly words = computed(() => placeWords(this.place()));
  protected readonly problem = computed(() => this.refusal()?.message ?? null);
  protected readonly room = computed(() => {
    const free = this.freeBytes();
    return free === null || !this.planPath() ? '' : `${weight(free)} free`;
  });

  protected toggle(of: string): void {
    const set = this.set();
    const preset = this.presets().find(({ id }) => id === of)?.preset;
    const place = set && preset ? placeOfPreset(preset, set.once[of]?.place, set.place) : this.place();
    this.draft.set(draftOf(place));
    this.wrong.set(null);
    this.open.update((open) => (open === of ? null : of));
  }

  protected asInPreset(): void {
    const [set, of] = [this.set(), this.open()];
    if (!set || !of) return;
    this.vary.once(set, of, { ...set.once[of], place: undefined });
    this.open.set(null);
  }

  protected save(): void {
    const place = placeOf(this.draft());
    if (typeof place === 'string') return this.wrong.set(place);
    const [set, of] = [this.set(), this.open()];
    if (set && of === OF_SET) this.store.dispatch(setActions.changedByHand({ setId: set.id, change: { place } }));
    else if (set && of) this.vary.once(set, of, { ...set.once[of], place });
    this.open.set(null);
  }
}
