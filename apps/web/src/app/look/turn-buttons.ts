import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzIconModule } from 'ng-zorro-antd/icon';

/** Two buttons that go back and on through something, and between them what it is. */
@Component({
  selector: 'rd-turn-buttons',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzButtonModule, NzIconModule],
  template: `
    <button
      nz-button
      nzSize="small"
      type="button"
      [attr.aria-label]="what() + ' before'"
      [title]="what() + ' before: ' + keys()[0]"
      [disabled]="isFirst()"
      (click)="turned.emit(-1)"
    >
      <nz-icon nzType="left" aria-hidden="true" />
    </button>
    <ng-content />
    <button
      nz-button
      nzSize="small"
      type="button"
      [attr.aria-label]="'Next ' + what().toLowerCase()"
      [title]="'Next ' + what().toLowerCase() + ': ' + keys()[1]"
      [disabled]="isLast()"
      (click)="turned.emit(1)"
    >
      <nz-icon nzType="right" aria-hidden="true" />
    </button>
  `,
  styles: `
    :host {
      display: flex;
      gap: 8px;
      align-items: center;
    }
  `,
})
export class TurnButtons {
  /** What there are several of: "Picture". */
  readonly what = input.required<string>();
  /** The keys that do the same, back and on. */
  readonly keys = input.required<readonly [string, string]>();
  readonly isFirst = input.required<boolean>();
  readonly isLast = input.required<boolean>();
  readonly turned = output<1 | -1>();
}
