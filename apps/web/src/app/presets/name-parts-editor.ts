import { type CdkDragDrop, DragDropModule, moveItemInArray } from '@angular/cdk/drag-drop';
import { ChangeDetectionStrategy, Component, computed, input, linkedSignal, output } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { type NamePart, NamePart as NamePartSchema, partLabel, type Preset } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzIconModule } from 'ng-zorro-antd/icon';
import { NzInputModule } from 'ng-zorro-antd/input';

const KINDS: readonly { label: string; make: NamePart }[] = [
  { label: 'Original name', make: { part: 'original' } },
  { label: 'Text', make: { part: 'text', text: '_' } },
  { label: 'Counter', make: { part: 'counter', start: 1, step: 1, digits: 3 } },
  { label: 'Capture date', make: { part: 'date', pattern: 'yyyy-MM-dd' } },
  { label: 'Set', make: { part: 'set' } },
  { label: 'Preset', make: { part: 'preset' } },
  { label: 'Long edge', make: { part: 'long-edge' } },
  { label: 'Width', make: { part: 'width' } },
  { label: 'Height', make: { part: 'height' } },
  { label: 'Creator', make: { part: 'creator' } },
];

/** Those that say something only where a preset makes several files of a picture. */
const OF_SIZES = { label: 'Size', make: { part: 'size' } } as const;
const OF_PANELS = [
  { label: 'Row', make: { part: 'row' } },
  { label: 'Column', make: { part: 'column' } },
] as const;

/** The parts of a name in their order: dragged, added, taken out, and typed into. Under it stand examples, made anew with every change. */
@Component({
  selector: 'rd-name-parts',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [DragDropModule, FormsModule, NzButtonModule, NzIconModule, NzInputModule],
  template: `
    <div class="builder" tabindex="-1" (keydown.escape)="closed.emit()">
      <div class="parts" cdkDropList cdkDropListOrientation="mixed" (cdkDropListDropped)="dropped($event)">
        @for (part of draft(); track $index; let index = $index) {
          <span class="part" cdkDrag>
            <button
              type="button"
              class="grip"
              cdkDragHandle
              [attr.aria-label]="'Move ' + label(part) + ': arrow keys'"
              title="Drag it to its place; or arrow keys"
              (keydown.arrowleft)="moveBy($event, index, -1)"
              (keydown.arrowright)="moveBy($event, index, 1)"
            >
              <svg viewBox="0 0 6 12" aria-hidden="true"><path d="M1.5 1v10M4.5 1v10" /></svg>
            </button>
            @switch (part.part) {
              @case ('text') {
                <input
                  nz-input
                  aria-label="Text"
                  maxlength="120"
                  [value]="part.text"
                  (input)="replace(index, { part: 'text', text: valueOf($event) })"
                />
              }
              @case ('date') {
                <input
                  nz-input
                  aria-label="Date pattern"
                  title="yyyy the year, MM the month, dd the day, HHmm the time"
                  [value]="part.pattern"
                  (change)="replace(index, { part: 'date', pattern: valueOf($event) })"
                />
              }
              @case ('counter') {
                from
                <input
                  class="short"
                  nz-input
                  type="number"
                  min="0"
                  aria-label="First number"
                  [value]="part.start"
                  (change)="replace(index, { part: 'counter', step: part.step, digits: part.digits, start: numberOf($event) })"
                />
                in steps of
                <input
                  class="short"
                  nz-input
                  type="number"
                  min="1"
                  aria-label="Step"
                  [value]="part.step"
                  (change)="replace(index, { part: 'counter', step: numberOf($event), digits: part.digits, start: part.start })"
                />
                with
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
                digits
              }
              @default {
                {{ label(part) }}
              }
            }
            <button
              nz-button
              nzType="text"
              nzSize="small"
              type="button"
              [attr.aria-label]="'Remove ' + label(part)"
              (click)="takeOut(index)"
            >
              <nz-icon nzType="close" aria-hidden="true" />
            </button>
          </span>
        }
      </div>
      <div class="offered" role="group" aria-label="Add a part">
        @for (kind of kinds(); track kind.label) {
          <button type="button" [attr.aria-label]="'Add ' + kind.label" (click)="add(kind.make)">+ {{ kind.label }}</button>
        }
        <button nz-button nzSize="small" type="button" (click)="closed.emit()">Done</button>
      </div>
    </div>
  `,
  styles: `
    .builder {
      display: block;
      padding: 8px;
      background: var(--petrol-wash);
      border-radius: var(--radius);
    }
    .parts,
    .offered {
      display: flex;
      flex-wrap: wrap;
      gap: 6px;
      align-items: center;
    }
    .parts {
      min-height: 36px;
      margin-bottom: 8px;
    }
    .part {
      display: inline-flex;
      align-items: center;
      gap: 6px;
      min-height: 34px;
      background: var(--sheet);
      border: 1px solid var(--line-strong);
      border-radius: var(--radius);
    }
    .cdk-drag-placeholder {
      opacity: 0.35;
    }
    .grip {
      display: grid;
      place-items: center;
      width: 16px;
      height: 32px;
      padding: 0;
      background: none;
      border: 0;
      cursor: grab;
      svg {
        width: 6px;
        height: 12px;
        stroke: var(--ink-soft);
      }
    }
    input {
      width: 116px;
      height: 26px;
    }
    .short {
      width: 58px;
    }
    .offered button:not([nz-button]) {
      padding: 0 8px;
      font: inherit;
      font-size: 13px;
      line-height: 24px;
      background: none;
      border: 1px dashed var(--petrol);
      border-radius: var(--radius);
      color: var(--petrol);
      cursor: pointer;
    }
  `,
})
export class NamePartsEditor {
  readonly parts = input.required<NamePart[]>();
  readonly changed = output<NamePart[]>();
  readonly closed = output();
  readonly preset = input.required<Preset>();
  protected readonly kinds = computed(() => {
    const { size, panels } = this.preset();
    return [...KINDS, ...(size.sizes.length ? [OF_SIZES] : []), ...(panels ? OF_PANELS : [])];
  });
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

  protected add(make: NamePart): void {
    this.set([...this.draft(), NamePartSchema.parse(make)]);
  }

  protected dropped({ previousIndex, currentIndex }: CdkDragDrop<unknown>): void {
    const parts = [...this.draft()];
    moveItemInArray(parts, previousIndex, currentIndex);
    this.set(parts);
  }

  protected moveBy(event: Event, index: number, by: 1 | -1): void {
    event.preventDefault();
    const parts = [...this.draft()];
    if (!parts[index + by]) return;
    moveItemInArray(parts, index, index + by);
    this.set(parts);
    const builder = (event.currentTarget as HTMLElement).closest('.builder');
    setTimeout(() => builder?.querySelectorAll<HTMLElement>('.grip')[index + by]?.focus());
  }

  private set(parts: NamePart[]): void {
    this.draft.set(parts);
    this.changed.emit(parts);
  }
}
