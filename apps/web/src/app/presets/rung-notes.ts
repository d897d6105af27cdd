import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import {
  fateOfFields,
  FILE_TYPES,
  type Forecast,
  idleValues,
  type Part,
  type Preset,
  risksOf,
  SEEN_HALO,
  type SizeRung,
  StudioDetails,
} from '@rundle/core';
import { NzIconModule } from 'ng-zorro-antd/icon';
import { SampleChoice } from '../bench/sample-choice';
import { SampleSource } from '../bench/sample-source';
import { SetForecast } from '../bench/set-forecast';
import { counted, weight } from '../look/figures';
import { AllFields } from './all-fields';
import { SizeHelper } from './size-helper';

const WHY = { first: 'the first', upright: 'an upright one', awkward: 'the most awkward name' } as const;
const FATES = { kept: 'kept', filled: 'filled in', removed: 'removed' } as const;

/** What is to be said of a rung where it is set: what does nothing, what is risky, and what it makes of the pictures at hand. */
@Component({
  selector: 'rd-rung-notes',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzIconModule, AllFields, SizeHelper],
  template: `
    @for (risk of risks(); track risk) {
      <p class="risk"><nz-icon nzType="warning" aria-hidden="true" /><span class="quiet">Look here: </span>{{ risk }}</p>
    }
    @for (idle of idles(); track idle.path) {
      <p class="soft idle">{{ idle.message }}</p>
    }
    @if (isOpen()) {
      @switch (part()) {
        @case ('size') {
          @if (preset().file.type !== 'original') {
            <rd-size-helper [preset]="preset()" [forecast]="figures()" [setTitle]="forecast.setTitle()" (taken)="sized.emit($event)" />
          }
        }
        @case ('file') {
          <p class="soft">{{ use() }}</p>
          @if (figures(); as all) {
            @if (all.pictures) {
              <p class="soft">{{ forecast.setTitle() }}: {{ count(all.pictures) }}, about {{ heavy(all.bytes) }} together.</p>
            }
          }
        }
        @case ('metadata') {
          @if (fates().length) {
            <table>
              <caption class="soft">
                What would stand in
                {{
                  pictureName()
                }}
              </caption>
              <tbody>
                @for (field of fates(); track field.label) {
                  <tr [class.removed]="field.fate === 'removed'">
                    <th scope="row">{{ field.label }}</th>
                    <td class="value" [title]="field.value">{{ field.value }}</td>
                    <td class="fate">{{ fateNames[field.fate] }}</td>
                  </tr>
                }
              </tbody>
            </table>
            <rd-all-fields [masterId]="choice.masterId()!" [preset]="preset()" />
          }
        }
        @case ('name') {
          @if (figures(); as all) {
            <dl>
              @for (example of all.examples; track example.why) {
                <dt>
                  {{ example.master }}<br /><span class="soft">{{ whys[example.why] }}</span>
                </dt>
                <dd>{{ example.output }}</dd>
              }
            </dl>
            @if (all.clashes) {
              <p class="risk">
                <nz-icon nzType="warning" aria-hidden="true" />{{ count(all.clashes) }} would have a name that another has: {{ all.clash }}.
                A counter or the original name tells them apart.
              </p>
            }
          }
        }
      }
    }
  `,
  styles: `
    :host {
      display: block;
      font-size: 14px;
      line-height: 21px;
    }
    p {
      margin: 0 0 4px;
    }
    .risk {
      display: flex;
      gap: 6px;
      color: var(--amber);
      nz-icon {
        margin-top: 4px;
        font-size: 12px;
      }
    }
    table {
      width: 100%;
      table-layout: fixed;
      border-collapse: collapse;
    }
    caption {
      caption-side: top;
      padding: 0;
      text-align: left;
    }
    th,
    td {
      padding: 1px 10px 1px 0;
      font-weight: 400;
      text-align: left;
      vertical-align: top;
    }
    th {
      width: 34%;
    }
    .value {
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    .fate {
      width: 66px;
      padding-right: 0;
      color: var(--moss);
      white-space: nowrap;
    }
    .removed {
      color: var(--ink-soft);
      .value {
        text-decoration: line-through;
      }
      .fate {
        color: inherit;
      }
    }
    dl {
      display: grid;
      grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
      gap: 4px 14px;
      margin: 0 0 4px;
    }
    dt,
    dd {
      margin: 0;
      font-weight: 400;
      overflow-wrap: anywhere;
    }
    dd {
      font-weight: 600;
    }
  `,
})
export class RungNotes {
  readonly preset = input.required<Preset>();
  readonly part = input.required<Part>();
  /** Whether this rung is the one that is being set. */
  readonly isOpen = input(false);
  readonly studio = input<StudioDetails>(StudioDetails.parse({}));
  readonly sized = output<Partial<SizeRung>>();
  protected readonly forecast = inject(SetForecast);
  protected readonly choice = inject(SampleChoice);
  /** What the file type is for. */
  protected readonly use = computed(() => `${FILE_TYPES[this.preset().file.type].label}. ${FILE_TYPES[this.preset().file.type].use}`);
  private readonly source = inject(SampleSource);
  protected readonly whys = WHY;
  protected readonly fateNames = FATES;
  protected readonly heavy = weight;
  protected readonly count = (pictures: number) => counted(pictures, 'picture');

  protected readonly figures = computed((): Forecast | null => this.forecast.figures() ?? null);
  protected readonly idles = computed(() => idleValues(this.preset()).filter(({ part }) => part === this.part()));
  protected readonly risks = computed(() => [
    ...risksOf(this.preset()).flatMap(({ part, message }) => (part === this.part() ? [message] : [])),
    ...(this.part() === 'sharpen' ? this.halos() : []),
    ...(this.part() === 'file' ? this.floor() : []),
  ]);
  protected readonly fates = computed(() => {
    const master = this.choice.master();
    return master?.state === 'ready' ? fateOfFields(master.facts, this.preset(), this.studio()) : [];
  });
  protected readonly pictureName = computed(() => this.choice.master()?.fileName ?? '');

  /** Measured on the sample, where it is sharpened. */
  private halos(): string[] {
    const halo = this.source.shown()?.facts.halo;
    if (!this.preset().sharpen || !halo || halo.p99 < SEEN_HALO) return [];
    return [`On the sample it draws rims along edges, the strongest ${Math.round(halo.p99 * 100)} % of full brightness.`];
  }

  private floor(): string[] {
    const [figures, ceiling] = [this.figures(), this.preset().file.ceiling];
    if (!figures?.atFloor || !ceiling) return [];
    return [`About ${figures.atFloor} of ${figures.pictures} in ${this.forecast.setTitle()} would fall to quality ${ceiling.floor}.`];
  }
}
