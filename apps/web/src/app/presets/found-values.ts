import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { fieldAt, guessInWords, type GuessedValue, type Preset, SURE, valueAt } from '@rundle/core';

const TITLES: Record<GuessedValue['sure'], string> = {
  seen: 'Stands in the file',
  likely: 'Likely',
  'not seen': 'Cannot be seen in a file',
};

/** A whole rung may have been taken out since. */
const isThere = (preset: Preset, field: string): boolean => {
  const value = valueAt(preset, field);
  return value !== undefined && value !== null;
};

/** What was found in the file that a new preset began with: each value, why, and how sure it is; what has been changed since is marked. */
@Component({
  selector: 'rd-found-values',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <details open>
      <summary>Found in {{ fileName() }}. Change in the ladder below what should be otherwise.</summary>
      <div class="kinds">
        @for (kind of kinds(); track kind.title) {
          <section>
            <h2>{{ kind.title }}</h2>
            <ul>
              @for (value of kind.values; track value.field) {
                <li [title]="value.why">
                  <span class="soft">{{ value.label }}</span> {{ value.says }}
                </li>
              }
            </ul>
          </section>
        }
      </div>
    </details>
  `,
  styles: `
    details {
      margin-bottom: 16px;
      padding: 10px 16px;
      font-size: 13px;
      background: var(--petrol-wash);
      border-left: 4px solid var(--petrol);
    }
    summary {
      cursor: pointer;
    }
    .kinds {
      display: grid;
      grid-template-columns: repeat(3, minmax(0, 1fr));
      gap: 20px;
      margin-top: 8px;
    }
    h2 {
      margin-bottom: 4px;
      font-size: 13px;
    }
    ul {
      margin: 0;
      padding: 0;
      list-style: none;
    }
    li {
      overflow-wrap: anywhere;
    }
  `,
})
export class FoundValues {
  readonly fileName = input.required<string>();
  readonly values = input.required<readonly GuessedValue[]>();
  readonly preset = input.required<Preset>();
  protected readonly kinds = computed(() =>
    SURE.map((sure) => ({
      title: TITLES[sure],
      values: this.values().flatMap(({ field, why, sure: own }) =>
        own === sure && fieldAt(field) && isThere(this.preset(), field) ? [{ field, why, ...guessInWords(this.preset(), field) }] : [],
      ),
    })).filter(({ values }) => values.length > 0),
  );
}
