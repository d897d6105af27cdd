import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import type { Finding, Problem } from '@rundle/core';
import { NzIconModule } from 'ng-zorro-antd/icon';

/** Warnings and errors under a picture or in a cell: a shape, a colour and words, never colour alone. */
@Component({
  selector: 'rd-remarks',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzIconModule],
  template: `
    @if (error(); as problem) {
      <p class="error">
        <nz-icon nzType="exclamation-circle" aria-hidden="true" /><span class="quiet">Failed: </span>{{ problem.message }}
      </p>
    }
    @for (finding of worthALook(); track finding.code) {
      <p class="look"><nz-icon nzType="warning" aria-hidden="true" /><span class="quiet">Look here: </span>{{ finding.message }}</p>
    }
  `,
  styles: `
    p {
      display: flex;
      gap: 6px;
      font-size: 13px;
      line-height: 1.35;
      white-space: normal;
    }
    nz-icon {
      align-self: flex-start;
      margin-top: 3px;
      flex: none;
      font-size: 12px;
    }
    .error {
      color: var(--brick);
    }
    .look {
      color: var(--amber);
    }
  `,
})
export class Remarks {
  readonly findings = input<readonly Finding[]>([]);
  readonly error = input<Problem | null>(null);
  protected worthALook(): Finding[] {
    return this.findings().filter(({ severity }) => severity === 'look');
  }
}
