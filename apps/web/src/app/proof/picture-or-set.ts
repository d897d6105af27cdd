import { ChangeDetectionStrategy, Component, inject, model } from '@angular/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { ProofChoice } from './proof-choice';

/** Whether the picture that is judged is meant, or all of its set. */
@Component({
  selector: 'rd-picture-or-set',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzButtonModule],
  host: { role: 'group', 'aria-label': 'Pictures' },
  template: `
    <button nz-button nzSize="small" type="button" [attr.aria-pressed]="!isOfSet()" (click)="choose(false)">This picture</button>
    <button nz-button nzSize="small" type="button" [attr.aria-pressed]="isOfSet()" (click)="choose(true)">
      All {{ choice.masters().length }} pictures
    </button>
  `,
  styles: `
    :host {
      display: flex;
      gap: 6px;
    }
  `,
})
export class PictureOrSet {
  readonly isOfSet = model.required<boolean>();
  protected readonly choice = inject(ProofChoice);

  protected choose(isOfSet: boolean): void {
    this.choice.said.set('');
    this.isOfSet.set(isOfSet);
  }
}
