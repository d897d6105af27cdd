import { ChangeDetectionStrategy, Component } from '@angular/core';

/** Lies over the whole page while files are held over it, and says what becomes of them. */
@Component({
  selector: 'rd-drop-hint',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<p><ng-content /></p>`,
  styles: `
    :host {
      position: fixed;
      inset: 0;
      z-index: 20;
      display: grid;
      place-items: center;
      background: rgb(244 243 239 / 88%);
      border: 3px dashed var(--petrol);
      font-size: 22px;
      font-weight: 600;
      pointer-events: none;
    }
  `,
})
export class DropHint {}
