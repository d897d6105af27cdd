import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { cutName } from './cut-name';

/** A file name in one line that gives way at its start: names of a set differ in their number, at the end. */
@Component({
  selector: 'rd-file-name',
  changeDetection: ChangeDetectionStrategy.OnPush,
  host: { '[title]': 'name()' },
  template: `<span class="start">{{ parts().start }}</span
    ><span>{{ parts().end }}</span>`,
  styles: `
    :host {
      display: inline-flex;
      min-width: 0;
      max-width: 100%;
      white-space: pre;
    }
    .start {
      overflow: hidden;
      text-overflow: ellipsis;
    }
  `,
})
export class FileName {
  readonly name = input.required<string>();
  protected readonly parts = computed(() => cutName(this.name()));
}
