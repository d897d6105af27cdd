import { DatePipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { changesBetween, type Preset, type PresetVersion } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { Api } from '../api/api';
import { Differences } from '../library/differences';

/** All versions of a preset with what each has changed, in words; any of them can be compared and brought back. */
@Component({
  selector: 'rd-versions',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [DatePipe, NzButtonModule, Differences],
  template: `
    <h2>Versions</h2>
    <p class="soft">Each output names the version that made it. A version that is brought back becomes the next one.</p>
    <ol>
      @for (row of rows(); track row.version) {
        <li>
          <label>
            <input type="checkbox" [checked]="compared().includes(row.version)" (change)="compare(row.version)" />
            <strong>Version {{ row.version }}</strong>
          </label>
          <span class="soft figures">{{ row.madeAt ? (row.madeAt | date: 'd MMM y, HH:mm') : 'date not kept' }}</span>
          <span class="changes">
            @for (change of row.changes; track change.path) {
              <span>{{ change.label }}: {{ change.from || '(empty)' }} → {{ change.to || '(empty)' }}</span>
            } @empty {
              <span class="soft">{{ row.isFirst ? 'The first one.' : 'Nothing changed.' }}</span>
            }
          </span>
          @if (row.version !== version()) {
            <button nz-button nzSize="small" (click)="restored.emit(row.preset)">Bring back</button>
          } @else {
            <span class="soft">in use</span>
          }
        </li>
      }
    </ol>
    @if (pair(); as two) {
      <rd-differences
        [before]="two[0].preset"
        [after]="two[1].preset"
        [from]="'Version ' + two[0].version"
        [to]="'Version ' + two[1].version"
      />
    } @else if (rows().length > 1) {
      <p class="soft">Tick two versions to see what differs between them.</p>
    }
  `,
  styles: `
    :host {
      display: block;
      padding: 12px 18px 14px;
      margin-bottom: 18px;
      background: var(--sheet);
      border: 1px solid var(--line);
    }
    ol {
      max-height: 300px;
      margin: 8px 0;
      padding: 0;
      overflow: auto;
      list-style: none;
    }
    li {
      display: grid;
      grid-template-columns: 120px 150px minmax(0, 1fr) auto;
      gap: 18px;
      align-items: baseline;
      padding: 6px 0;
      border-top: 1px solid var(--line);
    }
    label {
      display: flex;
      gap: 8px;
      align-items: baseline;
    }
    .changes {
      display: flex;
      flex-wrap: wrap;
      gap: 2px 18px;
    }
  `,
})
export class Versions {
  readonly presetId = input.required<string>();
  /** The one in use; a new one has the list loaded again. */
  readonly version = input.required<number>();
  readonly restored = output<Preset>();
  private readonly api = inject(Api);
  private readonly loaded = rxResource({
    params: () => ({ presetId: this.presetId(), version: this.version() }),
    stream: ({ params: { presetId } }) => this.api.listPresetVersions({ presetId }),
  });
  protected readonly rows = computed(() => {
    const versions = this.loaded.hasValue() ? this.loaded.value() : [];
    return versions.map((one, at) => {
      const before = versions[at + 1];
      return { ...one, isFirst: !before, changes: before ? changesBetween(before.preset, one.preset) : [] };
    });
  });
  /** At most two, the one ticked last among them. */
  protected readonly compared = signal<readonly number[]>([]);
  protected readonly pair = computed((): [PresetVersion, PresetVersion] | null => {
    const [a, b] = [...this.compared()]
      .sort((one, other) => one - other)
      .map((version) => this.rows().find((row) => row.version === version));
    return a && b ? [a, b] : null;
  });

  protected compare(version: number): void {
    this.compared.update((before) => (before.includes(version) ? before.filter((one) => one !== version) : [...before.slice(-1), version]));
  }
}
