import { ChangeDetectionStrategy, Component, effect, inject, input, output } from '@angular/core';
import { NonNullableFormBuilder, ReactiveFormsModule } from '@angular/forms';
import { labelAt, StudioDetails } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzInputModule } from 'ng-zorro-antd/input';

const HINTS: Partial<Record<keyof StudioDetails, string>> = {
  creator: 'The photographer',
  copyrightHolder: 'Stands behind © and the year of capture',
  credit: 'As it shall be printed beside the picture',
  webStatement: 'A web address',
};
const FIELDS = (Object.keys(StudioDetails.shape) as (keyof StudioDetails)[]).map((key) => ({
  key,
  label: labelAt(StudioDetails, key),
  hint: HINTS[key] ?? '',
}));

/** The rights details that fill what a master leaves empty: the studio's, or those of one set. */
@Component({
  selector: 'rd-rights-form',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [ReactiveFormsModule, NzButtonModule, NzInputModule],
  template: `
    <form [formGroup]="form" (ngSubmit)="saved.emit(form.getRawValue())">
      @for (field of fields; track field.key) {
        <label [for]="prefix() + field.key">{{ field.label }}</label>
        <div>
          <input
            nz-input
            [id]="prefix() + field.key"
            [formControlName]="field.key"
            [placeholder]="fallback()?.[field.key] ?? ''"
            autocomplete="off"
          />
          <span class="soft hint">{{ field.hint }}</span>
        </div>
      }
      <span></span>
      <div>
        <button nz-button nzType="primary" type="submit" [disabled]="form.pristine">Save</button>
        <ng-content />
      </div>
    </form>
  `,
  styles: `
    form {
      display: grid;
      grid-template-columns: 160px minmax(0, 1fr);
      align-content: start;
      gap: 12px 20px;
      align-items: start;
    }
    label {
      line-height: 32px;
      text-align: right;
    }
    .hint {
      font-size: 13px;
    }
  `,
})
export class RightsForm {
  readonly details = input<StudioDetails | null>(null);
  /** What stands in for a field that is left empty. */
  readonly fallback = input<StudioDetails | null>(null);
  /** Makes the ids of two such forms on a page different. */
  readonly prefix = input('');
  readonly saved = output<StudioDetails>();
  protected readonly fields = FIELDS;
  protected readonly form = inject(NonNullableFormBuilder).group({
    creator: '',
    copyrightHolder: '',
    credit: '',
    terms: '',
    email: '',
    website: '',
    jobTitle: '',
    phone: '',
    address: '',
    city: '',
    region: '',
    postalCode: '',
    country: '',
    webStatement: '',
  });
  private shown = '';

  constructor() {
    effect(() => {
      const details = this.details();
      // The same details come again with every change of a set: what is being typed is not taken away.
      if (!details || JSON.stringify(details) === this.shown) return;
      this.shown = JSON.stringify(details);
      // What was changed elsewhere meanwhile is shown, but for fields that have been typed in and not saved yet.
      for (const { key } of FIELDS) {
        const control = this.form.controls[key];
        if (control.pristine || control.value === details[key]) control.reset(details[key]);
      }
    });
  }
}
