import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { differenceInWords, isOneFile, presetAndPart } from '@rundle/core';
import { of, switchMap, timer } from 'rxjs';
import { Api } from '../api/api';
import { decidedIn } from '../api/sample';
import { type FileAsked, fileKey } from '../look/asked';
import { weight } from '../look/figures';

/** How long nothing has to change before a whole file is made for its figures, ms. */
const REST = 400;

/** What the file that is looked at weighs, and what is seen of what was lost in it: of the whole picture, not of the part that is shown. */
@Component({
  selector: 'rd-side-figures',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<span class="figures">{{ words() }}</span>`,
  styles: `
    .figures {
      padding-left: 12px;
      color: var(--ink-soft);
    }
  `,
})
export class SideFigures {
  /** Null: it is no file, but the master. */
  readonly file = input.required<FileAsked | null>();
  private readonly api = inject(Api);
  private readonly key = computed(() => {
    const file = this.file();
    return file && isOneFile(file.preset) ? fileKey(file) : '';
  });
  private readonly measured = rxResource({
    params: () => this.key(),
    stream: ({ params: key }) => {
      const file = this.file();
      if (!key || !file) return of(null);
      const body = { ...presetAndPart(file.preset), ...decidedIn(file.decided), judged: true };
      return timer(REST).pipe(switchMap(() => this.api.measureOutput({ masterId: file.masterId, body })));
    },
  });
  protected readonly words = computed(() => {
    if (!this.key()) return '';
    if (this.measured.error()) return 'its weight could not be worked out';
    const made = this.measured.hasValue() ? this.measured.value() : null;
    if (!made) return '…';
    return `${weight(made.bytes)}${made.judgement ? `, ${differenceInWords(made.judgement.difference)}` : ''}`;
  });
}
