import { Directive, output, signal } from '@angular/core';

/** Takes files and folders that are dropped anywhere on its element. */
@Directive({
  host: { '(dragover)': 'over($event)', '(dragleave)': 'left($event)', '(drop)': 'drop($event)' },
})
export class FileDrop {
  /** What was dropped: to be read at once, it is empty after the first wait. */
  readonly dropped = output<DataTransferItemList>();
  private readonly isHeldOver = signal(false);
  /** Whether files are held over the element. */
  readonly isOver = this.isHeldOver.asReadonly();

  protected over(event: DragEvent): void {
    if (!event.dataTransfer?.types.includes('Files')) return;
    event.preventDefault();
    this.isHeldOver.set(true);
  }

  protected left(event: DragEvent): void {
    if (!event.relatedTarget) this.isHeldOver.set(false);
  }

  protected drop(event: DragEvent): void {
    if (!event.dataTransfer?.types.includes('Files')) return;
    event.preventDefault();
    this.isHeldOver.set(false);
    this.dropped.emit(event.dataTransfer.items);
  }
}
