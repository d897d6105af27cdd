import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import type { Master } from '@rundle/core';
import { thumbnailUrl } from '../api/api';
import { WeightPipe } from '../look/figures';
import { Remarks } from '../look/remarks';
import { Stars } from '../look/stars';

/** One picture on the contact sheet with the facts people look at. */
@Component({
  selector: 'rd-master-card',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [WeightPipe, Remarks, Stars],
  template: `
    <button type="button" [attr.aria-pressed]="selected()" [attr.aria-label]="label()" (click)="picked.emit($event.shiftKey)">
      @switch (master().state) {
        @case ('ready') {
          <img [src]="thumbnail()" alt="" loading="lazy" decoding="async" />
        }
        @case ('arriving') {
          <span class="wait">being read</span>
        }
        @case ('failed') {
          <span class="wait">cannot be read</span>
        }
      }
    </button>
    <p class="name" [title]="master().fileName">{{ master().fileName }}</p>
    @if (master().facts; as facts) {
      <p class="facts figures">
        <span>{{ facts.width }} × {{ facts.height }}</span>
        <span>{{ master().bytes | weight }}</span>
      </p>
      <p class="facts">
        <span class="profile" [class.missing]="!facts.profile"
          >{{ facts.profile ?? 'no profile' }}{{ facts.bits > 8 ? ', ' + facts.bits + ' bits' : '' }}</span
        >
        <rd-stars [rating]="facts.rating" />
      </p>
    } @else {
      <p class="facts figures">
        <span></span><span>{{ master().bytes | weight }}</span>
      </p>
    }
    <rd-remarks [error]="master().problem" />
  `,
  styles: `
    :host {
      display: block;
    }
    button {
      display: grid;
      place-items: center;
      width: 100%;
      height: 148px;
      margin-bottom: 5px;
      padding: 7px;
      background: var(--surround);
      border: 0;
      border-radius: var(--radius);
      cursor: pointer;
      &[aria-pressed='true'] {
        outline: 3px solid var(--petrol);
        outline-offset: 0;
        background: var(--petrol-wash);
      }
    }
    img {
      max-width: 100%;
      max-height: 134px;
    }
    .wait {
      color: var(--ink-soft);
      font-size: 13px;
    }
    .name {
      overflow: hidden;
      font-weight: 600;
      font-size: 14px;
      line-height: 19px;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    .facts {
      display: flex;
      justify-content: space-between;
      gap: 8px;
      font-size: 13px;
      line-height: 18px;
      color: var(--ink-soft);
    }
    .profile {
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    .missing {
      color: var(--amber);
    }
  `,
})
export class MasterCard {
  readonly master = input.required<Master>();
  readonly selected = input(false);
  /** Emits whether a range is meant. */
  readonly picked = output<boolean>();
  protected readonly thumbnail = computed(() => thumbnailUrl(this.master().id));
  protected readonly label = computed(() => `${this.master().fileName}, ${this.selected() ? 'selected' : 'not selected'}`);
}
