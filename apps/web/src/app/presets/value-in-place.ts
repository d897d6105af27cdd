import {
  afterNextRender,
  ChangeDetectionStrategy,
  Component,
  computed,
  ElementRef,
  inject,
  Injector,
  input,
  output,
  signal,
  viewChild,
} from '@angular/core';
import { FormsModule } from '@angular/forms';
import { type FieldPath, type NamePart, type Preset, valueAt } from '@rundle/core';
import { NzInputModule } from 'ng-zorro-antd/input';
import { NzSelectModule } from 'ng-zorro-antd/select';
import { SelectName } from '../look/select-name';
import { editorOf, NOTHING_YET, type Offered } from './editors';
import { NamePartsEditor } from './name-parts-editor';

/** Steps that a slider of its length can still be set to one by one. */
const MOST_STEPS = 200;

/** A value inside a sentence: reads as words, and becomes its editor when it is pressed. */
@Component({
  selector: 'rd-value',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [FormsModule, NzInputModule, NzSelectModule, NamePartsEditor, SelectName],
  template: `
    @if (!open()) {
      <button
        #opener
        type="button"
        [title]="editor().help"
        [attr.aria-label]="editor().label + ': ' + text()"
        [textContent]="text()"
        (click)="press()"
      ></button>
    } @else {
      @switch (editor().kind) {
        @case ('number') {
          <span class="moving" (focusout)="leaveNumber($event, numberField.value)">
            <input
              #numberField
              nz-input
              type="number"
              class="number"
              [attr.aria-label]="name()"
              [min]="numbers().min"
              [max]="numbers().max"
              [step]="numbers().step"
              [value]="shownNumber()"
              (input)="stepped($event, numberField.value)"
              (keydown.escape)="takeBack()"
              (keydown.enter)="commitNumber(numberField.value)"
            />
            @if (slides()) {
              <input
                #slider
                type="range"
                class="slider"
                [attr.aria-label]="name() + ', to slide'"
                [min]="numbers().min"
                [max]="numbers().max"
                [step]="numbers().step"
                [value]="shownNumber()"
                (input)="move(slider.value)"
                (keydown.escape)="takeBack()"
                (keydown.enter)="commitNumber(slider.value)"
              />
            }
          </span>
        }
        @case ('choice') {
          <nz-select
            [rdName]="name()"
            [nzOpen]="true"
            [nzAutoFocus]="true"
            [nzDropdownMatchSelectWidth]="false"
            [ngModel]="chosen()"
            (ngModelChange)="commit(options()[$event]?.value)"
            (nzOpenChange)="!$event && close()"
          >
            @for (option of options(); track option.label; let index = $index) {
              <nz-option [nzValue]="index" [nzLabel]="option.label" />
            }
          </nz-select>
        }
        @case ('text') {
          <input
            #textField
            nz-input
            [attr.aria-label]="name()"
            [value]="plain()"
            (change)="commit(textField.value)"
            (keydown.enter)="textField.blur()"
            (blur)="close()"
            (keydown.escape)="close()"
          />
        }
        @case ('typed') {
          <span class="typed" (focusout)="leaveTyped($event, typedField.value)">
            <input
              #typedField
              nz-input
              autocomplete="off"
              [attr.aria-label]="name()"
              [placeholder]="typed()?.hint"
              [title]="typed()?.hint"
              [value]="typedText()"
              [nzStatus]="isUnread() ? 'error' : ''"
              (input)="isUnread.set(false)"
              (keydown.enter)="commitTyped(typedField.value)"
              (keydown.escape)="close()"
            />
            @for (option of options(); track option.label) {
              <button type="button" class="usual" [attr.aria-pressed]="isChosen(option.value)" (click)="commit(option.value)">
                {{ option.label }}
              </button>
            }
            @if (isUnread()) {
              <span class="unread" role="alert">{{ typed()?.hint }}.</span>
            }
          </span>
        }
        @case ('words') {
          <input
            #wordsField
            nz-input
            class="words"
            [attr.aria-label]="name()"
            placeholder="Commas between them; none for all"
            [value]="words()"
            (keydown.enter)="commitWords(wordsField.value)"
            (keydown.escape)="close()"
            (blur)="commitWords(wordsField.value)"
          />
        }
        @case ('name-parts') {
          <rd-name-parts [parts]="parts()" [preset]="preset()" (changed)="changed.emit($event)" (closed)="close()" />
        }
      }
    }
  `,
  styles: `
    :host {
      display: inline;
    }
    button {
      padding: 0 1px;
      font: inherit;
      font-weight: 600;
      text-align: left;
      color: var(--petrol);
      background: none;
      border: 0;
      text-decoration: underline dashed 1px;
      text-underline-offset: 4px;
      cursor: pointer;
      &:hover {
        background: var(--petrol-wash);
      }
    }
    nz-select {
      min-width: 120px;
    }
    input {
      width: 220px;
    }
    .number {
      width: 104px;
    }
    .moving {
      display: inline-flex;
      gap: 8px;
      align-items: center;
    }
    .slider {
      width: 170px;
      accent-color: var(--petrol);
    }
    .typed {
      display: inline-flex;
      flex-wrap: wrap;
      gap: 6px;
      align-items: center;
      padding: 4px 0;
      vertical-align: top;
    }
    .usual {
      min-height: 26px;
      padding: 0 9px;
      font-weight: 400;
      color: var(--ink);
      background: var(--sheet);
      border: 1px solid var(--line-strong);
      border-radius: var(--radius);
      text-decoration: none;
      &[aria-pressed='true'] {
        color: var(--petrol);
        border-color: var(--petrol);
      }
    }
    .unread {
      color: var(--brick);
      font-size: 14px;
    }
    .words {
      width: 330px;
    }
  `,
})
export class ValueInPlace {
  readonly preset = input.required<Preset>();
  readonly field = input.required<FieldPath>();
  readonly text = input.required<string>();
  readonly here = input<Offered>(NOTHING_YET);
  readonly changed = output<unknown>();

  protected readonly open = signal(false);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
  private readonly opener = viewChild<ElementRef<HTMLButtonElement>>('opener');
  private readonly injector = inject(Injector);

  protected readonly editor = computed(() => editorOf(this.field(), this.here()));
  protected readonly options = computed(() => {
    const editor = this.editor();
    return editor.kind === 'choice' || editor.kind === 'typed' ? editor.options : [];
  });
  protected readonly typed = computed(() => {
    const editor = this.editor();
    return editor.kind === 'typed' ? editor.typed : null;
  });
  /** What was typed last could not be read. */
  protected readonly isUnread = signal(false);
  protected readonly numbers = computed(() => {
    const editor = this.editor();
    return editor.kind === 'number' ? editor : { min: 0, max: 0, step: 1, scale: 1 };
  });
  private readonly value = computed(() => valueAt(this.preset(), this.field()));
  protected readonly plain = computed(() => (typeof this.value() === 'string' ? (this.value() as string) : ''));
  protected readonly words = computed(() => (Array.isArray(this.value()) ? (this.value() as string[]).join(', ') : ''));
  /** The field's own name, so that whoever does not see the sentence knows which value this is. */
  protected readonly name = computed(() => {
    const editor = this.editor();
    return editor.kind === 'number' && editor.unit ? `${editor.label}, ${editor.unit}` : editor.label;
  });
  protected readonly typedText = computed(() => this.typed()?.write(this.value()) ?? '');
  protected readonly parts = computed(() => this.value() as NamePart[]);
  protected readonly shownNumber = computed(() => Math.round(Number(this.value() ?? 0) * (this.numbers().scale ?? 1) * 1000) / 1000);
  protected readonly chosen = computed(() =>
    this.options().findIndex(({ value }) => JSON.stringify(value) === JSON.stringify(this.value())),
  );

  protected press(): void {
    const editor = this.editor();
    if (editor.kind === 'flip') {
      this.changed.emit(editor.values[0] === this.value() ? editor.values[1] : editor.values[0]);
      return;
    }
    this.before = this.value();
    this.open.set(true);
    this.isUnread.set(false);
    // Selected, so that typing replaces what stands there.
    afterNextRender(() => this.focusEditor(), { injector: this.injector });
  }

  private focusEditor(): void {
    const field = this.host.querySelector('input');
    // The fields of a name have names of their own.
    if (this.editor().kind !== 'name-parts') field?.setAttribute('aria-label', this.name());
    field?.focus();
    field?.select();
  }

  /** What stood there when the editor was opened: Esc brings it back. */
  private before: unknown = null;
  /** A value that has few steps can be slid. */
  protected readonly slides = computed(() => {
    const { min, max, step } = this.numbers();
    return (max - min) / step <= MOST_STEPS;
  });

  /** By the arrows of the field or its keys: what the output will be follows at once. What is typed is not whole until it is left. */
  protected stepped(event: Event, value: string): void {
    if (!('inputType' in event) || !event.inputType) this.move(value);
  }

  protected move(value: string): void {
    const number = Number(value);
    const { min, max, scale } = this.numbers();
    if (value !== '' && number >= min && number <= max && number !== this.shownNumber()) this.changed.emit(number / (scale ?? 1));
  }

  protected takeBack(): void {
    if (!this.open()) return;
    if (this.value() !== this.before) this.changed.emit(this.before);
    this.close();
  }

  /** Going from the field to its slider does not leave it. */
  protected leaveNumber({ relatedTarget }: FocusEvent, typed: string): void {
    if (!(relatedTarget instanceof Node && this.host.contains(relatedTarget))) this.commitNumber(typed);
  }

  protected commitNumber(typed: string): void {
    if (!this.open()) return;
    const value = Number(typed);
    if (typed !== '' && value !== this.shownNumber()) this.changed.emit(value / (this.numbers().scale ?? 1));
    this.close();
  }

  protected isChosen(value: unknown): boolean {
    return JSON.stringify(value) === JSON.stringify(this.value());
  }

  /** Keeps the field open while what stands in it cannot be read. */
  protected commitTyped(text: string): void {
    if (!this.open()) return;
    if (text.trim() === this.typedText()) {
      this.close();
      return;
    }
    const value = this.typed()?.read(text, this.value());
    this.isUnread.set(value === undefined);
    if (value !== undefined) this.commit(value);
  }

  /** The usual values belong to the field: going to them does not leave it. */
  protected leaveTyped({ relatedTarget }: FocusEvent, text: string): void {
    if (relatedTarget instanceof Node && this.host.contains(relatedTarget)) return;
    const value = this.typed()?.read(text, this.value());
    if (value === undefined || text.trim() === this.typedText()) this.close();
    else this.commit(value);
  }

  protected commitWords(typed: string): void {
    const words = typed.split(',').flatMap((word) => word.trim() || []);
    this.commit([...new Set(words)]);
  }

  protected commit(value: unknown): void {
    if (!this.open()) return;
    this.changed.emit(value);
    this.close();
  }

  /** Back to words; the focus stays on the value. */
  protected close(): void {
    if (!this.open()) return;
    this.open.set(false);
    afterNextRender(() => this.opener()?.nativeElement.focus(), { injector: this.injector });
  }
}
