import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';

/** A rating of 0 to 5 as stars; nothing for none. */
@Component({
  selector: 'rd-stars',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `@if (rating()) {
    <span role="img" [attr.aria-label]="rating() + ' of 5 stars'">{{ stars() }}</span>
  }`,
  styles: `
    span {
      color: var(--ink-soft);
      letter-spacing: 0.06em;
      font-size: 11px;
    }
  `,
})
export class Stars {
  readonly rating = input.required<number | null>();
  protected readonly stars = computed(() => '★'.repeat(this.rating() ?? 0));
}
