import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { STALE_WORDS } from '@rundle/core';
import { outputThumbnailUrl } from '../api/api';
import { cutName } from '../look/cut-name';
import { WeightPipe } from '../look/figures';
import type { Cell } from './cells';

/** One cell of the run sheet, in one quiet line; all that there is to say about it is told where it has the focus. */
@Component({
  selector: 'rd-run-cell',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [WeightPipe],
  template: `
    @if (cell(); as cell) {
      @if (pictured() && cell.outputId; as id) {
        <span class="picture"><img [src]="thumbnail(id)" alt="" decoding="async" /></span>
      }
      <span class="line figures" [attr.data-state]="cell.state" [class.old]="cell.stale">
        @if (name(); as name) {
          <span class="name" [title]="cell.fileName"
            ><span class="start">{{ name.start }}</span
            ><span>{{ name.end }}</span></span
          >
        }
        @switch (cell.state) {
          @case ('failed') {
            <span class="failed"><span class="sign" aria-hidden="true"></span> {{ some() }}cannot be made</span>
            <span class="why" [title]="cell.error?.message ?? ''">{{ cell.error?.message }}</span>
          }
          @case ('not-for') {
            <span class="why" [title]="cell.reason">{{ some() }}{{ cell.reason }}</span>
          }
          @case ('left') {
            <span class="why" [title]="cell.reason">{{ some() }}left as {{ some() ? 'they are' : 'it is' }}: {{ cell.reason }}</span>
          }
          @case ('cancelled') {
            <span class="soft">{{ some() }}cancelled</span>
          }
          @default {
            <span class="size">{{ files() || cell.width + ' × ' + cell.height }}</span>
            @if (looks()) {
              <span class="sign look" aria-hidden="true"></span><span class="quiet">, look here</span>
            }
            @switch (cell.state) {
              @case ('running') {
                <span class="weight now"><span class="sign" aria-hidden="true"></span> rendering</span>
              }
              @case ('waiting') {
                <span class="weight soft">waiting</span>
              }
              @case ('made') {
                <span class="weight made"
                  ><span class="sign" aria-hidden="true"></span><span class="quiet">, done, </span> {{ cell.bytes | weight }}</span
                >
              }
              @case ('planned') {
                @if (stale(); as why) {
                  <span class="stale" [title]="why"
                    ><span class="sign" aria-hidden="true"></span><span class="quiet">, out of date: {{ why }}</span></span
                  >
                }
                <span class="weight">about {{ cell.bytes | weight }}</span>
              }
            }
          }
        }
      </span>
    }
  `,
  styleUrl: './run-cell.less',
})
export class RunCell {
  readonly cell = input.required<Cell | null>();
  /** Whether what came out is shown. */
  readonly pictured = input(false);
  protected readonly thumbnail = outputThumbnailUrl;
  /** What the file is called, or will be; null: it is none, or several. */
  protected readonly name = computed(() => {
    const cell = this.cell();
    return cell?.fileName && cell.state !== 'left' ? cutName(cell.fileName) : null;
  });
  protected readonly looks = computed(() => this.cell()?.remarks.some(({ severity }) => severity === 'look') ?? false);
  /** How many files it tells of, where it is several. */
  protected readonly files = computed(() => {
    const cell = this.cell();
    if (!cell?.files.length) return '';
    const told = cell.files.filter(({ state }) => state === cell.state).length;
    return told === cell.files.length ? `${told} files` : `${told} of ${cell.files.length} files`;
  });
  protected readonly some = computed(() => (this.files() ? `${this.files()} ` : ''));
  protected readonly stale = computed(() => {
    const stale = this.cell()?.stale;
    return stale ? STALE_WORDS[stale] : null;
  });
}
