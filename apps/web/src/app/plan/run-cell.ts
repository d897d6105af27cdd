import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { NzIconModule } from 'ng-zorro-antd/icon';
import { outputUrl } from '../api/api';
import { WeightPipe } from '../look/figures';
import { Remarks } from '../look/remarks';
import type { Cell } from './plan.store';

/** One cell of the run sheet: what will come out, what is happening, or what came out. */
@Component({
  selector: 'rd-run-cell',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzIconModule, WeightPipe, Remarks],
  template: `
    @if (shown(); as cell) {
      <div class="cell" [attr.data-state]="cell.state">
        @if (cell.fileName) {
          <span class="name" [title]="cell.fileName">
            @if (cell.link; as link) {
              <a [href]="link" target="_blank" rel="noopener">{{ cell.fileName }}</a>
            } @else {
              {{ cell.fileName }}
            }
          </span>
        }
        <span class="line figures">
          @if (cell.width) {
            <span class="soft">{{ cell.width }} × {{ cell.height }}</span>
          }
          @switch (cell.state) {
            @case ('planned') {
              <span class="soft">about {{ cell.weight | weight }}</span>
            }
            @case ('waiting') {
              <span class="soft">waiting</span>
            }
            @case ('running') {
              <span class="now"><nz-icon nzType="loading" aria-hidden="true" /> rendering</span>
            }
            @case ('done') {
              <span class="done"
                ><nz-icon nzType="check" aria-hidden="true" /><span class="quiet">done, </span> {{ cell.weight | weight }}</span
              >
              @if (cell.quality) {
                <span class="soft">q {{ cell.quality }}</span>
              }
            }
            @case ('skipped') {
              <span class="soft">left as it is</span>
            }
            @case ('cancelled') {
              <span class="soft">cancelled</span>
            }
          }
          @if (cell.replaces) {
            <span class="soft">replaces the last one</span>
          }
        </span>
        <rd-remarks [findings]="cell.warnings" [error]="cell.error" />
      </div>
    } @else {
      <span class="soft none">not for this one</span>
    }
  `,
  styles: `
    .cell {
      min-height: 40px;
      line-height: 20px;
      font-size: 14px;
    }
    .name {
      display: block;
      overflow: hidden;
      max-width: 340px;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    .line {
      display: flex;
      flex-wrap: wrap;
      gap: 0 16px;
    }
    .now {
      color: var(--petrol);
      font-weight: 600;
    }
    .done {
      color: var(--moss);
      font-weight: 600;
    }
    .none {
      font-size: 13px;
    }
  `,
})
export class RunCell {
  readonly cell = input.required<Cell | null>();

  protected readonly shown = computed(() => {
    const cell = this.cell();
    if (!cell) return null;
    const none = { fileName: '', width: 0, height: 0, weight: 0, quality: null, warnings: [], error: null, replaces: false, link: null };
    if (cell.kind === 'output') {
      const { fileName, width, height, warnings, error, quality } = cell;
      const state = cell.state === 'planned' ? 'waiting' : cell.state;
      const link = cell.state === 'done' ? outputUrl(cell.id) : null;
      return { ...none, state, fileName, width, height, weight: cell.bytes ?? 0, quality, warnings, error, link };
    }
    switch (cell.status) {
      case 'planned': {
        const { fileName, width, height, warnings, replaces } = cell;
        return { ...none, state: 'planned', fileName, width, height, weight: cell.expectedBytes, warnings, replaces };
      }
      case 'skipped':
        return { ...none, state: 'skipped', fileName: cell.fileName };
      case 'failed':
        return { ...none, state: 'failed', error: cell.error };
    }
  });
}
