import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { Store } from '@ngrx/store';
import { counted, joinPath, weight } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { planActions } from '../plan/plan.store';

/** Names that are told. */
const NAMES = 3;

/** Says what another preset will make of some pictures, and makes it when that is right. */
@Component({
  selector: 'rd-send-on',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzButtonModule],
  template: `
    <p role="status">
      <strong>“{{ title() }}”</strong> <span class="figures" [class.bad]="problem()">{{ words() }}</span>
      <button nz-button nzSize="small" nzType="primary" type="button" [disabled]="!files()" (click)="make()">Make them</button>
      <button nz-button nzSize="small" type="button" (click)="closed.emit('')">Not now</button>
    </p>
  `,
  styles: `
    p {
      display: flex;
      flex-wrap: wrap;
      gap: 4px 12px;
      align-items: center;
      margin: 0 0 8px;
      padding: 6px 12px;
      background: var(--sheet);
      border: 1px solid var(--petrol);
      border-radius: var(--radius);
    }
    .bad {
      color: var(--brick);
    }
  `,
})
export class SendOn {
  readonly setId = input.required<string>();
  readonly presetId = input.required<string>();
  readonly title = input.required<string>();
  readonly masterIds = input.required<readonly string[]>();
  /** What was done; empty: nothing. */
  readonly closed = output<string>();
  private readonly api = inject(Api);
  private readonly store = inject(Store);
  private readonly planned = rxResource({
    params: () => ({ setId: this.setId(), presetId: this.presetId() }),
    stream: ({ params: { setId, presetId } }) => this.api.planSet({ setId, body: { presetIds: [presetId], earlier: 'keep' } }),
  });
  private readonly outputs = computed(() => {
    const wanted = new Set(this.masterIds());
    return (this.planned.hasValue() ? this.planned.value().outputs : []).filter(({ masterId }) => wanted.has(masterId));
  });
  private readonly made = computed(() => this.outputs().filter((one) => one.status === 'planned'));
  /** How many files would be made. */
  protected readonly files = computed(() => this.made().length);
  protected readonly problem = computed(() => {
    const error = this.planned.error();
    return error ? sentenceOf(error.cause ?? error) : (this.planned.value()?.placeProblem?.message ?? null);
  });
  protected readonly words = computed(() => {
    if (this.problem()) return this.problem();
    if (!this.planned.hasValue()) return 'working out what will come out …';
    const made = this.made();
    const rest = this.outputs().length - made.length;
    const there = rest ? `; of ${counted(rest, 'picture')} it makes nothing new` : '';
    if (!made.length) return `makes nothing new of ${counted(this.masterIds().length, 'picture')}.`;
    const bytes = made.reduce((sum, { expectedBytes }) => sum + expectedBytes, 0);
    const names = made.slice(0, NAMES).map(({ folder, fileName }) => joinPath(folder, fileName));
    return `makes ${counted(made.length, 'file')}, about ${weight(bytes)}: ${names.join(', ')}${made.length > NAMES ? ' …' : ''}${there}`;
  });

  protected make(): void {
    this.store.dispatch(planActions.runPressed({ only: { masterIds: [...this.masterIds()] }, presetIds: [this.presetId()] }));
    this.closed.emit(`${counted(this.masterIds().length, 'picture')} sent to “${this.title()}”. What comes out will stand here.`);
  }
}
