import { DatePipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, effect, type ElementRef, inject, signal, viewChild } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { RouterLink } from '@angular/router';
import { CACHE_BOUND, CACHES, counted, type Freed, type Shelf, type StorageKind, type StoredOutputs, weight } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzSkeletonModule } from 'ng-zorro-antd/skeleton';
import { map, type Observable } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { CountedPipe, WeightPipe } from '../look/figures';
import { StorageChart } from './storage-chart';

const KINDS: Record<StorageKind, { name: string; what: string }> = {
  masters: { name: 'Uploaded masters', what: 'Pictures that were brought in by upload. Those that stay on the machine take no room here.' },
  outputs: { name: 'Outputs', what: 'Files that were made, in Rundle’s own folder' },
  'small-pictures': { name: 'Small pictures of masters', what: 'What contact sheets and samples begin with' },
  caches: { name: 'Caches', what: 'Small pictures of outputs, pages and messages of deliveries that are over, trips through a feed' },
  uploads: { name: 'Uploads under way', what: 'What has not come whole; after a week it goes by itself' },
  bin: { name: 'Bin', what: 'Uploaded masters that no set has any more; after 30 days they are gone' },
  database: { name: 'Database', what: 'Sets, presets, records' },
};

/** What room is to be made of. */
type Asked = { about: 'caches' } | { about: 'bin' } | { about: 'outputs'; row: StoredOutputs };

/** How long a worker is given to take files away until it is measured again, ms. */
const TAKEN_AWAY_MS = 1500;

/** What uses space, and how room is made. */
@Component({
  selector: 'rd-storage-page',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [DatePipe, RouterLink, NzButtonModule, NzSkeletonModule, CountedPipe, WeightPipe, StorageChart],
  templateUrl: './storage-page.html',
  styleUrl: './storage-page.less',
})
export class StoragePage {
  private readonly api = inject(Api);
  private readonly measured = rxResource({ stream: () => this.api.getStorage() });
  protected readonly loading = this.measured.isLoading;
  protected readonly view = computed(() => (this.measured.hasValue() ? this.measured.value() : null));
  private readonly failed = signal<string | null>(null);
  protected readonly trouble = computed(() => {
    const error = this.measured.error();
    return this.failed() ?? (error ? `It could not be measured: ${sentenceOf(error.cause ?? error)}` : null);
  });
  protected readonly said = signal('');
  protected readonly busy = signal(false);
  protected readonly asked = signal<Asked | null>(null);
  protected readonly withElsewhere = signal(false);
  protected readonly boundFault = signal<string | null>(null);
  private readonly box = viewChild<ElementRef<HTMLElement>>('box');

  protected readonly kinds = computed(() =>
    (this.view()?.kinds ?? []).map((row) => ({ ...row, ...KINDS[row.kind] })).sort((a, b) => b.bytes - a.bytes),
  );
  protected readonly bars = computed(() => this.kinds().map(({ name, bytes }) => ({ name, bytes })));
  protected readonly used = computed(() => this.kinds().reduce((sum, { bytes }) => sum + bytes, 0));

  /** What is asked before anything goes. */
  protected readonly question = computed(() => {
    const [asked, view] = [this.asked(), this.view()];
    if (!asked || !view) return null;
    const kind = (name: StorageKind) => view.kinds.find((one) => one.kind === name) ?? { files: 0, bytes: 0 };
    switch (asked.about) {
      case 'caches': {
        const { files, bytes } = kind('caches');
        return {
          sentence: `Empty the caches: ${counted(files, 'file')}, ${weight(bytes)}? All of it is made anew when it is wanted.`,
          act: 'Empty the caches',
          bytes,
          elsewhere: null,
        };
      }
      case 'bin': {
        const { sets, pictures } = view.bin;
        const bytes = kind('bin').bytes + view.bin.bytes;
        return {
          sentence: `Empty the bin: ${counted(sets, 'set')} and ${counted(pictures, 'picture')} that were removed from sets are gone for good, with the files that Rundle alone has of them. This cannot be undone. Files of the machine and outputs stay where they are.`,
          act: 'Delete for good',
          bytes,
          elsewhere: null,
        };
      }
      case 'outputs':
        return this.outputsQuestion(asked.row);
    }
  });

  constructor() {
    effect(() => this.box()?.nativeElement.focus());
  }

  protected measure(): void {
    this.measured.reload();
  }

  protected act(): void {
    const asked = this.asked();
    if (!asked) return;
    this.busy.set(true);
    this.failed.set(null);
    this.callFor(asked).subscribe({
      next: (words) => this.done(words),
      error: (error: unknown) => {
        this.busy.set(false);
        this.failed.set(sentenceOf(error));
      },
    });
  }

  protected bound(typed: string): void {
    const boundMB = Number(typed);
    if (!Number.isInteger(boundMB) || boundMB < CACHE_BOUND.least || boundMB > CACHE_BOUND.most)
      return this.boundFault.set(`A whole number from ${CACHE_BOUND.least} to ${CACHE_BOUND.most}.`);
    this.boundFault.set(null);
    this.api.boundCaches({ body: { boundMB } }).subscribe({
      next: () => this.done(`Caches keep within ${boundMB} MB.`),
      error: (error: unknown) => this.boundFault.set(sentenceOf(error)),
    });
  }

  protected versionWords(versions: readonly number[]): string {
    return `version ${versions.join(', ')}`;
  }

  protected shelfWords(shelf: Shelf): string {
    return { work: '', archive: ', in the archive', bin: ', in the bin' }[shelf];
  }

  private outputsQuestion(row: StoredOutputs) {
    const inside = { files: row.files - row.elsewhere.files, bytes: row.bytes - row.elsewhere.bytes };
    const all = this.withElsewhere() || inside.files === 0 ? row : inside;
    const where = row.folders.join(', ');
    return {
      sentence: `Remove ${counted(all.files, 'file')}, ${weight(all.bytes)}, that ${row.presetTitle} made for “${row.setTitle}”? They can be made again, by ${this.versionWords(row.versions)}. What somebody has changed stays.`,
      act: `Remove ${counted(all.files, 'file')}`,
      bytes: inside.bytes,
      elsewhere:
        inside.files && row.elsewhere.files ? `also ${counted(row.elsewhere.files, 'file')} outside Rundle’s own folder: ${where}` : null,
    };
  }

  private callFor(asked: Asked): Observable<string> {
    switch (asked.about) {
      case 'caches':
        return this.api.emptyCaches({ body: { caches: [...CACHES] } }).pipe(map((freed) => `${inWords(freed)} removed.`));
      case 'bin':
        return this.api
          .emptyBin({ body: { measuredAt: this.view()!.measuredAt } })
          .pipe(map((freed) => `Deleted; ${weight(freed.bytes)} are free again.`));
      case 'outputs': {
        const { setId, presetId, files, elsewhere } = asked.row;
        const body = { setId, presetId, elsewhere: this.withElsewhere() || files === elsewhere.files };
        return this.api.removeOutputs({ body }).pipe(map((freed) => `${inWords(freed)} are being taken away.`));
      }
    }
  }

  private done(words: string): void {
    this.busy.set(false);
    this.asked.set(null);
    this.withElsewhere.set(false);
    this.said.set(words);
    setTimeout(() => this.measure(), TAKEN_AWAY_MS);
  }
}

const inWords = ({ files, bytes }: Freed): string => `${counted(files, 'file')}, ${weight(bytes)},`;
