import { ChangeDetectionStrategy, Component, input, linkedSignal, output } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { type NamePart, NamePart as NamePartSchema, partLabel } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzIconModule } from 'ng-zorro-antd/icon';
import { NzInputModule } from 'ng-zorro-antd/input';

const KINDS: readonly { label: string; make: NamePart }[] = [
  { label: 'Original name', make: { part: 'original' } },
  { label: 'Text', make: { part: 'text', text: '-' } },
  { label: 'Counter', make: { part: 'counter', start: 1, step: 1, digits: 3 } },
  { label: 'Capture date', make: { part: 'date', pattern: 'yyyy-MM-dd' } },
  { label: 'Set', make: { part: 'set' } },
  { label: 'Preset', make: { part: 'preset' } },
  { label: 'Long edge', make: { part: 'long-edge' } },
  { label: 'Width', make: { part: 'width' } },
  { label: 'Height', make: { part: 'height' } },
  { label: 'Creator', make: { part: 'creator' } },
];

/** The parts of a name in their order: taken out, added, and filled in. */
@Component({
  selector: 'rd-name-parts',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [FormsModule, NzButtonModule, NzIconModule, NzInputModule],
  template: `
    <div class="parts" tabindex="-1" (keydown.escape)="closed.emit()">
      @for (part of draft(); track $index; let index = $index) {
        <span class="part">
          @switch (part.part) {
            @case ('text') {
              <input nz-input aria-label="Text" [value]="part.text" (change)="replace(index, { part: 'text', text: valueOf($event) })" />
            }
            @case ('date') {
              <input
                nz-input
                aria-label="Date pattern"
                [value]="part.pattern"
                (change)="replace(index, { part: 'date', pattern: valueOf($event) })"
              />
            }
            @case ('counter') {
              counter from
              <input
                class="short"
                nz-input
                type="number"
                min="0"
                aria-label="First number"
                [value]="part.start"
                (change)="replace(index, { part: 'counter', step: part.step, digits: part.digits, start: numberOf($event) })"
              />
              digits
              <input
                class="short"
                nz-input
                type="number"
                min="1"
                max="9"
                aria-label="Digits"
                [value]="part.digits"
                (change)="replace(index, { part: 'counter', step: part.step, start: part.start, digits: numberOf($event) })"
              />
            }
            @default {
              {{ label(part) }}
            }
          }
          <button nz-button nzType="text" nzSize="small" type="button" [attr.aria-label]="'Remove ' + label(part)" (click)="takeOut(index)">
            <nz-icon nzType="close" aria-hidden="true" />
          </button>
        </span>
      }
      <label class="quiet" for="add-part">Add a part</label>
      <select id="add-part" [value]="''" (change)="add($event)">
        <option value="">Add ...</option>
        @for (kind of kinds; track kind.label; let index = $index) {
          <option [value]="index">{{ kind.label }}</option>
        }
      </select>
      <button nz-button type="button" (click)="closed.emit()">Done</button>
    </div>
  `,
  styles: `
    .parts {
      display: inline-flex;
      flex-wrap: wrap;
      gap: 6px;
      align-items: center;
      padding: 8px;
      background: var(--petrol-wash);
      border-radius: var(--radius);
    }
    .part {
      display: inline-flex;
      align-items: center;
      gap: 6px;
      height: 34px;
      padding-left: 10px;
      background: var(--sheet);
      border: 1px solid var(--line-strong);
      border-radius: var(--radius);
    }
    input {
      width: 116px;
      height: 26px;
    }
    .short {
      width: 62px;
    }
    select {
      height: 32px;
      font: inherit;
      background: var(--sheet);
      border: 1px solid var(--line-strong);
      border-radius: var(--radius);
    }
  `,
})
export class NamePartsEditor {
  readonly parts = input.required<NamePart[]>();
  readonly changed = output<NamePart[]>();
  readonly closed = output();
  protected readonly kinds = KINDS;
  protected readonly label = partLabel;
  protected readonly draft = linkedSignal(() => this.parts());

  protected valueOf(event: Event): string {
    return (event.target as HTMLInputElement).value;
  }

  protected numberOf(event: Event): number {
    return Number(this.valueOf(event));
  }

  protected replace(index: number, part: NamePart): void {
    this.set(this.draft().map((other, at) => (at === index ? part : other)));
  }

  protected takeOut(index: number): void {
    this.set(this.draft().filter((_, at) => at !== index));
  }

  protected add(event: Event): void {
    const field = event.target as HTMLSelectElement;
    const kind = field.value === '' ? undefined : KINDS[Number(field.value)];
    if (kind) this.set([...this.draft(), NamePartSchema.parse(kind.make)]);
    field.value = '';
  }

  private set(parts: NamePart[]): void {
    this.draft.set(parts);
    this.changed.emit(parts);
  }
}
