import { ChangeDetectionStrategy, Component, computed, inject, input, linkedSignal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import type { SecondLook as Look } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { setActions } from '../set/set.store';
import { ProofChoice } from './proof-choice';

/** Marks the picture, as the preset makes it, as one that needs another look, with a note; Plan lists it until a run makes it anew. */
@Component({
  selector: 'rd-second-look',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [FormsModule, NzButtonModule],
  template: `
    @if (look(); as due) {
      <span class="due">Needs another look{{ due.note ? ': ' + due.note : '' }}</span>
      <button nz-button nzSize="small" type="button" [disabled]="!isReady()" (click)="change(null)">It is good</button>
    } @else {
      <form (ngSubmit)="isReady() && change(note().trim())">
        <input type="text" name="note" maxlength="300" placeholder="What about it?" aria-label="Note for another look" [(ngModel)]="note" />
        <button nz-button nzSize="small" type="submit" [disabled]="!isReady()">Needs another look</button>
      </form>
    }
  `,
  styles: `
    :host,
    form {
      display: flex;
      gap: 8px;
      align-items: center;
    }
    input {
      width: 190px;
      height: 24px;
      padding: 0 6px;
      font: inherit;
      background: var(--sheet);
      border: 1px solid var(--line-strong);
      border-radius: var(--radius);
    }
    .due {
      padding: 0 6px;
      background: var(--amber-wash);
      border-left: 3px solid var(--amber);
    }
  `,
})
export class SecondLook {
  /** Whether the picture that is judged is there. */
  readonly isReady = input(true);
  private readonly choice = inject(ProofChoice);
  private readonly store = inject(Store);
  private readonly about = computed(() => `${this.choice.master()?.id} ${this.choice.stored()?.id}`);
  protected readonly look = computed(() => this.choice.set()?.secondLooks.find((one) => keyOf(one) === this.about()) ?? null);
  protected readonly note = linkedSignal({ source: this.about, computation: () => '' });

  /** @param note null: it needs none */
  protected change(note: string | null): void {
    const [set, master, stored] = [this.choice.set(), this.choice.master(), this.choice.stored()];
    if (!set || !master || !stored) return;
    const others = set.secondLooks.filter((one) => keyOf(one) !== this.about());
    const own = note === null ? [] : [{ masterId: master.id, presetId: stored.id, note, markedAt: null }];
    this.store.dispatch(setActions.changedByHand({ setId: set.id, change: { secondLooks: [...others, ...own] } }));
  }
}

const keyOf = ({ masterId, presetId }: Look): string => `${masterId} ${presetId}`;
