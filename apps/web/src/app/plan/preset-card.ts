import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import { WeightPipe } from '../look/figures';
import type { FirstPicture } from './first-pictures';

/** What a preset makes of the first picture of a set, and the preset in a sentence. */
@Component({
  selector: 'rd-preset-card',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [WeightPipe],
  template: `
    <span class="place">
      @if (picture(); as shown) {
        @if (shown.url; as url) {
          <img [src]="url" [alt]="shown.fileName + ' as “' + title() + '”'" />
        } @else {
          <span [class.problem]="shown.problem">{{ shown.problem ?? 'not for the first picture' }}</span>
        }
      } @else {
        <span class="soft" role="status">being made …</span>
      }
    </span>
    <span class="words">
      <strong>{{ title() }}</strong>
      <span class="soft figures">
        @if (picture()?.facts; as facts) {
          {{ facts.output.width }} × {{ facts.output.height }}
          @if (facts.bytes !== null) {
            <b>{{ facts.bytes | weight }}</b>
          }
        } @else if (!picture()) {
          …
        }
      </span>
    </span>
    <span class="soft sentence">{{ sentence() }}</span>
  `,
  styleUrl: './preset-card.less',
})
export class PresetCard {
  readonly title = input.required<string>();
  readonly sentence = input.required<string>();
  readonly picture = input.required<FirstPicture | undefined>();
}
