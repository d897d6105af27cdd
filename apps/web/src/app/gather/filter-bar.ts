import { ChangeDetectionStrategy, Component, computed, input, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { ALL_PICTURES, type Filter, type FindingCode, isOpen, KINDS, MASTER_FORMATS, typeLabel } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzInputModule } from 'ng-zorro-antd/input';
import { NzSelectModule } from 'ng-zorro-antd/select';
import { counted } from '../look/figures';
import { SelectName } from '../look/select-name';

type Option = readonly [value: string, words: string];

/** Parts of which one value is chosen; the first lets all through. */
const SINGLE: readonly { part: 'stars' | 'choice' | 'orientation'; name: string; options: readonly Option[] }[] = [
  {
    part: 'stars',
    name: 'Stars',
    options: [
      ['any', 'Any stars'],
      ['unrated', 'Unrated'],
      ...[1, 2, 3, 4].map((count): Option => [String(count), `${count} and up`]),
      ['5', '5 stars'],
    ],
  },
  {
    part: 'choice',
    name: 'Choice',
    options: [
      ['any', 'Any choice'],
      ['picked', 'Picked'],
      ['in', 'Not left out'],
      ['left-out', 'Left out'],
    ],
  },
  {
    part: 'orientation',
    name: 'Shape',
    options: [
      ['any', 'Any shape'],
      ['landscape', 'Landscape'],
      ['upright', 'Upright'],
      ['square', 'Square'],
    ],
  },
];

const wordsOf = (options: readonly Option[], value: string): string => options.find(([own]) => own === value)?.[1] ?? value;

/** What is shown of a set: each part narrows it further. */
@Component({
  selector: 'rd-filter-bar',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [FormsModule, NzButtonModule, NzInputModule, NzSelectModule, SelectName],
  template: `
    <div class="bar" role="search" aria-label="Show only">
      <input
        nz-input
        nzSize="small"
        type="search"
        placeholder="Name or tag"
        aria-label="Name or tag, or keyword"
        [ngModel]="filter().text"
        (ngModelChange)="change({ text: $event })"
      />
      <button
        nz-button
        nzSize="small"
        type="button"
        class="words"
        aria-controls="filter-parts"
        [class.active]="words()"
        [attr.aria-expanded]="open()"
        [title]="words() || 'All pictures are shown'"
        (click)="open.set(!open())"
        [textContent]="words() ? 'Only ' + words() : 'Show only …'"
      ></button>
      @if (narrowed()) {
        <button nz-button nzSize="small" type="button" (click)="changed.emit(all)">Show all</button>
      }
    </div>
    <div id="filter-parts" class="parts" role="group" aria-label="What is shown" [hidden]="!open()">
      @if (open()) {
        @for (list of single; track list.part) {
          <nz-select nzSize="small" [rdName]="list.name" [ngModel]="filter()[list.part]" (ngModelChange)="choose(list.part, $event)">
            @for (option of list.options; track option[0]) {
              <nz-option [nzValue]="option[0]" [nzLabel]="option[1]" />
            }
          </nz-select>
        }
        @for (list of several(); track list.part) {
          <nz-select
            nzSize="small"
            class="wide"
            nzMode="multiple"
            [nzPlaceHolder]="'Any ' + list.name.toLowerCase()"
            [rdName]="list.name"
            [nzMaxTagCount]="2"
            [ngModel]="filter()[list.part]"
            (ngModelChange)="choose(list.part, $event)"
          >
            @for (option of list.options; track option[0]) {
              <nz-option [nzValue]="option[0]" [nzLabel]="option[1]" />
            }
          </nz-select>
        }
      }
    </div>
  `,
  styles: `
    :host {
      display: contents;
    }
    .bar {
      display: flex;
      align-items: center;
      gap: 5px;
      min-width: 0;
    }
    .bar input {
      width: 112px;
      height: 24px;
    }
    .words {
      max-width: 420px;
      overflow: hidden;
      text-overflow: ellipsis;
      &.active {
        color: var(--petrol);
        border-color: var(--petrol);
      }
    }
    .parts {
      // Below the whole bar, whatever stands beside it.
      order: 1;
      flex: 1 0 100%;
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 6px;
      &[hidden] {
        display: none;
      }
    }
    nz-select {
      width: 128px;
      &.wide {
        width: 176px;
      }
    }
  `,
})
export class FilterBar {
  readonly filter = input.required<Filter>();
  readonly tags = input.required<readonly string[]>();
  /** Codes of findings that pictures of the set have. */
  readonly codes = input.required<readonly FindingCode[]>();
  readonly changed = output<Filter>();
  protected readonly all = ALL_PICTURES;
  protected readonly narrowed = computed(() => !isOpen(this.filter()));
  protected readonly open = signal(false);
  /** What is active beside the text, as words; empty: nothing. */
  protected readonly words = computed(() => {
    const filter = this.filter();
    const parts = [
      ...SINGLE.map(({ part, options }) => (filter[part] === 'any' ? '' : wordsOf(options, filter[part]).toLowerCase())),
      filter.types.map((type) => typeLabel(type)).join(' or '),
      filter.tags.join(' or '),
      filter.findings.map((code) => KINDS[code as FindingCode]?.title('').toLowerCase() ?? code).join(' or '),
      filter.ids ? `${counted(filter.ids.length, 'picture')} from Vet` : '',
    ];
    return parts.filter(Boolean).join(', ');
  });
  protected readonly single = SINGLE;
  protected readonly several = computed((): { part: 'types' | 'tags' | 'findings'; name: string; options: Option[] }[] => [
    { part: 'types', name: 'Type', options: MASTER_FORMATS.map((type) => [type, typeLabel(type)]) },
    { part: 'tags', name: 'Tag', options: this.tags().map((tag) => [tag, tag]) },
    { part: 'findings', name: 'Finding', options: this.codes().flatMap((code) => (KINDS[code] ? [[code, KINDS[code].title('')]] : [])) },
  ]);

  protected choose(part: keyof Filter, value: unknown): void {
    this.change({ [part]: value });
  }

  protected change(part: Partial<Filter>): void {
    this.changed.emit({ ...this.filter(), ...part });
  }
}
