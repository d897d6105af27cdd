import { ChangeDetectionStrategy, Component, input, output, signal } from '@angular/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { MachineFolderChoice } from './machine-folder';

/** Beside a field for a folder of the machine that files go to: a button that opens the chooser. */
@Component({
  selector: 'rd-choose-folder',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzButtonModule, MachineFolderChoice],
  template: `
    <button nz-button nzSize="small" type="button" [attr.aria-expanded]="isOpen()" (click)="isOpen.set(!isOpen())">Choose …</button>
    @if (isOpen()) {
      <rd-machine-folder action="Use this folder" [hint]="hint()" use="writing" (chosen)="take($event.path)" (closed)="isOpen.set(false)" />
    }
  `,
  styles: `
    :host {
      display: contents;
    }
    rd-machine-folder {
      flex-basis: 100%;
    }
  `,
})
export class ChooseFolder {
  /** What the folder is for. */
  readonly hint = input.required<string>();
  /** Its path. */
  readonly chosen = output<string>();
  protected readonly isOpen = signal(false);

  protected take(path: string): void {
    this.isOpen.set(false);
    this.chosen.emit(path);
  }
}
