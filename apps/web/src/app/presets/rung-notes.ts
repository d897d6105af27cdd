import { ChangeDetectionStrategy, Component, computed, inject, input, linkedSignal, output, signal } from '@angular/core';
import {
  activeTone,
  fateOfFields,
  FILE_TYPES,
  type Forecast,
  idleValues,
  missingInWords,
  type NamePart,
  type Part,
  type Preset,
  risksOf,
  HALOS_WORTH_TELLING,
  type SizeRung,
  type StudioDetails,
  withNameParts,
} from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzIconModule } from 'ng-zorro-antd/icon';
import { NewNames } from '../bench/new-names';
import { SampleChoice } from '../bench/sample-choice';
import { SampleSource } from '../bench/sample-source';
import { SetForecast } from '../bench/set-forecast';
import { counted, weight } from '../look/figures';
import { ToneHistogram } from '../tone/tone-histogram';
import { ToneOverSet } from '../tone/tone-over-set';
import { AllFields } from './all-fields';
import { SizeHelper } from './size-helper';

interface Risk {
  message: string;
  /** Of the preset as it was a moment ago. */
  isStale: boolean;
}

const WHY = { first: 'the first', upright: 'an upright one', awkward: 'the most awkward name' } as const;
const FATES = { kept: 'kept', filled: 'filled in', removed: 'removed' } as const;

/** What is to be said of a rung where it is set: what does nothing, what is risky, and what it makes of the pictures at hand. */
@Component({
  selector: 'rd-rung-notes',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzButtonModule, NzIconModule, AllFields, NewNames, SizeHelper, ToneHistogram, ToneOverSet],
  template: `
    @for (risk of risks(); track risk.message) {
      <p class="risk" [class.stale]="risk.isStale">
        <nz-icon nzType="warning" aria-hidden="true" /><span class="quiet">Look here: </span>{{ risk.message }}
      </p>
    }
    @if (missing(); as words) {
      <p class="risk">
        <nz-icon nzType="warning" aria-hidden="true" />
        <span>
          <span class="quiet">Look here: </span>It makes several files of each picture, and their names do not tell them apart.
          <button type="button" (click)="named.emit(mended())">Add {{ words }} to the name</button>
        </span>
      </p>
    }
    @for (idle of idles(); track idle.path) {
      <p class="soft idle">{{ idle.message }}</p>
    }
    @if (isOpen()) {
      @switch (part()) {
        @case ('size') {
          @if (preset().file.type !== 'original' && !preset().size.sizes.length) {
            <rd-size-helper [preset]="preset()" [forecast]="current()" [setTitle]="forecast.setTitle()" (taken)="sized.emit($event)" />
          }
        }
        @case ('tone') {
          @if (choice.master(); as master) {
            @if (preset().file.type !== 'original') {
              <rd-tone-histogram [preset]="preset()" [masterId]="master.id" [decided]="decided()" />
            }
            @if (isToned()) {
              <button nz-button nzSize="small" type="button" (click)="isOverSet.set(true)">See it over the set</button>
            }
            @if (isOverSet() && choice.setId(); as setId) {
              <rd-tone-over-set [preset]="preset()" [setId]="setId" (closed)="isOverSet.set(false)" />
            }
            @if (before(); as cost) {
              <p class="soft">{{ cost }}</p>
            }
          }
        }
        @case ('file') {
          <p class="soft">{{ use() }}</p>
          @if (current(); as all) {
            @if (all.arriving) {
              <p class="soft">
                {{ forecast.setTitle() }}: {{ count(all.arriving) }} still being read, about {{ heavy(all.bytes) }} for the
                {{ all.pictures }} that are.
              </p>
            } @else if (all.pictures) {
              <p class="soft">
                {{ forecast.setTitle() }}: {{ count(all.pictures) }},
                {{ all.files > all.pictures ? countFiles(all.files) + ', ' : '' }}about {{ heavy(all.bytes) }} together.
              </p>
            }
          } @else if (figures()) {
            <p class="soft">{{ forecast.setTitle() }}: being worked out …</p>
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
            <dl [class.stale]="!forecast.isCurrent()">
              @for (example of all.examples; track example.why) {
                <dt>
                  {{ example.master }}<br /><span class="soft">{{ whys[example.why] }}</span>
                </dt>
                <dd>{{ example.output }}</dd>
              }
            </dl>
            @if (all.clashes && forecast.isCurrent()) {
              <p class="risk">
                <nz-icon nzType="warning" aria-hidden="true" />{{ count(all.clashes) }} would have a name that another has: {{ all.clash }}.
                A counter or the original name tells them apart.
              </p>
            }
            <rd-new-names [preset]="preset()" />
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
    .stale {
      opacity: 0.5;
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
    .risk button {
      padding: 0;
      font: inherit;
      font-weight: 600;
      color: var(--petrol);
      background: none;
      border: 0;
      text-decoration: underline;
      cursor: pointer;
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
  /** Whether something of the ladder is being typed or chosen: what comes by itself would move it away from under the pointer, and waits. */
  readonly isHeld = input(false);
  /** What fills missing rights; null: not known yet. */
  readonly studio = input<StudioDetails | null>(null);
  readonly sized = output<Partial<SizeRung>>();
  /** The parts of a name that tells the files of a picture apart. */
  readonly named = output<NamePart[]>();
  protected readonly forecast = inject(SetForecast);
  protected readonly choice = inject(SampleChoice);
  /** What the file type is for. */
  protected readonly use = computed(() => `${FILE_TYPES[this.preset().file.type].label}. ${FILE_TYPES[this.preset().file.type].use}`);
  private readonly source = inject(SampleSource);
  protected readonly whys = WHY;
  protected readonly fateNames = FATES;
  protected readonly heavy = weight;
  protected readonly countFiles = (files: number) => counted(files, 'file');
  protected readonly count = (pictures: number) => counted(pictures, 'picture');

  protected readonly figures = computed((): Forecast | null => this.forecast.figures() ?? null);
  /** Of the preset as it is now; null: not known yet. */
  protected readonly current = computed(() => (this.forecast.isCurrent() ? this.figures() : null));
  protected readonly missing = computed(() => (this.part() === 'name' ? missingInWords(this.preset()) : ''));
  protected readonly mended = computed(() => withNameParts(this.preset()).name.parts);
  protected readonly idles = computed(() => idleValues(this.preset()).filter(({ part }) => part === this.part()));
  protected readonly risks = computed((): Risk[] => [
    ...risksOf(this.preset()).flatMap(({ part, message }) => (part === this.part() ? [{ message, isStale: false }] : [])),
    ...this.measured(),
  ]);
  /** What is found out about the pictures comes when it is known, not when something is pressed. */
  private readonly measured = linkedSignal<{ found: Risk[]; isHeld: boolean }, Risk[]>({
    source: () => ({ found: [...this.halos(), ...this.floor()], isHeld: this.isHeld() }),
    computation: ({ found, isHeld }, before) => (isHeld && before ? before.value : found),
  });
  protected readonly fates = computed(() => {
    const [master, studio] = [this.choice.master(), this.studio()];
    return studio && master?.state === 'ready' ? fateOfFields(master.facts, this.preset(), studio) : [];
  });
  protected readonly decided = computed(() => JSON.stringify(this.choice.master()?.overrides ?? null));
  protected readonly isToned = computed(() => activeTone(this.preset().tone) !== null && this.preset().file.type !== 'original');
  protected readonly isOverSet = signal(false);
  /** What sharpening before the size costs. */
  protected readonly before = computed(() => {
    const amount = this.preset().tone?.before?.amount ?? 0;
    return amount > 0 ? 'To be sharpened before its size changes, each picture is read whole: more than twice as long for large ones.' : '';
  });
  protected readonly pictureName = computed(() => this.choice.master()?.fileName ?? '');

  /** Measured on the sample, where it is sharpened. */
  private halos(): Risk[] {
    if (this.part() !== 'sharpen') return [];
    const halo = this.source.match() === 'other' ? null : this.source.shown()?.facts.halo;
    if (!this.preset().sharpen || !halo || halo.seen < HALOS_WORTH_TELLING) return [];
    return [{ message: 'On the sample it draws halos along edges.', isStale: false }];
  }

  /** The one before stands, dimmed, until the next is known: a line that goes and comes with every letter moves all below it. */
  private floor(): Risk[] {
    if (this.part() !== 'file') return [];
    const [figures, ceiling] = [this.figures(), this.preset().file.ceiling];
    if (!figures?.atFloor || !ceiling) return [];
    const message = `About ${figures.atFloor} of ${figures.files} in ${this.forecast.setTitle()} would fall to quality ${ceiling.floor}.`;
    return [{ message, isStale: !this.forecast.isCurrent() }];
  }
}
