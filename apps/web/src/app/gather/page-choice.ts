import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { Store } from '@ngrx/store';
import { chosenPage, type Master } from '@rundle/core';
import { NzInputModule } from 'ng-zorro-antd/input';
import { setActions } from '../set/set.store';

/** Which page of a file with several is the picture. */
@Component({
  selector: 'rd-page-choice',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzInputModule],
  template: `
    <label for="page-of-file">Page of the file</label>
    <input nz-input nzSize="small" id="page-of-file" type="number" min="1" [max]="pages()" [value]="page()" (change)="choose($event)" />
    <span class="soft">of {{ pages() }}</span>
    @if (isBeingRead()) {
      <span class="soft" role="status">being read …</span>
    }
  `,
  styles: `
    :host {
      display: flex;
      align-items: center;
      gap: 8px;
      margin: 8px 0 2px;
      font-size: 14px;
    }
    input {
      width: 64px;
    }
  `,
})
export class PageChoice {
  readonly master = input.required<Master>();
  /** How many there are, thumbnails left aside. */
  readonly pages = input.required<number>();
  readonly isBeingRead = input.required<boolean>();
  private readonly store = inject(Store);
  protected readonly page = computed(() => this.master().overrides.page ?? 1);

  protected choose(event: Event): void {
    const field = event.target as HTMLInputElement;
    const typed = Math.round(field.valueAsNumber);
    // What is no number leaves it as it is; what there is not becomes the nearest that there is, in the field, too.
    const page = Number.isFinite(typed) ? Math.min(this.pages(), Math.max(1, typed)) : this.page();
    field.value = String(page);
    if (page === this.page()) return;
    const { id: masterId, overrides } = this.master();
    const before = [{ masterId, overrides: { page: overrides.page } }];
    const after = [{ masterId, overrides: { page: chosenPage(page) } }];
    this.store.dispatch(setActions.edited({ edit: { kind: 'marks', label: 'page', before, after } }));
  }
}
