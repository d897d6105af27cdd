import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { changesBetween, type Preset } from '@rundle/core';

/** Two presets, or two versions of one, side by side: only what differs. */
@Component({
  selector: 'rd-differences',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (changes().length) {
      <table>
        <thead>
          <tr>
            <th scope="col"><span class="quiet">Value</span></th>
            <th scope="col">{{ from() }}</th>
            <th scope="col">{{ to() }}</th>
          </tr>
        </thead>
        <tbody>
          @for (change of changes(); track change.path) {
            <tr>
              <th scope="row">{{ change.label }}</th>
              <td>{{ change.from || '(empty)' }}</td>
              <td>{{ change.to || '(empty)' }}</td>
            </tr>
          }
        </tbody>
      </table>
    } @else {
      <p class="soft">They say the same.</p>
    }
  `,
  styles: `
    table {
      width: 100%;
      border-collapse: collapse;
    }
    th,
    td {
      padding: 4px 18px 4px 0;
      font-weight: 400;
      text-align: left;
      vertical-align: top;
      border-bottom: 1px solid var(--line);
    }
    thead th {
      font-weight: 600;
    }
    tbody th {
      width: 200px;
      color: var(--ink-soft);
    }
  `,
})
export class Differences {
  readonly before = input.required<Preset>();
  readonly after = input.required<Preset>();
  /** What the two are called. */
  readonly from = input.required<string>();
  readonly to = input.required<string>();
  protected readonly changes = computed(() => changesBetween(this.before(), this.after()));
}
