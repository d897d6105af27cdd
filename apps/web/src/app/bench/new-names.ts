import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import type { NewName, Preset } from '@rundle/core';
import { map, of, switchMap, timer } from 'rxjs';
import { Api } from '../api/api';
import { counted } from '../look/figures';
import { SampleChoice } from './sample-choice';

/** How long nothing has to change before names are asked for, in ms. */
const REST = 250;

/** All names that the preset on the bench would give to the set that its sample is from, old and new side by side. */
@Component({
  selector: 'rd-new-names',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <button type="button" class="press" [attr.aria-expanded]="isOpen()" (click)="isOpen.set(!isOpen())">
      {{ isOpen() ? 'Fewer names' : 'All names' }}
    </button>
    @if (isOpen()) {
      @if (loaded.error()) {
        <p class="problem">
          The names could not be worked out. <button type="button" class="press" (click)="loaded.reload()">Try again</button>
        </p>
      } @else if (known(); as all) {
        <p class="soft">{{ words() }}</p>
        <div class="list" [class.stale]="!isCurrent()" tabindex="0" role="region" [attr.aria-label]="words()">
          <table>
            <tbody>
              @for (name of all.names; track $index) {
                <tr>
                  <td class="soft">{{ name.master }}</td>
                  <td>{{ name.output }}</td>
                </tr>
              }
            </tbody>
          </table>
        </div>
      } @else {
        <p class="soft">Being worked out …</p>
      }
    }
  `,
  styles: `
    .press {
      padding: 0;
      font: inherit;
      font-weight: 600;
      color: var(--petrol);
      background: none;
      border: 0;
      text-decoration: underline;
      cursor: pointer;
    }
    p {
      margin: 0 0 4px;
    }
    .problem {
      color: var(--brick);
    }
    .list {
      max-height: 320px;
      overflow: auto;
      background: var(--sheet);
      border: 1px solid var(--line);
      border-radius: var(--radius);
    }
    .stale {
      opacity: 0.5;
    }
    table {
      width: 100%;
      table-layout: fixed;
      border-collapse: collapse;
    }
    tr {
      content-visibility: auto;
      contain-intrinsic-block-size: 24px;
    }
    td {
      padding: 2px 8px;
      vertical-align: top;
      overflow-wrap: anywhere;
      border-bottom: 1px solid var(--line);
    }
    td + td {
      font-weight: 600;
    }
  `,
})
export class NewNames {
  readonly preset = input.required<Preset>();
  private readonly api = inject(Api);
  private readonly choice = inject(SampleChoice);
  protected readonly isOpen = signal(false);
  private readonly asked = computed(() => JSON.stringify([this.choice.setId(), this.preset()]));
  /** What came last, and what it was asked for. */
  protected readonly known = signal<{ asked: string; title: string; names: NewName[] } | null>(null);
  protected readonly loaded = rxResource({
    params: () => ({
      isOpen: this.isOpen(),
      setId: this.choice.setId(),
      title: this.choice.setTitle(),
      preset: this.preset(),
      asked: this.asked(),
    }),
    stream: ({ params: { isOpen, setId, title, preset, asked } }) =>
      isOpen && setId
        ? timer(REST).pipe(
            switchMap(() => this.api.listNewNames({ setId, body: preset })),
            map((names) => this.known.set({ asked, title, names })),
          )
        : of(null),
  });
  /** Whether the names are of the preset and set as they are now. */
  protected readonly isCurrent = computed(() => this.known()?.asked === this.asked());
  protected readonly words = computed(() => {
    const known = this.known();
    return known ? `${known.title}: ${counted(known.names.length, 'name')}` : '';
  });
}
