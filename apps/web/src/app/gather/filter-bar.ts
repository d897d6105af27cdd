import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { ALL_PICTURES, type Filter, type FindingCode, isOpen, KINDS, MASTER_FORMATS } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzInputModule } from 'ng-zorro-antd/input';
import { NzSelectModule } from 'ng-zorro-antd/select';

/** What is shown of a set: each part narrows it further. */
@Component({
  selector: 'rd-filter-bar',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [FormsModule, NzButtonModule, NzInputModule, NzSelectModule],
  template: `
    <div class="bar" role="search" aria-label="Show only">
      <input
        nz-input
        nzSize="small"
        type="search"
        placeholder="Name or tag"
        aria-label="Name, tag or keyword"
        [ngModel]="filter().text"
        (ngModelChange)="change({ text: $event })"
      />
      <nz-select
        nzSize="small"
        aria-label="Stars"
        nzId="filter-stars"
        [ngModel]="filter().stars"
        (ngModelChange)="change({ stars: $event })"
      >
        @for (option of stars; track option[0]) {
          <nz-option [nzValue]="option[0]" [nzLabel]="option[1]" />
        }
      </nz-select>
      <nz-select nzSize="small" aria-label="Choice" [ngModel]="filter().choice" (ngModelChange)="change({ choice: $event })">
        @for (option of choices; track option[0]) {
          <nz-option [nzValue]="option[0]" [nzLabel]="option[1]" />
        }
      </nz-select>
      <nz-select nzSize="small" aria-label="Orientation" [ngModel]="filter().orientation" (ngModelChange)="change({ orientation: $event })">
        @for (option of orientations; track option[0]) {
          <nz-option [nzValue]="option[0]" [nzLabel]="option[1]" />
        }
      </nz-select>
      <nz-select
        nzSize="small"
        class="wide"
        nzMode="multiple"
        nzPlaceHolder="Type"
        [nzMaxTagCount]="1"
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
        nzPlaceHolder="Tag"
        [nzMaxTagCount]="1"
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
        nzPlaceHolder="Finding"
        [nzMaxTagCount]="1"
        [ngModel]="filter().findings"
        (ngModelChange)="change({ findings: $event })"
      >
        @for (kind of kinds(); track kind.code) {
          <nz-option [nzValue]="kind.code" [nzLabel]="kind.title" />
        }
      </nz-select>
      @if (narrowed()) {
        <button nz-button nzSize="small" (click)="changed.emit(all)">Show all</button>
      }
    </div>
  `,
  styles: `
    :host {
      display: contents;
    }
    .bar {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 5px;
    }
    input {
      width: 108px;
      height: 24px;
    }
    nz-select {
      width: 106px;
      &.wide {
        width: 96px;
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
  protected readonly kinds = computed(() => this.codes().flatMap((code) => (KINDS[code] ? [{ code, title: KINDS[code].title('') }] : [])));
  protected readonly types = MASTER_FORMATS;
  protected readonly stars = [
    ['any', 'Any stars'],
    ['unrated', 'Unrated'],
    ...[1, 2, 3, 4].map((count) => [String(count), `${count} and up`]),
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
