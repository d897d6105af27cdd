import { ChangeDetectionStrategy, Component, computed, input, output, signal } from '@angular/core';
import type { Forecast, Preset, SizeRung } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { counted } from '../look/figures';

/** Usual targets and what they are for (common practice, no source). */
const USUAL: readonly { label: string; use: string; size: Partial<SizeRung> }[] = [
  { label: '480', use: 'a phone', size: { fit: 'long-edge', px: 480 } },
  { label: '740', use: 'mail', size: { fit: 'long-edge', px: 740 } },
  { label: '850', use: 'a blog’s column', size: { fit: 'long-edge', px: 850 } },
  { label: '1024 × 768', use: 'a tablet', size: { fit: 'box', width: 1024, height: 768 } },
  { label: '1080 × 1080', use: 'a square feed', size: { fit: 'cover', width: 1080, height: 1080 } },
  { label: '1280', use: 'across a page', size: { fit: 'long-edge', px: 1280 } },
  { label: '1920', use: 'full HD', size: { fit: 'long-edge', px: 1920 } },
  { label: '2048', use: 'feeds, galleries', size: { fit: 'long-edge', px: 2048 } },
  { label: '4000', use: 'a proof print', size: { fit: 'long-edge', px: 4000 } },
];

/** Where will the picture stand? From that follows its size; beside it what the pictures of the set become. */
@Component({
  selector: 'rd-size-helper',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzButtonModule],
  template: `
    <div class="usual" role="group" aria-label="Usual sizes">
      @for (one of usual; track one.label) {
        <button type="button" [attr.aria-pressed]="isChosen(one.size)" (click)="take(one.size)">
          <strong>{{ one.label }}</strong> {{ one.use }}
        </button>
      }
    </div>
    <p class="stand">
      It stands in a column of
      <input
        #column
        type="number"
        min="50"
        max="8000"
        aria-label="Width of the column, px of the page"
        [value]="width()"
        (input)="width.set(+column.value)"
      />
      px, on screens of
      <select #density aria-label="Pixels of the screen to one of the page" (change)="pixels.set(+density.value)">
        @for (one of [1, 1.5, 2, 3]; track one) {
          <option [value]="one" [selected]="one === pixels()">{{ one }}</option>
        }
      </select>
      pixels to one:
    </p>
    <p class="stand">
      <button nz-button nzSize="small" [disabled]="!needed()" (click)="take({ fit: 'long-edge', px: needed() })">
        Long edge {{ needed() }}
      </button>
      fills it with landscape pictures;
      <button nz-button nzSize="small" [disabled]="!needed()" (click)="take({ fit: 'width', px: needed() })">Width {{ needed() }}</button>
      with upright ones too, which are then {{ tall() }} px high at 2:3.
    </p>
    @if (becomes(); as said) {
      <p>{{ said }}</p>
    }
    <p class="soft">The resolution tag changes neither pixels nor weight: it is a note in the file for programs that print.</p>
  `,
  styles: `
    .usual {
      display: flex;
      flex-wrap: wrap;
      gap: 4px;
      margin-bottom: 8px;
      button {
        min-height: 26px;
        padding: 1px 8px;
        font: inherit;
        font-size: 13px;
        color: var(--ink-soft);
        background: var(--sheet);
        border: 1px solid var(--line-strong);
        border-radius: var(--radius);
        cursor: pointer;
        strong {
          color: var(--ink);
        }
        &[aria-pressed='true'] {
          border-color: var(--petrol);
          background: var(--petrol-wash);
        }
      }
    }
    p {
      margin: 0 0 6px;
    }
    input,
    select {
      width: 74px;
      height: 26px;
      font: inherit;
      background: var(--sheet);
      border: 1px solid var(--line-strong);
      border-radius: var(--radius);
    }
    select {
      width: 54px;
    }
  `,
})
export class SizeHelper {
  readonly preset = input.required<Preset>();
  readonly forecast = input<Forecast | null>(null);
  readonly setTitle = input('');
  /** Values of the Size rung that are to be taken together. */
  readonly taken = output<Partial<SizeRung>>();
  protected readonly usual = USUAL;
  protected readonly width = signal(960);
  protected readonly pixels = signal(2);
  protected readonly needed = computed(() => Math.min(65_500, Math.max(0, Math.round(this.width() * this.pixels()) || 0)));
  protected readonly tall = computed(() => Math.round(this.needed() * 1.5).toLocaleString('en-GB'));
  /** "Harbour: 38 become 1920 × 1280, 7 become 1280 × 1920; 2 stay smaller." */
  protected readonly becomes = computed(() => {
    const forecast = this.forecast();
    if (!forecast || forecast.files === 0) return null;
    const first = forecast.sizes.slice(0, 3);
    const rest = forecast.files - first.reduce((sum, { pictures }) => sum + pictures, 0);
    const sizes = first.map(({ width, height, pictures }) => `${pictures} at ${width} × ${height}`);
    const smaller = forecast.smaller
      ? `; ${counted(forecast.smaller, 'picture')} ${forecast.smaller === 1 ? 'stays' : 'stay'} smaller`
      : '';
    return `${this.setTitle()}: ${[...sizes, ...(rest ? [`${rest} at other sizes`] : [])].join(', ')}${smaller}.`;
  });

  protected isChosen(size: Partial<SizeRung>): boolean {
    const own = this.preset().size;
    return own.unit === 'px' && Object.entries(size).every(([key, value]) => own[key as keyof SizeRung] === value);
  }

  protected take(size: Partial<SizeRung>): void {
    this.taken.emit({ ...size, unit: 'px' });
  }
}
