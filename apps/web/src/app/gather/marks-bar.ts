import { ChangeDetectionStrategy, Component, computed, type ElementRef, input, output, viewChild } from '@angular/core';
import type { Master, MarkChange } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzIconModule } from 'ng-zorro-antd/icon';
import { NzInputModule } from 'ng-zorro-antd/input';

/** Marks of the selected pictures, by mouse: stars, pick or leave out, tags. */
@Component({
  selector: 'rd-marks-bar',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzButtonModule, NzIconModule, NzInputModule],
  template: `
    <span class="stars" role="group" aria-label="Stars">
      @for (count of counts; track count) {
        <button
          type="button"
          [class.lit]="stars() >= count"
          [attr.aria-pressed]="stars() === count"
          [attr.aria-label]="count === 1 ? '1 star' : count + ' stars'"
          [title]="'Key ' + count + (stars() === count ? '; press again for none' : '')"
          (click)="mark.emit({ kind: 'stars', stars: stars() === count ? 0 : count })"
        >
          ★
        </button>
      }
    </span>
    <button nz-button nzSize="small" [class.on]="choice() === 'pick'" title="Key +" (click)="choose('pick')">
      <nz-icon nzType="check" aria-hidden="true" />Pick
    </button>
    <button nz-button nzSize="small" [class.on]="choice() === 'out'" title="Key -" (click)="choose('out')">
      <nz-icon nzType="minus" aria-hidden="true" />Leave out
    </button>
    <input
      #field
      nz-input
      nzSize="small"
      placeholder="Tag …"
      aria-label="Tag for the selected pictures"
      title="Key T"
      maxlength="60"
      list="tags-of-set"
      (keydown.enter)="tag(field.value)"
      (keydown.escape)="done.emit()"
    />
    <datalist id="tags-of-set">
      @for (tag of tags(); track tag) {
        <option [value]="tag"></option>
      }
    </datalist>
    @for (own of shared(); track own) {
      <button
        class="tag"
        type="button"
        [attr.aria-label]="'Take the tag ' + own + ' off'"
        (click)="mark.emit({ kind: 'tag', tag: own, on: false })"
      >
        {{ own }} <nz-icon nzType="close" aria-hidden="true" />
      </button>
    }
  `,
  styles: `
    :host {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 6px;
    }
    .stars {
      display: inline-flex;
      margin-right: 4px;
      button {
        min-width: 24px;
        padding: 0 3px;
        font-size: 17px;
        line-height: 26px;
        color: var(--line-strong);
        background: none;
        border: 0;
        cursor: pointer;
        &.lit {
          color: var(--ink);
        }
        &:hover {
          color: var(--petrol);
        }
      }
    }
    .on {
      color: var(--petrol);
      border-color: var(--petrol);
      background: var(--petrol-wash);
    }
    input {
      width: 96px;
    }
    .tag {
      padding: 0 8px;
      font-size: 13px;
      line-height: 24px;
      color: var(--petrol-deep);
      background: var(--petrol-wash);
      border: 0;
      border-radius: var(--radius);
      cursor: pointer;
      nz-icon {
        font-size: 10px;
      }
    }
  `,
})
export class MarksBar {
  /** The selected pictures. */
  readonly masters = input.required<readonly Master[]>();
  /** All tags of the set, to choose from. */
  readonly tags = input.required<readonly string[]>();
  readonly mark = output<MarkChange>();
  /** Keys act on the pictures again. */
  readonly done = output();
  private readonly field = viewChild.required<ElementRef<HTMLInputElement>>('field');
  protected readonly counts = [1, 2, 3, 4, 5] as const;

  /** What all of them have in common. */
  protected readonly stars = computed(() => same(this.masters().map(({ stars }) => stars)) ?? 0);
  protected readonly choice = computed(() => same(this.masters().map(({ choice }) => choice)) ?? null);
  protected readonly shared = computed(() => {
    const [first, ...rest] = this.masters();
    return first?.tags.filter((tag) => rest.every(({ tags }) => tags.includes(tag))) ?? [];
  });

  focus(): void {
    this.field().nativeElement.focus();
  }

  protected choose(choice: 'pick' | 'out'): void {
    this.mark.emit({ kind: 'choice', choice: this.choice() === choice ? null : choice });
  }

  protected tag(text: string): void {
    const tag = text.trim();
    this.field().nativeElement.value = '';
    if (tag) this.mark.emit({ kind: 'tag', tag, on: true });
    this.done.emit();
  }
}

const same = <T>(values: readonly T[]): T | undefined => (values.every((value) => value === values[0]) ? values[0] : undefined);
