import { afterRenderEffect, Directive, ElementRef, inject, input } from '@angular/core';

/** Gives a list to choose from its name: the component's own field has no label by itself, and takes none from outside. */
@Directive({ selector: 'nz-select[rdName]' })
export class SelectName {
  readonly rdName = input.required<string>();

  constructor() {
    const host = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
    afterRenderEffect(() => host.querySelector('input')?.setAttribute('aria-label', this.rdName()));
  }
}
