import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { chosenPage, type Master } from '@rundle/core';
import { NzSelectModule } from 'ng-zorro-antd/select';
import { setActions } from '../set/set.store';

/** Which page of a file with several is the picture. */
@Component({
  selector: 'rd-page-choice',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [FormsModule, NzSelectModule],
  template: `
    <label for="page-of-file">Page of the file</label>
    <nz-select nzId="page-of-file" nzSize="small" [ngModel]="page()" (ngModelChange)="choose($event)">
      @for (one of all(); track one) {
        <nz-option [nzValue]="one" [nzLabel]="one + ' of ' + pages()" />
      }
    </nz-select>
    @if (master().state === 'arriving') {
      <span class="soft" role="status">being read …</span>
    }
  `,
  styles: `
    :host {
      display: flex;
      align-items: center;
      gap: 10px;
      margin: 8px 0 2px;
      font-size: 14px;
    }
    nz-select {
      width: 110px;
    }
  `,
})
export class PageChoice {
  readonly master = input.required<Master>();
  /** How many there are, thumbnails left aside. */
  readonly pages = input.required<number>();
  private readonly store = inject(Store);
  protected readonly all = computed(() => Array.from({ length: this.pages() }, (_, at) => at + 1));
  protected readonly page = computed(() => this.master().overrides.page ?? 1);

  protected choose(page: number): void {
    const { id: masterId, overrides } = this.master();
    if (page === this.page()) return;
    const before = [{ masterId, overrides: { page: overrides.page } }];
    const after = [{ masterId, overrides: { page: chosenPage(page) } }];
    this.store.dispatch(setActions.edited({ edit: { kind: 'marks', label: 'page', before, after } }));
  }
}
