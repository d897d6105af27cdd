import { ChangeDetectionStrategy, Component, computed, input, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { ALL_PICTURES, type Filter, type FindingCode, isOpen, KINDS, MASTER_FORMATS } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzInputModule } from 'ng-zorro-antd/input';
import { NzSelectModule } from 'ng-zorro-antd/select';
import { counted } from '../look/figures';
import { SelectName } from '../look/select-name';

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
        <nz-select nzSize="small" rdName="Stars" [ngModel]="filter().stars" (ngModelChange)="change({ stars: $event })">
          @for (option of stars; track option[0]) {
            <nz-option [nzValue]="option[0]" [nzLabel]="option[1]" />
          }
        </nz-select>
        <nz-select nzSize="small" rdName="Choice" [ngModel]="filter().choice" (ngModelChange)="change({ choice: $event })">
          @for (option of choices; track option[0]) {
            <nz-option [nzValue]="option[0]" [nzLabel]="option[1]" />
          }
        </nz-select>
        <nz-select nzSize="small" rdName="Shape" [ngModel]="filter().orientation" (ngModelChange)="change({ orientation: $event })">
          @for (option of orientations; track option[0]) {
            <nz-option [nzValue]="option[0]" [nzLabel]="option[1]" />
          }
        </nz-select>
        <nz-select
          nzSize="small"
          class="wide"
          nzMode="multiple"
          nzPlaceHolder="Any type"
          rdName="File type"
          [nzMaxTagCount]="2"
          [ngModel]="filter().types"
          (ngModelChange)="change({ types: $event })"
        >
          @for (type of types; track type) {
            <nz-option [nzValue]="type" [nzLabel]="type.toUpperCase()" />
          }
        </nz-select>
        <nz-select
          nzSize="small"
          class="wide"
          nzMode="multiple"
          nzPlaceHolder="Any tag"
          rdName="Tag"
          [nzMaxTagCount]="2"
          [ngModel]="filter().tags"
          (ngModelChange)="change({ tags: $event })"
        >
          @for (tag of tags(); track tag) {
            <nz-option [nzValue]="tag" [nzLabel]="tag" />
          }
        </nz-select>
        <nz-select
          nzSize="small"
          class="wide"
          nzMode="multiple"
          nzPlaceHolder="Any finding"
          rdName="Finding"
          [nzMaxTagCount]="2"
          [ngModel]="filter().findings"
          (ngModelChange)="change({ findings: $event })"
        >
          @for (kind of kinds(); track kind.code) {
            <nz-option [nzValue]="kind.code" [nzLabel]="kind.title" />
          }
        </nz-select>
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
    const { stars, choice, orientation, types, tags, findings, ids } = this.filter();
    const said = (options: readonly (readonly [string, string])[], value: string) =>
      value === 'any' ? [] : [(options.find(([key]) => key === value)?.[1] ?? value).toLowerCase()];
    const titles = findings.map((code) => KINDS[code as FindingCode]?.title('').toLowerCase() ?? code);
    const parts = [
      ...said(this.stars, stars),
      ...said(this.choices, choice),
      ...said(this.orientations, orientation),
      types.map((type) => type.toUpperCase()).join(' or '),
      tags.join(' or '),
      titles.join(' or '),
      ids ? counted(ids.length, 'picture') + ' from Vet' : '',
    ];
    return parts.filter(Boolean).join(', ');
  });
  protected readonly kinds = computed(() => this.codes().flatMap((code) => (KINDS[code] ? [{ code, title: KINDS[code].title('') }] : [])));
  protected readonly types = MASTER_FORMATS;
  protected readonly stars = [
    ['any', 'Any stars'],
    ['unrated', 'Unrated'],
    ...[1, 2, 3, 4].map((count) => [String(count), `${count} and up`] as const),
    ['5', '5 stars'],
  ] as const;
  protected readonly choices = [
    ['any', 'Any choice'],
    ['picked', 'Picked'],
    ['in', 'Not left out'],
    ['left-out', 'Left out'],
  ] as const;
  protected readonly orientations = [
    ['any', 'Any shape'],
    ['landscape', 'Landscape'],
    ['upright', 'Upright'],
    ['square', 'Square'],
  ] as const;

  protected change(part: Partial<Filter>): void {
    this.changed.emit({ ...this.filter(), ...part });
  }
}
