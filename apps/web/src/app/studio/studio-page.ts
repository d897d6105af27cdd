import { ChangeDetectionStrategy, Component, inject, signal } from '@angular/core';
import { NonNullableFormBuilder, ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzInputModule } from 'ng-zorro-antd/input';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { callFailed } from '../shell/problems';
import { HouseRulesList } from './house-rules';
import { Watermarks } from './watermarks';

const FIELDS = [
  { key: 'creator', label: 'Creator', hint: 'The photographer' },
  { key: 'copyrightHolder', label: 'Copyright holder', hint: 'Stands behind © and the year of capture' },
  { key: 'credit', label: 'Credit', hint: 'As it shall be printed beside the picture' },
  { key: 'terms', label: 'Terms of use', hint: '' },
  { key: 'email', label: 'E-mail', hint: '' },
  { key: 'website', label: 'Website', hint: '' },
  { key: 'webStatement', label: 'Page on the rights', hint: 'A web address' },
] as const;

/** Studio: the details that fill what a master leaves open. A form of its own; nothing else needs its state. */
@Component({
  selector: 'rd-studio-page',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [ReactiveFormsModule, NzButtonModule, NzInputModule, HouseRulesList, Watermarks],
  template: `
    <div class="page">
      <h1>Studio</h1>
      <p class="soft lead">
        These details fill rights fields that a master leaves empty, in presets that say so. What a file says already is never overwritten.
      </p>
      <div class="halves">
        <form [formGroup]="form" (ngSubmit)="save()">
          @for (field of fields; track field.key) {
            <label [for]="field.key">{{ field.label }}</label>
            <div>
              <input nz-input [id]="field.key" [formControlName]="field.key" autocomplete="off" />
              <span class="soft hint">{{ field.hint }}</span>
            </div>
          }
          <span></span>
          <div>
            <button nz-button nzType="primary" type="submit" [disabled]="form.pristine">Save</button>
            @if (saved()) {
              <span class="soft" role="status"> Saved.</span>
            }
          </div>
        </form>
        <rd-watermarks />
        <rd-house-rules />
      </div>
    </div>
  `,
  styles: `
    .lead {
      max-width: 640px;
      margin: 4px 0 22px;
    }
    .halves {
      display: grid;
      grid-template-columns: minmax(0, 640px) minmax(360px, 1fr);
      gap: 56px;
    }
    @media (max-width: 1100px) {
      .halves {
        grid-template-columns: minmax(0, 700px);
      }
    }
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
export class StudioPage {
  private readonly api = inject(Api);
  private readonly store = inject(Store);
  protected readonly fields = FIELDS;
  protected readonly saved = signal(false);
  protected readonly form = inject(NonNullableFormBuilder).group({
    ...{ creator: '', copyrightHolder: '', credit: '', terms: '', email: '', website: '', webStatement: '' },
  });

  constructor() {
    this.api.studio().subscribe({
      next: (details) => this.form.reset(details),
      error: (error: unknown) => this.tell('The studio’s details could not be loaded', error),
    });
  }

  protected save(): void {
    this.api.saveStudio(this.form.getRawValue()).subscribe({
      next: (details) => {
        this.form.reset(details);
        this.saved.set(true);
      },
      error: (error: unknown) => this.tell('The studio’s details were not saved', error),
    });
  }

  private tell(what: string, error: unknown): void {
    this.store.dispatch(callFailed({ what, sentence: sentenceOf(error) }));
  }
}
