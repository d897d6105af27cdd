import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { partInWords } from '@rundle/core';
import { outputUrl } from '../api/api';
import { CountedPipe, WeightPipe } from '../look/figures';
import { Remarks } from '../look/remarks';
import { RestOfRows } from '../look/rest-of-rows';
import { presetsFeature } from '../presets/presets.store';
import { handOverFeature } from './hand-over.store';

/** Rows that are made at once. */
const ROWS = 100;

/** What came out as a table: in the order of the pictures, or a part for each preset; the same columns in every part. */
@Component({
  selector: 'rd-outputs-table',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [CountedPipe, WeightPipe, Remarks, RestOfRows],
  template: `
    @for (group of groups(); track group.title) {
      @if (group.title) {
        <h2>
          {{ group.title }} <span class="soft figures">{{ group.files.length | counted: 'file' }}, {{ group.bytes | weight }}</span>
        </h2>
      }
      <table>
        <colgroup>
          <col class="file" />
          <col class="master" />
          <col class="pixels" />
          <col class="weight" span="2" />
          <col class="quality" />
          <col class="by" />
        </colgroup>
        <thead>
          <tr>
            <th scope="col">File</th>
            <th scope="col">Master</th>
            <th scope="col" class="number">Pixels</th>
            <th scope="col" class="number">Before</th>
            <th scope="col" class="number">After</th>
            <th scope="col" class="number">Quality</th>
            <th scope="col">Made by</th>
          </tr>
        </thead>
        <tbody>
          @for (file of group.files; track file.id) {
            <tr>
              <td>
                <a [href]="link(file.id)" target="_blank" rel="noopener">{{ file.folder ? file.folder + '/' : '' }}{{ file.fileName }}</a>
                <rd-remarks [findings]="file.warnings" />
              </td>
              <td class="soft">{{ file.masterName }}</td>
              <td class="number figures">{{ file.width }} × {{ file.height }}</td>
              <td class="number figures soft">{{ file.masterBytes | weight }}</td>
              <td class="number figures">{{ file.bytes | weight }}</td>
              <td class="number figures soft">{{ file.quality }}</td>
              <td class="soft">
                {{ file.presetTitle }}{{ file.part ? ', ' + inWords(file.part) : '' }}, version {{ file.presetVersion }}
                @if (versionNow(file.presetId); as now) {
                  @if (now > file.presetVersion) {
                    <span class="behind">the preset is at {{ now }}</span>
                  }
                }
              </td>
            </tr>
          }
        </tbody>
      </table>
    }
    <rd-rest-of-rows [missing]="missing()" [rowHeight]="31" (wanted)="wanted.set(wanted() + more)" />
  `,
  styleUrl: './outputs-table.less',
})
export class OutputsTable {
  readonly grouped = input.required<'picture' | 'preset'>();
  private readonly store = inject(Store);
  private readonly view = this.store.selectSignal(handOverFeature.selectView);
  private readonly presets = this.store.selectSignal(presetsFeature.selectList);
  protected readonly link = outputUrl;
  protected readonly inWords = partInWords;
  protected readonly more = ROWS;
  protected readonly wanted = signal(ROWS);
  private readonly outputs = computed(() => this.view()?.outputs ?? []);
  protected readonly missing = computed(() => Math.max(0, this.outputs().length - this.wanted()));

  protected readonly groups = computed(() => {
    const outputs = this.outputs();
    if (this.grouped() === 'picture') {
      const order = new Map([...new Set(outputs.map(({ masterId }) => masterId))].map((id, at) => [id, at]));
      const files = outputs.toSorted((a, b) => order.get(a.masterId)! - order.get(b.masterId)!);
      return [{ title: '', files: files.slice(0, this.wanted()), bytes: 0 }];
    }
    const shown = outputs.slice(0, this.wanted());
    return [...new Set(shown.map(({ presetId }) => presetId))].map((presetId) => {
      const files = shown.filter((output) => output.presetId === presetId);
      return { title: files[0]!.presetTitle, files, bytes: files.reduce((sum, { bytes }) => sum + bytes, 0) };
    });
  });

  /** The version that a preset is at; null: it is gone, or not known yet. */
  protected versionNow(presetId: string): number | null {
    return this.presets().find(({ id }) => id === presetId)?.version ?? null;
  }
}
