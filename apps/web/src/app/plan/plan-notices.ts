import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { Store } from '@ngrx/store';
import { counted, earlierSentence, type SetChange } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { setActions, setFeature } from '../set/set.store';
import { planFeature } from './plan.store';

/** What is said once of a whole plan: what becomes of earlier files, with a way to keep them; what an earlier engine made, with one to make it again. */
@Component({
  selector: 'rd-plan-notices',
  imports: [NzButtonModule],
  template: `
    @if (earlierWords(); as words) {
      <div>
        <details>
          <summary>{{ words }}</summary>
          <ul>
            @for (line of names(); track line) {
              <li>{{ line }}</li>
            }
          </ul>
        </details>
        <button nz-button nzType="link" nzSize="small" (click)="change({ keepsEarlier: !keeps() })">
          {{ keeps() ? 'Let them give way' : 'Keep them' }}
        </button>
      </div>
    }
    @if (asksAboutCopies()) {
      <p>
        {{ copyWords() }}
        <button nz-button nzType="link" nzSize="small" (click)="change({ copies: 'go' })">Take them away</button>
        <button nz-button nzType="link" nzSize="small" (click)="change({ copies: 'stay' })">Leave them</button>
      </p>
    }
    @for (notice of notices(); track notice.message) {
      <p>
        {{ notice.message }}
        @if (notice.code === 'engine-offer') {
          <button nz-button nzType="link" nzSize="small" (click)="change({ remake: true })">Make them again</button>
        } @else if (notice.code === 'earlier-engine' && isRemade()) {
          <button nz-button nzType="link" nzSize="small" (click)="change({ remake: false })">Leave them</button>
        }
      </p>
    }
  `,
  styles: `
    summary {
      cursor: pointer;
    }
    ul {
      overflow-y: auto;
      max-height: 160px;
      margin: 4px 0;
      padding-left: 20px;
    }
    div {
      display: flex;
      align-items: start;
    }
    summary {
      line-height: 24px;
    }
    p,
    div {
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

  protected readonly earlier = this.store.selectSignal(planFeature.selectEarlier);
  protected readonly keeps = computed(() => this.set()?.keepsEarlier ?? false);
  private readonly copies = computed(() => this.set()?.copies);
  protected readonly earlierWords = computed(() => earlierSentence(this.earlier(), this.keeps() ? 'keep' : 'go', this.copies() === 'go'));
  protected readonly names = computed(() => {
    const keeps = this.keeps();
    return this.earlier().names.map(({ from, to }) => (keeps ? from : to === null ? `${from} goes` : `${from} → ${to}`));
  });
  protected readonly asksAboutCopies = computed(() => this.copies() === null && this.earlier().copies > 0);
  protected readonly copyWords = computed(() => {
    const { copies } = this.earlier();
    return `${counted(copies, 'older file')} ${copies === 1 ? 'lies' : 'lie'} beside ${copies === 1 ? 'its newer self' : 'their newer selves'}, under another name.`;
  });

  protected change(change: SetChange): void {
    const setId = this.set()?.id;
    if (setId) this.store.dispatch(setActions.changedByHand({ setId, change }));
  }
}
