import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import { joinPath, STALE_WORDS } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { outputUrl } from '../api/api';
import { weight, WeightPipe } from '../look/figures';
import { Remarks } from '../look/remarks';
import type { Cell } from './cells';

/** Below the run sheet: all that there is to say about the cell that has the focus. */
@Component({
  selector: 'rd-cell-details',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzButtonModule, WeightPipe, Remarks],
  host: { 'aria-live': 'polite' },
  template: `
    @if (cell(); as cell) {
      <p class="figures">
        <strong>{{ path() || master() }}</strong>
        @if (cell.width) {
          <span class="soft">{{ cell.width }} × {{ cell.height }} px</span>
        }
        @if (cell.state === 'made') {
          <span>{{ cell.bytes | weight }}</span>
          @if (cell.quality) {
            <span class="soft">quality {{ cell.quality }}</span>
          }
        }
        @if (cell.state === 'planned') {
          <span class="soft">about {{ cell.bytes | weight }}</span>
        }
        @if (replaced(); as words) {
          <span>{{ words }}</span>
        }
        <span class="space"></span>
        @if (link(); as link) {
          <a [href]="link" target="_blank" rel="noopener">Open the file</a>
        }
        @if (cell.tried && !busy()) {
          <button nz-button nzSize="small" (click)="retried.emit()">Try again</button>
        }
      </p>
      @if (stale(); as why) {
        <p class="stale">Out of date: {{ why }}.</p>
      }
      @if (cell.from) {
        <p class="soft">Until the run it is called {{ cell.from }}.</p>
      }
      @if (cell.reason) {
        <p class="soft">{{ cell.reason }}</p>
      }
      @if (cell.files.length) {
        <ul class="figures">
          @for (file of cell.files; track file.part) {
            <li>
              {{ file.fileName || file.error?.message || file.reason }}
              @if (file.width) {
                <span class="soft"
                  >{{ file.width }} × {{ file.height }} px, {{ file.state === 'made' ? '' : 'about ' }}{{ file.bytes | weight }}</span
                >
              }
            </li>
          }
        </ul>
      }
      <rd-remarks [findings]="cell.remarks" [error]="cell.error" />
    }
  `,
  styles: `
    :host {
      display: block;
      min-height: 52px;
      max-height: 96px;
      padding: 6px 0;
      overflow-y: auto;
      font-size: 14px;
    }
    p.figures {
      display: flex;
      flex-wrap: wrap;
      gap: 2px 16px;
      align-items: baseline;
    }
    ul {
      display: flex;
      flex-wrap: wrap;
      gap: 2px 18px;
      margin: 0;
      padding: 0;
      list-style: none;
    }
    strong {
      font-weight: 600;
      overflow-wrap: anywhere;
    }
    .space {
      flex: 1;
    }
    .stale {
      color: var(--amber);
    }
  `,
})
export class CellDetails {
  readonly cell = input.required<Cell | null>();
  /** File name of its master. */
  readonly master = input.required<string>();
  /** Whether a run is under way. */
  readonly busy = input.required<boolean>();
  readonly retried = output();

  protected readonly path = computed(() => {
    const cell = this.cell();
    if (!cell?.fileName) return '';
    const inTarget = joinPath(cell.folder, cell.fileName);
    return cell.target.startsWith('/') ? `${cell.target}/${inTarget}` : inTarget;
  });
  protected readonly link = computed(() => {
    const id = this.cell()?.outputId ?? this.cell()?.made?.outputId;
    return id ? outputUrl(id) : null;
  });
  protected readonly stale = computed(() => {
    const stale = this.cell()?.stale;
    return stale ? STALE_WORDS[stale] : null;
  });
  protected readonly replaced = computed(() => {
    const cell = this.cell();
    if (cell?.state !== 'planned' || !cell.replaces) return null;
    return cell.made
      ? `replaces the one of ${weight(cell.made.bytes)}, version ${cell.made.presetVersion}`
      : 'replaces the one that is there';
  });
}
