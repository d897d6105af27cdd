import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import type { FieldPath, Piece, Preset } from '@rundle/core';
import type { Offered } from './editors';
import { ValueInPlace } from './value-in-place';

/** The sentence of a rung, whose values are edited where they stand. */
@Component({
  selector: 'rd-value-sentence',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [ValueInPlace],
  template: `
    @for (piece of pieces(); track $index) {
      @if (piece.kind === 'value') {
        <rd-value
          [preset]="preset()"
          [field]="piece.field"
          [text]="piece.text"
          [here]="here()"
          (changed)="changed.emit({ field: piece.field, value: $event })"
        />
      } @else {
        <span>{{ piece.text }}</span>
      }
    }
  `,
  styles: `
    :host {
      display: contents;
    }
    span {
      white-space: pre-wrap;
    }
  `,
})
export class ValueSentence {
  readonly preset = input.required<Preset>();
  readonly pieces = input.required<readonly Piece[]>();
  readonly here = input.required<Offered>();
  readonly changed = output<{ field: FieldPath; value: unknown }>();
}
