import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { RouterLink } from '@angular/router';
import { addressOf, compareRecords, partInWords, recordAsTable, recordAsText, runCounts, runStatus, variedInWords } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { of, switchMap } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { duration, weight, WeightPipe } from '../look/figures';

/** Rows of a record that are made at once; the rest is counted, and is in the files. */
const MOST_ROWS = 400;

/** The record of a run: what was made of what, by which versions and values, and what came out; and how another run differs. */
@Component({
  selector: 'rd-run-page',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [RouterLink, NzButtonModule, WeightPipe],
  templateUrl: './run-page.html',
  styleUrl: './run-page.less',
})
export class RunPage {
  readonly runId = input.required<string>();
  private readonly api = inject(Api);
  private readonly loaded = rxResource({
    params: () => ({ runId: this.runId() }),
    stream: ({ params }) => this.api.getRunRecord(params),
  });
  private readonly others = rxResource({
    params: () => ({ runId: this.runId() }),
    stream: ({ params }) => this.api.getRun(params).pipe(switchMap(({ setId }) => this.api.listRuns({ setId }))),
  });
  protected readonly record = computed(() => (this.loaded.hasValue() ? this.loaded.value() : null));
  protected readonly problem = computed(() => {
    const error = this.loaded.error();
    return error ? sentenceOf(error.cause ?? error) : null;
  });
  private readonly run = computed(() => (this.others.hasValue() ? this.others.value() : []).find(({ id }) => id === this.runId()) ?? null);
  protected readonly setId = computed(() => this.run()?.setId ?? null);

  protected readonly inWords = partInWords;
  protected readonly rows = computed(() => this.record()?.outputs.slice(0, MOST_ROWS) ?? []);
  protected readonly hidden = computed(() => (this.record()?.outputs.length ?? 0) - this.rows().length);
  protected readonly sentence = computed(() => {
    const record = this.record();
    if (!record) return '';
    const counts = runCounts(record.outputs.map((output) => ({ ...output, masterId: output.master })));
    return runStatus({ state: record.state, stopping: false, counts }).words;
  });
  protected readonly about = computed(() => {
    const record = this.record();
    if (!record) return '';
    const { startedAt, finishedAt, place, houseRules, creator, outputs } = record;
    const bytes = outputs.reduce((sum, output) => sum + (output.bytes ?? 0), 0);
    const seconds = finishedAt ? (Date.parse(finishedAt) - Date.parse(startedAt)) / 1000 : 0;
    const went = place.kind === 'own' ? 'into Rundle’s own folder' : place.kind === 'folder' ? `to ${place.path}` : 'beside the masters';
    const parts = [
      dateOf(startedAt),
      finishedAt ? `took ${duration(seconds)}` : '',
      bytes ? weight(bytes) : '',
      went,
      houseRules ? `by the rules of ${houseRules}` : '',
      creator ? `credit filled in: ${creator}` : '',
    ];
    return parts.filter(Boolean).join('; ');
  });
  protected readonly presets = computed(() =>
    (this.record()?.presets ?? []).map(({ title, version, once }) => {
      const said = once ? [...variedInWords(once), ...(once.folder ? [`folder ${once.folder}`] : [])] : [];
      return `${title}, version ${version}${said.length ? `, this once ${said.join(', ')}` : ''}`;
    }),
  );

  protected readonly csv = computed(() => addressOf('getRunTable', { runId: this.runId() }));
  protected readonly json = computed(() => addressOf('getRunRecord', { runId: this.runId() }));
  protected readonly copied = signal('');

  /** Other runs of the set, to be compared with. */
  protected readonly comparable = computed(() =>
    (this.others.hasValue() ? this.others.value() : [])
      .filter(({ id }) => id !== this.runId())
      .map((run) => ({ id: run.id, words: `${dateOf(run.startedAt)}: ${runStatus(run).words}` })),
  );
  protected readonly otherId = signal<string>('');
  private readonly other = rxResource({
    params: () => ({ runId: this.otherId() }),
    stream: ({ params }) => (params.runId ? this.api.getRunRecord(params) : of(null)),
  });
  protected readonly differences = computed(() => {
    const record = this.record();
    const other = this.other.hasValue() ? this.other.value() : null;
    if (!record || !other) return null;
    const [before, after] = other.startedAt < record.startedAt ? [other, record] : [record, other];
    return compareRecords(before, after).map((difference) => ({
      ...difference,
      words: difference.what.map((what) => WHAT[what]).join(', '),
    }));
  });

  protected async copy(as: 'text' | 'table'): Promise<void> {
    const record = this.record();
    if (!record) return;
    const text = as === 'text' ? recordAsText(record) : recordAsTable(record);
    await navigator.clipboard.writeText(text).then(
      () => this.copied.set(as === 'text' ? 'Copied as text.' : 'Copied as a table: paste it into a spreadsheet.'),
      () => this.copied.set('The browser does not let this page copy. Save it as CSV instead.'),
    );
  }
}

const WHAT = {
  'only-before': 'only in the earlier one',
  'only-after': 'only in the later one',
  state: 'what came of it',
  size: 'pixel size',
  weight: 'weight',
  quality: 'quality',
  file: 'name or folder',
  version: 'version of the preset',
} as const;

const dateOf = (at: string): string => new Date(at).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' });
