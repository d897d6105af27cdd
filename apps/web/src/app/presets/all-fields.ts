import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import type { FileField, Preset } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { of } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { counted } from '../look/figures';

/** Every field of metadata that would stand in the file of the picture at hand, and every one that would not: read from what is written for it. */
@Component({
  selector: 'rd-all-fields',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzButtonModule],
  template: `
    <button nz-button nzSize="small" [attr.aria-expanded]="isOpen()" (click)="isOpen.set(!isOpen())">Every field of the file</button>
    @if (isOpen()) {
      @if (problem(); as sentence) {
        <p class="soft" role="status">{{ sentence }}</p>
      } @else {
        @for (part of parts(); track part.title) {
          <h3>{{ part.title }}</h3>
          <dl tabindex="0" [attr.aria-label]="part.title">
            @for (row of part.fields; track row.field) {
              <dt [title]="row.field">{{ row.name }}</dt>
              <dd [title]="row.value">{{ row.value }}</dd>
            }
          </dl>
        } @empty {
          <p class="soft" role="status">The fields are being read …</p>
        }
      }
    }
  `,
  styles: `
    h3 {
      margin: 8px 0 2px;
      font-size: 14px;
    }
    dl {
      display: grid;
      grid-template-columns: minmax(0, 160px) minmax(0, 1fr);
      gap: 0 10px;
      max-height: 220px;
      margin: 0;
      overflow: auto;
      font-size: 13px;
      line-height: 19px;
    }
    dt {
      overflow: hidden;
      font-weight: 400;
      color: var(--ink-soft);
      text-overflow: ellipsis;
    }
    dd {
      margin: 0;
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
  `,
})
export class AllFields {
  readonly masterId = input.required<string>();
  readonly preset = input.required<Preset>();
  protected readonly isOpen = signal(false);
  private readonly api = inject(Api);
  /** What decides about it: the picture, the rung, and what else is written. */
  private readonly asked = computed(() => {
    const { metadata, size, colour, file } = this.preset();
    return this.isOpen() ? JSON.stringify([this.masterId(), metadata, size.ppi, colour.space, file.type]) : '';
  });
  private readonly loaded = rxResource({
    params: () => this.asked(),
    stream: ({ params }) => (params ? this.api.listFields({ masterId: this.masterId(), body: this.preset() }) : of(null)),
  });
  protected readonly problem = computed(() => {
    const error = this.loaded.error();
    return error ? sentenceOf(error) : null;
  });
  protected readonly parts = computed(() => {
    const fields = this.loaded.hasValue() ? this.loaded.value() : null;
    if (!fields) return [];
    const rows = (list: readonly FileField[]) => list.map((one) => ({ ...one, name: nameOf(one.field) }));
    return [
      { title: `${counted(fields.kept.length, 'field')} in the file`, fields: rows(fields.kept) },
      ...(fields.removed.length
        ? [{ title: `${counted(fields.removed.length, 'field')} of the master left out`, fields: rows(fields.removed) }]
        : []),
    ];
  });
}

/** "Date Time Original" of `ExifIFD:DateTimeOriginal`. */
const nameOf = (field: string): string => field.slice(field.indexOf(':') + 1).replace(/([a-z])([A-Z])/g, '$1 $2');
