import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { Store } from '@ngrx/store';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzProgressModule } from 'ng-zorro-antd/progress';
import { CountedPipe, duration, weight, WeightPipe } from '../look/figures';
import { arriveActions, arriveFeature } from './arrive.store';

/** What is on its way into a set, what did not come in and why, and what has to be asked. */
@Component({
  selector: 'rd-arrivals',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzButtonModule, NzProgressModule, CountedPipe, WeightPipe],
  template: `
    @if (progress(); as whole) {
      <section class="box" aria-label="Files on their way">
        <p class="head">
          <strong class="figures">{{ whole.doneFiles }} of {{ whole.files | counted: 'file' }}</strong>
          <nz-progress [nzPercent]="(100 * whole.sent) / (whole.bytes || 1)" [nzShowInfo]="false" nzSize="small" />
          <span class="figures soft">{{ pace() }}</span>
          <button nz-button nzSize="small" (click)="stop()">Stop</button>
        </p>
        <ul>
          @for (upload of uploads(); track upload.id) {
            <li>
              <span class="name">{{ upload.fileName }}</span>
              <nz-progress [nzPercent]="(100 * upload.sent) / (upload.bytes || 1)" [nzShowInfo]="false" nzSize="small" />
              <span class="figures soft">{{ upload.sent | weight }} of {{ upload.bytes | weight }}</span>
            </li>
          }
        </ul>
      </section>
    }
    @if (deeper().length) {
      <section class="box ask" aria-live="polite">
        <p>
          <strong>{{ deeper().length | counted: 'file' }}</strong> lie in sub-folders.
          <button nz-button nzSize="small" nzType="primary" (click)="answerDeeper(true)">Bring them in too</button>
          <button nz-button nzSize="small" (click)="answerDeeper(false)">Only the top folder</button>
        </p>
      </section>
    }
    @if (twins().length) {
      <section class="box ask" aria-live="polite">
        <p>
          <strong>{{ twins().length | counted: 'file' }}</strong> {{ twins().length === 1 ? 'is' : 'are' }} in the set already:
          <span class="soft">{{ twinNames() }}</span>
          <button nz-button nzSize="small" (click)="answerTwins(false)">Leave them</button>
          <button nz-button nzSize="small" (click)="answerTwins(true)">Bring them in again</button>
        </p>
      </section>
    }
    @if (refused().length) {
      <section class="box refused" aria-live="polite">
        <p class="head">
          <strong>{{ refused().length | counted: 'file' }} did not come in</strong>
          <button nz-button nzType="text" nzSize="small" (click)="putAway()">Put away</button>
        </p>
        <ul>
          @for (problem of refused(); track $index) {
            <li>
              <strong>{{ problem.file }}</strong> {{ problem.message }}
            </li>
          }
        </ul>
      </section>
    }
  `,
  styles: `
    .box {
      margin-bottom: 12px;
      padding: 7px 14px;
      background: var(--sheet);
      border: 1px solid var(--line);
      border-radius: var(--radius);
      ul {
        margin: 0;
        padding: 0;
        list-style: none;
      }
    }
    .head {
      display: flex;
      align-items: center;
      gap: 16px;
      nz-progress {
        flex: 1;
      }
    }
    .box:not(.refused) li {
      display: grid;
      grid-template-columns: minmax(0, 1fr) 260px 150px;
      gap: 16px;
      align-items: center;
      font-size: 13px;
      .figures {
        text-align: right;
      }
    }
    .name {
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    .ask {
      background: var(--amber-wash);
      border-left: 4px solid var(--amber);
      button {
        margin-left: 8px;
      }
    }
    .refused {
      color: var(--brick);
      background: var(--brick-wash);
      border: 0;
      border-left: 4px solid var(--brick);
      .head {
        justify-content: space-between;
      }
      ul {
        max-height: 180px;
        overflow-y: auto;
        color: var(--ink);
      }
    }
  `,
})
export class Arrivals {
  readonly setId = input.required<string>();
  private readonly store = inject(Store);
  protected readonly progress = this.store.selectSignal(arriveFeature.selectProgress);
  protected readonly uploads = this.store.selectSignal(arriveFeature.selectUploads);
  protected readonly deeper = this.store.selectSignal(arriveFeature.selectDeeper);
  protected readonly twins = this.store.selectSignal(arriveFeature.selectTwins);
  protected readonly refused = this.store.selectSignal(arriveFeature.selectRefused);
  protected readonly twinNames = computed(() => {
    const names = this.twins().map(({ fileName, of }) => (fileName === of ? fileName : `${fileName} (as ${of})`));
    return names.length > 4 ? `${names.slice(0, 4).join(', ')} and ${names.length - 4} more` : names.join(', ');
  });
  /** So much sent, how fast, and how long it will take; looked at whenever something arrives. */
  protected readonly pace = computed(() => {
    const whole = this.progress();
    if (!whole) return '';
    const seconds = (Date.now() - whole.since) / 1000;
    const said = `${weight(whole.sent)} of ${weight(whole.bytes)}`;
    if (seconds < 1 || whole.sent === 0) return said;
    const perSecond = whole.sent / seconds;
    return `${said}, ${weight(Math.round(perSecond))} a second, about ${duration((whole.bytes - whole.sent) / perSecond)} left`;
  });

  protected stop(): void {
    this.store.dispatch(arriveActions.stopPressed());
  }

  protected answerDeeper(bring: boolean): void {
    this.store.dispatch(arriveActions.deeperAnswered({ setId: this.setId(), files: this.deeper(), bring }));
  }

  protected answerTwins(bring: boolean): void {
    this.store.dispatch(arriveActions.twinsAnswered({ setId: this.setId(), twins: this.twins(), bring }));
  }

  protected putAway(): void {
    this.store.dispatch(arriveActions.refusalsPutAway());
  }
}
