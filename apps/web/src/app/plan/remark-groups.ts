import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import { Store } from '@ngrx/store';
import type { RemarkGroup } from '@rundle/core';
import { NzIconModule } from 'ng-zorro-antd/icon';
import { counted } from '../look/figures';
import { HouseRemedies } from '../set/house-remedies';
import { planFeature } from './plan.store';

/** Above the run sheet: what is to be looked at, by kind, once each. Pressing one leaves only its rows in the sheet. */
@Component({
  selector: 'rd-remark-groups',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [HouseRemedies, NzIconModule],
  template: `
    @for (group of groups(); track group.code + group.kind) {
      <button
        type="button"
        [class.failure]="group.kind === 'failure'"
        [attr.aria-pressed]="group.code === code()"
        [title]="group.toDo"
        (click)="chosen.emit(group.code === code() ? null : group)"
      >
        <nz-icon [nzType]="group.kind === 'failure' ? 'exclamation-circle' : 'warning'" aria-hidden="true" />
        {{ group.words }}
      </button>
    }
    <rd-house-remedies [codes]="codes()" />
  `,
  styles: `
    :host {
      display: flex;
      flex-wrap: wrap;
      gap: 6px;
      margin-bottom: 8px;
    }
    :host > button {
      display: flex;
      gap: 6px;
      align-items: center;
      min-height: 26px;
      padding: 1px 9px;
      font: inherit;
      font-size: 14px;
      color: var(--amber);
      background: var(--amber-wash);
      border: 1px solid transparent;
      border-radius: var(--radius);
      cursor: pointer;
      &:hover,
      &[aria-pressed='true'] {
        border-color: currentcolor;
      }
    }
    .failure {
      color: var(--brick);
      background: var(--brick-wash, var(--amber-wash));
    }
  `,
})
export class RemarkGroups {
  /** Code of the group whose rows are shown alone. */
  readonly code = input.required<string | null>();
  readonly chosen = output<RemarkGroup | null>();
  private readonly remarks = inject(Store).selectSignal(planFeature.selectRemarks);
  protected readonly codes = computed(() => this.remarks().map(({ code }) => code));
  protected readonly groups = computed(() =>
    this.remarks().map((group) => {
      const { title, pictures, outputs } = group;
      const times = outputs > pictures ? ` (${counted(outputs, 'file')})` : '';
      return { ...group, words: `${title}: ${counted(pictures, 'picture')}${times}` };
    }),
  );
}
