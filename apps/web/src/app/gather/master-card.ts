import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import type { Master } from '@rundle/core';
import { NzIconModule } from 'ng-zorro-antd/icon';
import { thumbnailUrl } from '../api/api';
import { ProfileNamePipe, WeightPipe } from '../look/figures';
import { Stars } from '../look/stars';

/** Height of everything on a card but its thumbnail, in px (edge of the picture, gap, name, three lines): cards of a row are of one height, whatever they say. */
export const CARD_TEXT = 14 + 5 + 19 + 3 * 18;

/** One picture on the contact sheet with the facts people look at. */
@Component({
  selector: 'rd-master-card',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzIconModule, ProfileNamePipe, WeightPipe, Stars],
  host: { '[class.out]': "master().choice === 'out'" },
  template: `
    <div class="picture" [class.selected]="selected()" [style.height.px]="height() + 14">
      @switch (master().state) {
        @case ('ready') {
          <img [src]="thumbnail()" alt="" loading="lazy" decoding="async" draggable="false" [style.max-height.px]="height()" />
        }
        @case ('arriving') {
          <span class="wait">being read</span>
        }
        @case ('failed') {
          <span class="wait failed" [title]="master().problem?.message"
            ><nz-icon nzType="exclamation-circle" aria-hidden="true" /> {{ master().problem?.message }}</span
          >
        }
      }
      @if (master().choice === 'pick') {
        <span class="choice pick"><nz-icon nzType="check" aria-hidden="true" /> picked</span>
      } @else if (master().choice === 'out') {
        <span class="choice"><nz-icon nzType="minus" aria-hidden="true" /> left out</span>
      }
    </div>
    <p class="name" [title]="master().fileName">{{ master().fileName }}</p>
    <p class="facts figures">
      @if (master().facts; as facts) {
        <span>{{ facts.width }} × {{ facts.height }}</span>
      } @else {
        <span></span>
      }
      <span>{{ master().bytes | weight }}</span>
    </p>
    <p class="facts">
      @if (master().facts; as facts) {
        <span class="profile" [class.missing]="!facts.profile" [title]="facts.profile ?? ''"
          >{{ facts.profile | profileName }}{{ facts.bits > 8 ? ', ' + facts.bits + ' bits' : '' }}</span
        >
      }
    </p>
    <p class="facts marks">
      <span class="tags">{{ tags() }}</span>
      <rd-stars [rating]="master().stars" />
    </p>
  `,
  styles: `
    :host {
      display: block;
      min-width: 0;
    }
    .picture {
      position: relative;
      display: grid;
      place-items: center;
      margin-bottom: 5px;
      padding: 7px;
      background: var(--surround);
      border-radius: var(--radius);
      &.selected {
        outline: 3px solid var(--petrol);
        outline-offset: -3px;
        background: var(--surround-chosen);
      }
    }
    img {
      max-width: 100%;
    }
    :host(.out) img {
      opacity: 0.35;
    }
    .wait {
      color: var(--on-surround);
      font-size: 13px;
      line-height: 1.3;
      padding: 0 4px;
      &.failed {
        display: -webkit-box;
        overflow: hidden;
        -webkit-line-clamp: 5;
        -webkit-box-orient: vertical;
        padding: 4px 6px;
        color: var(--brick);
        background: var(--sheet);
      }
    }
    .choice {
      position: absolute;
      left: 0;
      bottom: 0;
      padding: 1px 7px;
      font-size: 12px;
      font-weight: 600;
      color: var(--ink);
      background: var(--sheet);
      border-radius: 0 var(--radius) 0 var(--radius);
      &.pick {
        color: var(--moss);
      }
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
      height: 18px;
      font-size: 13px;
      line-height: 18px;
      color: var(--ink-soft);
    }
    .profile,
    .tags {
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    .tags {
      color: var(--petrol);
    }
    .missing {
      color: var(--amber);
    }
  `,
})
export class MasterCard {
  readonly master = input.required<Master>();
  readonly selected = input(false);
  /** Height of the thumbnail in px. */
  readonly height = input.required<number>();
  protected readonly thumbnail = computed(() => thumbnailUrl(this.master()));
  protected readonly tags = computed(() => this.master().tags.join(', '));
}
