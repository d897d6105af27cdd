import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { Store } from '@ngrx/store';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { setActions, setFeature } from '../set/set.store';
import { planFeature } from './plan.store';

/** What is said once of a whole plan; what an earlier engine made is made again when that is pressed here. */
@Component({
  selector: 'rd-plan-notices',
  imports: [NzButtonModule],
  template: `
    @for (notice of notices(); track notice.message) {
      <p>
        {{ notice.message }}
        @if (notice.code === 'engine-offer') {
          <button nz-button nzType="link" nzSize="small" (click)="remake(true)">Make them again</button>
        } @else if (notice.code === 'earlier-engine' && isRemade()) {
          <button nz-button nzType="link" nzSize="small" (click)="remake(false)">Leave them</button>
        }
      </p>
    }
  `,
  styles: `
    p {
      margin-bottom: 10px;
      padding: 6px 14px;
      font-size: 13px;
      background: var(--petrol-wash);
      border-left: 4px solid var(--petrol);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class PlanNotices {
  private readonly store = inject(Store);
  private readonly set = this.store.selectSignal(setFeature.selectSet);
  protected readonly notices = this.store.selectSignal(planFeature.selectNotices);
  protected readonly isRemade = computed(() => this.set()?.remake ?? false);

  protected remake(remake: boolean): void {
    const setId = this.set()?.id;
    if (setId) this.store.dispatch(setActions.changedByHand({ setId, change: { remake } }));
  }
}
