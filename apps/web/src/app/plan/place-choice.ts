import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { weight } from '../look/figures';
import { setActions, setFeature } from '../set/set.store';
import { draftOf, PlaceFields, placeOf, placeWords } from './place-fields';
import { planFeature } from './plan.store';

/** Where the files of the set go, as a sentence that opens into the choice. */
@Component({
  selector: 'rd-place-choice',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [FormsModule, NzButtonModule, PlaceFields],
  template: `
    <p class="said">
      Files go
      <button type="button" class="value" [attr.aria-expanded]="open()" [disabled]="disabled()" (click)="toggle()">{{ words() }}</button>
      @if (room(); as left) {
        <span class="soft figures">{{ left }}</span>
      }
    </p>
    @if (problem(); as sentence) {
      <p class="problem">{{ sentence }}</p>
    }
    @if (open()) {
      <form aria-label="Where the files go" (ngSubmit)="save()">
        <rd-place-fields [(draft)]="draft" />
        @if (wrong(); as sentence) {
          <p class="problem" role="alert">{{ sentence }}</p>
        }
        <p>
          <button nz-button nzType="primary" nzSize="small" type="submit">Send them there</button>
          <button nz-button nzSize="small" type="button" (click)="open.set(false)">Leave it</button>
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
  protected readonly open = signal(false);
  protected readonly draft = signal(draftOf({ kind: 'own' }));
  protected readonly wrong = signal<string | null>(null);

  private readonly place = computed(() => this.set()?.place ?? { kind: 'own' as const });
  protected readonly words = computed(() => placeWords(this.place()));
  protected readonly problem = computed(() => this.refusal()?.message ?? null);
  protected readonly room = computed(() => {
    const free = this.freeBytes();
    return free === null || !this.planPath() ? '' : `${weight(free)} free`;
  });

  protected toggle(): void {
    this.draft.set(draftOf(this.place()));
    this.wrong.set(null);
    this.open.update((open) => !open);
  }

  protected save(): void {
    const place = placeOf(this.draft());
    if (typeof place === 'string') return this.wrong.set(place);
    const setId = this.set()?.id;
    if (setId) this.store.dispatch(setActions.changedByHand({ setId, change: { place } }));
    this.open.set(false);
  }
}
